import { inject, Injectable } from '@angular/core';
import type { CharacterJson, ItemKind, RackJson, SolveChoices, TakeJson, TransferJson, UploadJson } from '@hollow-stride/contract';
import { BehaviorSubject, combineLatest, distinctUntilChanged, finalize, map, type Observable, tap } from 'rxjs';
import { ApiError, ApiService } from '../api/api.service';
import { NoticesService } from '../notices/notices.service';

export interface Selection {
  readonly take: string | undefined;
  readonly character: string | undefined;
}

export interface Upload {
  readonly names: readonly string[];
  readonly sent: number;
}

/** A file that could not be used, kept in sight until it is dismissed. */
export type Refused = Pick<UploadJson['files'][number], 'fileName' | 'error'>;

export interface ProjectState {
  readonly loaded: boolean;
  readonly rack: RackJson;
  readonly selection: Selection;
  readonly upload: Upload | undefined;
  readonly refused: readonly Refused[];
}

export const DEFAULT_CHOICES: SolveChoices = {
  stride: 'legs',
  lift: 'hips',
  clavicles: 'keep',
  head: 'keep',
  floor: 'take',
  inPlace: false,
  fps: null,
};

const EMPTY: RackJson = { takes: [], characters: [], transfers: [], pairings: [] };
const REMEMBERED = 'hollow-stride.selection';

/** What is on the rack and what of it is chosen; the one store over which each station has its own. */
@Injectable({ providedIn: 'root' })
export class ProjectStore {
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly subject = new BehaviorSubject<ProjectState>({
    loaded: false,
    rack: EMPTY,
    selection: remembered(),
    upload: undefined,
    refused: [],
  });

  readonly state$ = this.subject.asObservable();
  readonly rack$ = this.select((state) => state.rack);
  readonly selection$ = this.select((state) => state.selection);
  readonly take$: Observable<TakeJson | undefined> = this.chosen(
    (rack) => rack.takes,
    (s) => s.take,
  );
  readonly character$: Observable<CharacterJson | undefined> = this.chosen(
    (rack) => rack.characters,
    (s) => s.character,
  );

  get state(): ProjectState {
    return this.subject.value;
  }

