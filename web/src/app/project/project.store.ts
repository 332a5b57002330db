import { DestroyRef, inject, Injectable } from '@angular/core';
import { asName } from '@hollow-stride/contract';
import type {
  ChangeSkeleton,
  ChangeTake,
  CharacterJson,
  ItemKind,
  PairingJson,
  ProductionLimits,
  RackJson,
  SavePreset,
  SaveTouchUpSet,
  SaveVersion,
  SkeletonJson,
  SolveChoices,
  TakeJson,
  TakeQuery,
  TakesPage,
  TransferJson,
} from '@hollow-stride/contract';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON, type NamingScheme } from '@hollow-stride/core';
import { BehaviorSubject, catchError, combineLatest, distinctUntilChanged, forkJoin, map, of, type Observable, switchMap, tap } from 'rxjs';
import { ApiError, ApiService, type Unreadable } from '../api/api.service';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import type { BodySource, PairRequest, TakeSource } from '../solver/messages';
import { Saver } from './saver';

export interface Selection {
  readonly take: string | undefined;
  readonly character: string | undefined;
}

/** The rack as the page holds it: all but its takes, and of those the ones that were listed or chosen so far. */
export type Rack = RackJson & { readonly takes: readonly TakeJson[] };

export interface ProjectState {
  readonly loaded: boolean;
  readonly rack: Rack;
  readonly selection: Selection;
  /** First page of the list of all takes; a new one each time that the rack is read. */
  readonly page: TakesPage;
  readonly unreadable: readonly Unreadable[];
}

export const DEFAULT_CHOICES: SolveChoices = { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS, touchUps: [] };

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
  limits: {},
};
const NO_PAGE: TakesPage = { takes: [], groups: [], total: 0, all: 0, tags: [] };
/** The query that finds all takes, as they came. */
export const ALL_TAKES: TakeQuery = { text: '', tag: '', order: 'added' };
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
    page: NO_PAGE,
    unreadable: [],
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
    forkJoin([this.api.rack(), this.api.takes(ALL_TAKES, 0)])
      .pipe(
        switchMap(([rack, page]) => {
          const { take } = this.state.selection;
          const listed = page.items.takes.some(({ id }) => id === take);
          // What was chosen may stand on a later page, or be off the rack.
          const chosen = take === undefined || listed ? of(undefined) : this.api.take(take).pipe(catchError(() => of(undefined)));
          return chosen.pipe(map((found) => ({ rack, page, found })));
        }),
      )
      .subscribe({
        next: ({ rack, page, found }) => {
          const { take, character } = this.state.selection;
          const takes = found ? [...page.items.takes, found] : page.items.takes;
          const has = (list: readonly { id: string }[], id: string | undefined) => (list.some((item) => item.id === id) ? id : list[0]?.id);
          this.patch({
            loaded: true,
            rack: { ...rack.items, takes },
            page: page.items,
            unreadable: [...rack.unreadable, ...page.unreadable],
            selection: { take: has(takes, take), character: has(rack.items.characters, character) },
          });
        },
        error: (error: unknown) => this.fail(error),
      });
  }

  /** Takes that a list has brought. */
  learn(takes: readonly TakeJson[], unreadable: readonly Unreadable[] = []): void {
    const fresh = new Map(takes.map((take) => [take.id, take]));
    this.patchRack({ takes: [...this.state.rack.takes.filter(({ id }) => !fresh.has(id)), ...takes] });
    if (unreadable.length === 0) return;
    const others = this.state.unreadable.filter((one) => !unreadable.some(({ id }) => id === one.id));
    this.patch({ unreadable: [...others, ...unreadable] });
  }

  /** Asks for a take that no list has brought yet: one that an address names. */
  find(id: string): void {
    if (this.state.rack.takes.some((take) => take.id === id)) return;
    this.api.take(id).subscribe({ next: (take) => this.learn([take]), error: () => undefined });
  }

  choose(selection: Partial<Selection>): void {
    this.patch({ selection: { ...this.state.selection, ...selection } });
    localStorage.setItem(REMEMBERED, JSON.stringify(this.state.selection));
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

  /** Takes something off the rack that the page cannot read; there is no way back that it could show. */
  removeUnreadable({ kind, id, name }: Unreadable): void {
    this.api.change(kind, id, { removed: true }).subscribe({
      next: () => {
        this.patch({ unreadable: this.state.unreadable.filter((one) => one.id !== id) });
        this.notices.done(`${name} taken off the rack`);
        this.load();
      },
      error: (error: unknown) => this.fail(error),
    });
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
        name: value.name ?? now?.name ?? asName(`to ${rack.characters.find((c) => c.id === character)?.name ?? 'character'}`),
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

  /** Labels as the server has put them, or puts them back; a step that its caller keeps. */
  putLabels(id: string, labels: Readonly<Record<string, string>> | null): void {
    const choices = this.skeleton(id)?.choices;
    if (!choices) return;
    const next = { choices: { ...choices, labels: labels && { ...labels } } };
    this.patchRack({ skeletons: this.state.rack.skeletons.map((k) => (k.id === id ? { ...k, ...next } : k)) });
    this.saver.save(`skeleton ${id}`, next, (whole) => this.api.changeSkeleton(id, whole));
  }

  addScheme(scheme: NamingScheme): void {
    this.keep('schemes', this.api.addScheme(scheme), `naming scheme "${scheme.name}"`);
  }

  addVersion(version: SaveVersion): void {
    this.keep('versions', this.api.addVersion(version), `version "${version.name}"`);
  }

  addPreset(preset: SavePreset): void {
    this.keep('presets', this.api.addPreset(preset), `preset "${preset.name}"`);
  }

  /** Sets the limits of the production. */
  setLimits(limits: ProductionLimits, text: string): void {
    const before = this.state.rack.limits;
    this.decide(text, undefined, limits, before, (value) => {
      this.patchRack({ limits: value });
      this.api.setLimits(value).subscribe({ error: (error: unknown) => this.fail(error) });
    });
  }

  addSet(set: SaveTouchUpSet): void {
    this.keep('sets', this.api.addSet(set), `set of touch-ups "${set.name}"`);
  }

  /** Puts on the rack what the server has kept: a step that can be taken back. */
  private keep<K extends 'schemes' | 'versions' | 'sets' | 'presets'>(kind: K, saving: Observable<Rack[K][number]>, what: string): void {
    saving.subscribe({
      next: (saved) => {
        this.patchRack({ [kind]: [...this.state.rack[kind], saved] } as Pick<Rack, K>);
        this.notices.done(`${what} kept`);
        const put = (removed: boolean): void => {
          this.api.change(kind, saved.id, { removed }).subscribe({ next: () => this.load(), error: (error: unknown) => this.fail(error) });
        };
        this.history.did({ text: `keep ${what}`, undo: () => put(true), redo: () => put(false) });
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

  private patchRack(change: Partial<Rack>): void {
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
    const touchUps = choices.touchUps.filter((one) => one.take === null || one.take === take.id).map(({ touchUp }) => touchUp);
    return { take: this.takeSource(take), character: this.characterSource(character), choices, touchUps };
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

  fail(error: unknown): void {
    this.notices.fault(error instanceof ApiError ? error.fault : { code: 'option', message: String(error), where: {} });
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
