import { DestroyRef, inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import {
  ALL_TAKES,
  type RecordingJson,
  type CharacterJson,
  type LimitsJson,
  type ReelJson,
  type MeshJson,
  type PairingJson,
  type ProductionLimits,
  type RackJson,
  type SkeletonJson,
  type SolveChoices,
  type TakeJson,
  type TakesPage,
  type TransferJson,
} from '@hollow-stride/contract';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON } from '@hollow-stride/core';
import {
  BehaviorSubject,
  catchError,
  combineLatest,
  debounceTime,
  distinctUntilChanged,
  filter,
  first,
  forkJoin,
  map,
  type Observable,
  of,
  switchMap,
  tap,
} from 'rxjs';
import { type Unreadable } from '../api/answers';
import { ApiService, CLIENT } from '../api/api.service';
import { NoticesService } from '../notices/notices.service';
import type { BodySource, PairRequest, TakeSource } from '../solver/messages';
import type { Row } from './row-saver';
import { RowsService } from './rows.service';
import { rememberedSelection, rememberSelection, type Selection } from './selection';

/** The rack as the page holds it: all but its takes, and of those the ones that were listed or chosen so far. */
export type Rack = Omit<RackJson, 'limits'> & { readonly takes: readonly TakeJson[]; readonly limits: ProductionLimits };

export interface ProjectState {
  readonly loaded: boolean;
  readonly rack: Rack;
  readonly selection: Selection;
  /** First page of the list of all takes; a new one each time that the rack is read. */
  readonly page: TakesPage;
  readonly unreadable: readonly Unreadable[];
}

export const DEFAULT_CHOICES: SolveChoices = { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS, touchUps: [], layers: [] };

const EMPTY: Rack = {
  takes: [],
  characters: [],
  transfers: [],
  pairings: [],
  skeletons: [],
  schemes: [],
  versions: [],
  sets: [],
  presets: [],
  poses: [],
  jointSchemes: [],
  recordings: [],
  meshes: [],
  nameTables: [],
  reels: [],
  limits: {},
};
const NO_PAGE: TakesPage = { takes: [], groups: [], total: 0, all: 0, tags: [] };

/** The rack and the selection on it; each station's store builds on this one. */
@Injectable({ providedIn: 'root' })
export class ProjectStore {
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly rows = inject(RowsService);
  private readonly destroyed = inject(DestroyRef);
  private readonly subject = new BehaviorSubject<ProjectState>({
    loaded: false,
    rack: EMPTY,
    selection: rememberedSelection(),
    page: NO_PAGE,
    unreadable: [],
  });

  /** Takes that were asked for and are not on the rack, as it was last read. */
  private readonly absent = new Set<string>();

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

  constructor() {
    this.rows.put$.pipe(takeUntilDestroyed()).subscribe(({ key, row }) => this.putRow(key, row));
  }

