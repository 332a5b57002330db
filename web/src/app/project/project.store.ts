import { DestroyRef, inject, Injectable } from '@angular/core';
import type {
  ChangeSkeleton,
  ChangeTake,
  CharacterJson,
  ItemKind,
  PairingJson,
  RackJson,
  SkeletonJson,
  SolveChoices,
  TakeJson,
  TransferJson,
  Uploaded,
  UploadJson,
} from '@hollow-stride/contract';
import {
  DEFAULT_DECISIONS,
  DEFAULT_PAIRING,
  DEFAULT_SKELETON,
  asFault,
  parseScheme,
  SCHEME_FORMAT,
  type NamingScheme,
} from '@hollow-stride/core';
import { BehaviorSubject, combineLatest, distinctUntilChanged, finalize, map, type Observable, tap } from 'rxjs';
import { ApiError, ApiService } from '../api/api.service';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import type { BodySource, PairRequest, TakeSource } from '../solver/messages';
import { Saver } from './saver';

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

export const DEFAULT_CHOICES: SolveChoices = { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS };

const EMPTY: RackJson = { takes: [], characters: [], transfers: [], pairings: [], skeletons: [], schemes: [] };
const REMEMBERED = 'hollow-stride.selection';

/** What is on the rack and what of it is chosen; the one store over which each station has its own. */
@Injectable({ providedIn: 'root' })
export class ProjectStore {
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly history = inject(HistoryService);
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

  private readonly saver = new Saver((error) => this.fail(error));