  /** Reads the rack from the server; chooses the first take and character when none is chosen. */
  load(): void {
    this.api.rack().subscribe({
      next: (rack) => {
        const { take, character } = this.state.selection;
        const has = (list: readonly { id: string }[], id: string | undefined) => (list.some((item) => item.id === id) ? id : list[0]?.id);
        this.patch({ loaded: true, rack, selection: { take: has(rack.takes, take), character: has(rack.characters, character) } });
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  choose(selection: Partial<Selection>): void {
    this.patch({ selection: { ...this.state.selection, ...selection } });
    localStorage.setItem(REMEMBERED, JSON.stringify(this.state.selection));
  }

  /** Brings files in and chooses what they hold. */
  bringIn(files: readonly File[]): void {
    if (files.length === 0) return;
    const names = files.map((file) => file.name);
    this.patch({ upload: { names, sent: 0 } });
    this.api
      .upload(files)
      .pipe(finalize(() => this.patch({ upload: undefined })))
      .subscribe({
        next: ({ sent, result }) => {
          this.patch({ upload: { names, sent } });
          if (result) this.arrived(result);
        },
        error: (error: unknown) => this.fail(error),
      });
  }

  private arrived(result: UploadJson): void {
    const good = result.files.filter((file) => !file.error);
    const refused = result.files.filter((file) => file.error);
    this.patch({ refused: [...refused, ...this.state.refused].slice(0, 12) });
    for (const file of refused) if (file.error) this.notices.fault({ ...file.error, code: 'option' });
    if (good.length === 0) return;
    const take = good.flatMap((file) => file.takes)[0]?.id;
    const character = good.flatMap((file) => file.characters)[0]?.id;
    this.choose({ ...(take ? { take } : {}), ...(character ? { character } : {}) });
    const known = good.filter((file) => file.known).map((file) => file.fileName);
    this.notices.done(
      known.length > 0
        ? `${known.join(', ')}: the same content was on the rack already`
        : `${good.map((file) => file.fileName).join(', ')} brought in`,
    );
    this.load();
  }

  dismissRefused(): void {
    this.patch({ refused: [] });
  }

  rename(kind: ItemKind, id: string, name: string): void {
    const before = [...this.state.rack.takes, ...this.state.rack.characters, ...this.state.rack.transfers].find(
      (item) => item.id === id,
    )?.name;
    if (before === name || name.trim() === '') return;
    this.api.change(kind, id, { name: name.trim() }).subscribe({
      next: () => {
        this.load();
        this.notices.done(`renamed to ${name.trim()}`, before === undefined ? undefined : () => this.rename(kind, id, before));
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  remove(kind: ItemKind, id: string, name: string): void {
    const put = (removed: boolean): void => {
      this.api.change(kind, id, { removed }).subscribe({
        next: () => {
          this.load();
          if (removed) this.notices.done(`${name} taken off the rack`, () => put(false));
        },
        error: (error: unknown) => this.fail(error),
      });
    };
    put(true);
  }

  /** Makes a character of the skeleton that a take was recorded on. */
  performerAsCharacter(take: TakeJson): void {
    this.api.performerAsCharacter(take.id).subscribe({
      next: (character) => {
        this.choose({ character: character.id });
        this.notices.done(`${character.name} is on the rack as a character`);
        this.load();
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  /** The settings last used for a take's skeleton and a character. */
  choicesFor(take: TakeJson, character: CharacterJson): SolveChoices {
    return this.state.rack.pairings.find((p) => p.takeFile === take.file && p.character === character.id)?.choices ?? DEFAULT_CHOICES;
  }

  saveTransfer(request: Parameters<ApiService['saveTransfer']>[0]): void {
    this.api
      .saveTransfer(request)
      .pipe(tap((saved) => this.keepTransfer(saved)))
      .subscribe({ error: (error: unknown) => this.fail(error) });
  }

  private keepTransfer(saved: TransferJson): void {
    const { rack } = this.state;
    const pairing = {
      id: saved.pairing,
      name: saved.name,
      takeFile: rack.takes.find((t) => t.id === saved.take)?.file ?? '',
      character: saved.character,
      choices: saved.choices,
      changedAt: saved.changedAt,
    };
    this.patch({
      rack: {
        ...rack,
        transfers: [saved, ...rack.transfers.filter((t) => t.id !== saved.id)],
        pairings: [pairing, ...rack.pairings.filter((p) => p.id !== saved.pairing)],
      },
    });
  }

  private fail(error: unknown): void {
    this.notices.fault(error instanceof ApiError ? error.fault : { code: 'option', message: String(error), where: {} });
  }

  private patch(change: Partial<ProjectState>): void {
    this.subject.next({ ...this.state, ...change });
  }

  private select<T>(of: (state: ProjectState) => T): Observable<T> {
    return this.subject.pipe(map(of), distinctUntilChanged());
  }

  private chosen<T extends { id: string; name: string }>(
    list: (rack: RackJson) => readonly T[],
    id: (s: Selection) => string | undefined,
  ): Observable<T | undefined> {
    return combineLatest([this.rack$, this.selection$]).pipe(
      map(([rack, selection]) => list(rack).find((item) => item.id === id(selection))),
      distinctUntilChanged((a, b) => a?.id === b?.id && a?.name === b?.name),
    );
  }
}

function remembered(): Selection {
  try {
    const value = JSON.parse(localStorage.getItem(REMEMBERED) ?? '{}') as Partial<Selection>;
    return { take: value.take, character: value.character };
  } catch {
    return { take: undefined, character: undefined };
  }
}