  /** Follows what others change, for as long as the page is open. */
  listen(): void {
    this.api.events$
      .pipe(
        tap((event) => {
          if (!('by' in event) || event.by === CLIENT) return;
          if (event.kind === 'take' || event.kind === 'skeleton' || event.kind === 'reel' || event.kind === 'mesh')
            this.rows.heard(`${event.kind} ${event.row.id}`, event.row);
          if (event.kind === 'pairing') this.rows.heard(`pairing ${event.row.performer} ${event.row.character}`, event.row);
          if (event.kind === 'transfer') this.keepTransfer(event.row);
          if (event.kind === 'limits') this.rows.heard('limits', event.row);
        }),
        filter((event) => (event.kind === 'rack' || event.kind === 'character') && event.by !== CLIENT),
        debounceTime(300),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe(() => this.load());
  }

  get state(): ProjectState {
    return this.subject.value;
  }

  /** Reads the rack from the server; chooses the first take and character when none is chosen. */
  load(): void {
    this.absent.clear();
    forkJoin([this.api.rack(), this.api.takes(ALL_TAKES, 0)])
      .pipe(
        switchMap(([rack, page]) => {
          const { take } = this.state.selection;
          const listed = page.items.takes.some(({ id }) => id === take);
          // The chosen take may stand on a later page, or be off the rack.
          const chosen = take === undefined || listed ? of(undefined) : this.api.take(take).pipe(catchError(() => of(undefined)));
          return chosen.pipe(map((found) => ({ rack, page, found })));
        }),
      )
      .subscribe({
        next: ({ rack, page, found }) => {
          const { take, character } = this.state.selection;
          const takes = (found ? [...page.items.takes, found] : page.items.takes).map((take) => this.rows.met(`take ${take.id}`, take));
          const { limits } = this.rows.met('limits', rack.items.limits);
          const has = (list: readonly { id: string }[], id: string | undefined) => (list.some((item) => item.id === id) ? id : list[0]?.id);
          this.patch({
            loaded: true,
            rack: {
              ...rack.items,
              takes,
              limits,
              skeletons: rack.items.skeletons.map((one) => this.rows.met(`skeleton ${one.id}`, one)),
              meshes: rack.items.meshes.map((one) => this.rows.met(`mesh ${one.id}`, one)),
              pairings: this.pairingsOf(rack.items.pairings),
            },
            page: page.items,
            unreadable: [...rack.unreadable, ...page.unreadable],
            selection: { take: has(takes, take), character: has(rack.items.characters, character) },
          });
        },
        error: (error: unknown) => this.notices.failed(error),
      });
  }

  /** Pairings as they were read, and those of this page that the server has not heard of yet. */
  private pairingsOf(read: readonly PairingJson[]): PairingJson[] {
    const keyOf = ({ performer, character }: PairingJson): string => `pairing ${performer} ${character}`;
    const keys = new Set(read.map(keyOf));
    const own = this.state.rack.pairings.filter((one) => !keys.has(keyOf(one)) && this.rows.isWaiting(keyOf(one)));
    return [...own, ...read.map((one) => this.rows.met(keyOf(one), one))];
  }

  /** Takes that a list has brought. */
  learn(takes: readonly TakeJson[], unreadable: readonly Unreadable[] = []): void {
    const met = takes.map((take) => this.rows.met(`take ${take.id}`, take));
    const fresh = new Set(met.map(({ id }) => id));
    this.patchRack({ takes: [...this.state.rack.takes.filter(({ id }) => !fresh.has(id)), ...met] });
    if (unreadable.length === 0) return;
    const others = this.state.unreadable.filter((one) => !unreadable.some(({ id }) => id === one.id));
    this.patch({ unreadable: [...others, ...unreadable] });
  }

  /** Changes what the page cannot show; it is taken off its list. */
  forget(id: string): void {
    this.patch({ unreadable: this.state.unreadable.filter((one) => one.id !== id) });
  }

  /** Does something with the rack, at once or when it is here. */
  whenLoaded(act: () => void): void {
    if (this.state.loaded) act();
    else this.state$.pipe(first(({ loaded }) => loaded)).subscribe(act);
  }

  /** Asks for a take that no list has brought yet: one that an address names. */
  find(id: string): void {
    this.bring([id]).subscribe();
  }

  /** Brings takes that no list has brought yet, and says when they are here. Those that are not on the rack are asked for once. */
  bring(ids: Iterable<string>): Observable<unknown> {
    const known = new Set(this.state.rack.takes.map((take) => take.id));
    const asked = [...new Set(ids)].filter((id) => !known.has(id) && !this.absent.has(id));
    if (asked.length === 0) return of(undefined);
    const one = (id: string): Observable<TakeJson | undefined> =>
      this.api.take(id).pipe(
        catchError(() => {
          this.absent.add(id);
          return of(undefined);
        }),
      );
    return forkJoin(asked.map(one)).pipe(tap((found) => this.learn(found.filter((take) => take !== undefined))));
  }

  choose(selection: Partial<Selection>): void {
    this.patch({ selection: { ...this.state.selection, ...selection } });
    rememberSelection(this.state.selection);
  }

  skeleton(id: string | undefined): SkeletonJson | undefined {
    return this.state.rack.skeletons.find((k) => k.id === id);
  }

  pairing(performer: string, character: string): PairingJson | undefined {
    return this.state.rack.pairings.find((p) => p.performer === performer && p.character === character);
  }

  private putRow(key: string, row: Row | null): void {
    const { rack } = this.state;
    const [kind, id] = key.split(' ');
    if (kind === 'limits') {
      if (row) this.patchRack({ limits: (row as LimitsJson).limits });
    } else if (kind === 'take') {
      this.patchRack({ takes: row ? rack.takes.map((t) => (t.id === id ? (row as TakeJson) : t)) : rack.takes.filter((t) => t.id !== id) });
    } else if (kind === 'skeleton') {
      if (row) this.patchRack({ skeletons: rack.skeletons.map((k) => (k.id === id ? (row as SkeletonJson) : k)) });
    } else if (kind === 'reel') {
      if (row) this.patchRack({ reels: rack.reels.map((one) => (one.id === id ? (row as ReelJson) : one)) });
    } else if (kind === 'mesh') {
      if (row) this.patchRack({ meshes: rack.meshes.map((one) => (one.id === id ? (row as MeshJson) : one)) });
    } else {
      const others = rack.pairings.filter((p) => `pairing ${p.performer} ${p.character}` !== key);
      this.patchRack({ pairings: row ? [row as PairingJson, ...others] : others });
    }
  }

  /** Changes the rack as the page holds it. */
  patchRack(change: Partial<Rack>): void {
    this.patch({ rack: { ...this.state.rack, ...change } });
  }

  /** The settings last used for a take's skeleton and a character. */
  choicesFor(take: TakeJson, character: CharacterJson): SolveChoices {
    return this.pairing(take.skeleton, character.id)?.choices ?? DEFAULT_CHOICES;
  }

  /** Decisions about the skeleton that a take or character stands on. */
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
    const touchUps = choices.touchUps.filter((one) => one.take === null || one.take === take.id).map(({ touchUp }) => touchUp);
    const layers = choices.layers.filter((one) => one.take === null || one.take === take.id).map(({ layer }) => layer);
    const face = this.recording(take.choices.face?.recording);
    return {
      take: this.takeSource(take),
      character: this.characterSource(character),
      choices,
      touchUps,
      layers,
      ...(face && { face: { file: face.file, name: face.fileName } }),
    };
  }

  /** A recording on the rack. */
  recording(id: string | undefined): RecordingJson | undefined {
    return this.state.rack.recordings.find((one) => one.id === id);
  }

  /** A result that was kept, here or by somebody else. */
  keepTransfer(saved: TransferJson): void {
    const { rack } = this.state;
    // News of an earlier one may come after the answer to a later one.
    if (rack.transfers.some((one) => one.id === saved.id && one.version > saved.version)) return;
    this.patchRack({ transfers: [saved, ...rack.transfers.filter((t) => t.id !== saved.id)] });
  }

  private patch(change: Partial<ProjectState>): void {
    this.subject.next({ ...this.state, ...change });
  }

  private select<T>(of: (state: ProjectState) => T): Observable<T> {
    return this.subject.pipe(map(of), distinctUntilChanged());
  }

  private chosen<T extends { id: string; name: string }>(
    list: (rack: Rack) => readonly T[],
    id: (s: Selection) => string | undefined,
  ): Observable<T | undefined> {
    return combineLatest([this.rack$, this.selection$]).pipe(
      map(([rack, selection]) => list(rack).find((item) => item.id === id(selection))),
      distinctUntilChanged(),
    );
  }
}