  constructor() {
    inject(DestroyRef).onDestroy(() => this.saver.stop());
  }

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
  bringIn(all: readonly File[]): void {
    const isText = (file: File): boolean => /\.json$/i.test(file.name);
    for (const file of all.filter(isText)) void this.bringText(file);
    const files = all.filter((file) => !isText(file));
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

  /** A naming scheme that was dropped; a recipe is Match's to apply. */
  private async bringText(file: File): Promise<void> {
    const text = await file.text();
    try {
      if (text.includes(SCHEME_FORMAT)) this.addScheme(parseScheme(text, file.name));
      else
        this.notices.fault({
          code: 'option',
          message: 'neither a take, a character nor a naming scheme; a recipe is brought in on Match',
          where: { file: file.name },
        });
    } catch (error) {
      this.notices.fault(asFault(error, file.name));
    }
  }

  private arrived(result: UploadJson): void {
    const good = result.files.filter((file) => !file.error);
    const refused = result.files.filter((file) => file.error);
    this.patch({ refused: [...refused, ...this.state.refused].slice(0, 12) });
    for (const file of refused) if (file.error) this.notices.fault({ ...file.error, code: 'option' });
    if (result.ignored.length > 0) {
      const names = result.ignored.slice(0, 4).join(', ');
      this.notices.done(
        `passed over as no take and no character: ${names}${result.ignored.length > 4 ? ` and ${result.ignored.length - 4} more` : ''}`,
      );
    }
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

  /** A file that came from the motion depot. */
  fetched(file: Uploaded): void {
    this.arrived({ files: [file], ignored: [] });
  }

  dismissRefused(): void {
    this.patch({ refused: [] });
  }

  rename(kind: ItemKind, id: string, name: string): void {
    const { takes, characters, transfers } = this.state.rack;
    const before = [...takes, ...characters, ...transfers].find((item) => item.id === id)?.name ?? '';
    const to = name.trim();
    if (before === to || to === '') return;
    const set = (value: string): void => {
      this.api.change(kind, id, { name: value }).subscribe({ next: () => this.load(), error: (error: unknown) => this.fail(error) });
    };
    set(to);
    this.history.did({ text: `rename ${before} to ${to}`, undo: () => set(before), redo: () => set(to) });
  }

  remove(kind: ItemKind, id: string, name: string): void {
    const put = (removed: boolean): void => {
      this.api.change(kind, id, { removed }).subscribe({
        next: () => {
          this.load();
          if (removed) this.notices.done(`${name} taken off the rack`, () => this.history.undo());
        },
        error: (error: unknown) => this.fail(error),
      });
    };
    put(true);
    this.history.did({ text: `take ${name} off the rack`, undo: () => put(false), redo: () => put(true) });
  }

  /** Changes a take's settings, tags or note. @param key steps with the same key that follow at once are one */
  changeTake(id: string, change: ChangeTake, text: string, key?: string): void {
    const take = this.state.rack.takes.find((t) => t.id === id);
    if (!take) return;
    const before: ChangeTake = { tags: take.tags, note: take.note, choices: take.choices };
    this.decide(text, key && `${key} ${id}`, change, pick(before, change), (value) => {
      this.patchRack({ takes: this.state.rack.takes.map((t) => (t.id === id ? { ...t, ...value } : t)) });
      this.saver.save(`take ${id}`, value, (whole) => this.api.changeTake(id, whole));
    });
  }

  /** Changes what is decided about a skeleton: for every take and character that stands on it. */
  changeSkeleton(id: string, wanted: ChangeSkeleton, text: string, key?: string): void {
    const skeleton = this.state.rack.skeletons.find((k) => k.id === id);
    if (!skeleton) return;
    const change = remeasured(skeleton, wanted);
    const before: ChangeSkeleton = { name: skeleton.name, choices: skeleton.choices, rests: skeleton.rests };
    this.decide(text, key && `${key} ${id}`, change, pick(before, change), (value) => {
      this.patchRack({ skeletons: this.state.rack.skeletons.map((k) => (k.id === id ? { ...k, ...value } : k)) });
      this.saver.save(`skeleton ${id}`, value, (whole) => this.api.changeSkeleton(id, whole));
    });
  }

  /** Changes a pairing's choices or name; one that is not there yet is made. */
  changePairing(performer: string, character: string, change: { choices?: SolveChoices; name?: string }, text: string, key?: string): void {
    const found = this.pairing(performer, character);
    const before = { choices: found?.choices ?? DEFAULT_CHOICES, name: found?.name };
    this.decide(text, key && `${key} ${performer} ${character}`, change, pick(before, change), (value) => {
      const { rack } = this.state;
      const now = this.pairing(performer, character);
      const whole: PairingJson = {
        id: now?.id ?? crypto.randomUUID(),
        name: value.name ?? now?.name ?? `to ${rack.characters.find((c) => c.id === character)?.name ?? 'character'}`,
        performer,
        character,
        choices: value.choices ?? now?.choices ?? DEFAULT_CHOICES,
        changedAt: new Date().toISOString(),
      };
      this.patchRack({ pairings: [whole, ...rack.pairings.filter((p) => p !== now)] });
      this.saver.save(`pairing ${performer} ${character}`, { name: whole.name, choices: whole.choices }, ({ name, choices }) =>
        this.api.savePairing({ performer, character, choices: choices!, name }),
      );
    });
  }

  addScheme(scheme: NamingScheme): void {
    this.api.addScheme(scheme).subscribe({
      next: (saved) => {
        this.patchRack({ schemes: [...this.state.rack.schemes, saved] });
        this.notices.done(`naming scheme "${scheme.name}" kept`);
        const put = (removed: boolean): void => {
          this.api
            .change('schemes', saved.id, { removed })
            .subscribe({ next: () => this.load(), error: (error: unknown) => this.fail(error) });
        };
        this.history.did({ text: `keep naming scheme ${scheme.name}`, undo: () => put(true), redo: () => put(false) });
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  skeleton(id: string | undefined): SkeletonJson | undefined {
    return this.state.rack.skeletons.find((k) => k.id === id);
  }

  pairing(performer: string, character: string): PairingJson | undefined {
    return this.state.rack.pairings.find((p) => p.performer === performer && p.character === character);
  }

  private decide<T>(text: string, key: string | undefined, change: T, before: T, set: (value: T) => void): void {
    if (JSON.stringify(change) === JSON.stringify(before)) return;
    set(change);
    this.history.did({ text, key, undo: () => set(before), redo: () => set(change) });
  }

  private patchRack(change: Partial<RackJson>): void {
    this.patch({ rack: { ...this.state.rack, ...change } });
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
    return this.pairing(take.skeleton, character.id)?.choices ?? DEFAULT_CHOICES;
  }

  /** What is decided about the skeleton that a take or character stands on. */
  decided({ skeleton }: { skeleton: string }): SkeletonJson['choices'] {
    return this.skeleton(skeleton)?.choices ?? DEFAULT_SKELETON;
  }

  takeSource(take: TakeJson): TakeSource {
    return { ...this.bodySource(take, take.clip), choices: take.choices };
  }

  characterSource(character: CharacterJson): BodySource {
    return this.bodySource(character, 0);
  }

  private bodySource(of: { file: string; fileName: string; skeleton: string }, clip: number): BodySource {
    const reference = this.skeleton(of.skeleton)?.reference ?? null;
    return { file: of.file, name: of.fileName, clip, skeleton: this.decided(of), reference };
  }

  /** All that a solve of a pair depends on. */
  pairRequest(take: TakeJson, character: CharacterJson, choices = this.choicesFor(take, character)): PairRequest {
    return { take: this.takeSource(take), character: this.characterSource(character), choices, plants: [] };
  }

  saveTransfer(request: Parameters<ApiService['saveTransfer']>[0]): void {
    this.api
      .saveTransfer(request)
      .pipe(tap((saved) => this.keepTransfer(saved)))
      .subscribe({ error: (error: unknown) => this.fail(error) });
  }

  private keepTransfer(saved: TransferJson): void {
    const { rack } = this.state;
    this.patchRack({ transfers: [saved, ...rack.transfers.filter((t) => t.id !== saved.id)] });
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
      distinctUntilChanged(),
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

/** A measure that came with a recipe holds for the labels, unit, up axis and rest pose that it was made by, and no others. */
function remeasured({ choices }: SkeletonJson, change: ChangeSkeleton): ChangeSkeleton {
  const next = change.choices;
  if (!next?.reference || next.reference !== choices.reference) return change;
  const by = ({ labels, unit, up, rest, facing }: SkeletonJson['choices']): string => JSON.stringify([labels, unit, up, rest, facing]);
  return by(next) === by(choices) ? change : { ...change, choices: { ...next, reference: null } };
}

/** The values that something had before, of the parts that a change has. */
function pick<T extends object>(before: T, change: T): T {
  return Object.fromEntries(Object.keys(change).map((key) => [key, before[key as keyof T]])) as T;
}
