import { DestroyRef, inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { asName } from '@hollow-stride/contract';
import type {
  ChangeItem,
  ChangeSkeleton,
  ChangeTake,
  CharacterJson,
  ItemKind,
  LimitsJson,
  PairingJson,
  ProductionLimits,
  RackJson,
  SavePairing,
  SavePreset,
  SaveTouchUpSet,
  SaveTransfer,
  SaveVersion,
  SkeletonJson,
  SolveChoices,
  TakeJson,
  TakeQuery,
  TakesPage,
  TransferJson,
} from '@hollow-stride/contract';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON, type NamingScheme } from '@hollow-stride/core';
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
  throwError,
} from 'rxjs';
import { ApiError, ApiService, CLIENT, type Unreadable } from '../api/api.service';
import { HistoryService, type Apply } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import type { BodySource, PairRequest, TakeSource } from '../solver/messages';
import { RowSaver, type Row } from './row-saver';

export interface Selection {
  readonly take: string | undefined;
  readonly character: string | undefined;
}

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

/** What is edited of each kind of row; the version that it was made from is added when it is sent. */
export type TakeFields = Omit<ChangeTake, 'base'>;
export type SkeletonFields = Omit<ChangeSkeleton, 'base'>;
export interface PairingFields {
  readonly choices?: SolveChoices;
  readonly name?: string;
}
type ItemFields = Omit<ChangeItem, 'base'>;

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
  private readonly destroyed = inject(DestroyRef);
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

  private readonly rows = new RowSaver({
    put: (key, row) => this.putRow(key, row),
    fail: (error) => this.fail(error),
    away: () => this.away(),
    ask: (what, collisions, answer) => this.ask(what, collisions, answer),
  });
  private isAway = false;

  constructor() {
    inject(DestroyRef).onDestroy(() => this.rows.stop());
    // A step may be undone after the page was loaded again, before its rack is here.
    const later =
      (apply: Apply): Apply =>
      (target, value) =>
        this.whenLoaded(() => apply(target, value));
    const { history } = this;
    history.register(
      'take',
      later((id, value) => this.putTake(id, value as TakeFields)),
    );
    history.register(
      'skeleton',
      later((id, value) => this.putSkeleton(id, value as SkeletonFields)),
    );
    history.register(
      'pairing',
      later((pair, value) => this.putPairing(pair, value as PairingFields)),
    );
    history.register(
      'limits',
      later((_, value) => this.putLimits(value as ProductionLimits)),
    );
    history.register(
      'item',
      later((item, value) => this.putItem(item, value as ItemFields)),
    );
  }

  /** Follows what others change, for as long as the page is open. */
  listen(): void {
    this.api.events$
      .pipe(
        tap((event) => {
          if (!('by' in event) || event.by === CLIENT) return;
          if (event.kind === 'take' || event.kind === 'skeleton') this.rows.heard(`${event.kind} ${event.row.id}`, event.row);
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
          const takes = (found ? [...page.items.takes, found] : page.items.takes).map((take) => this.met(`take ${take.id}`, take));
          const { limits } = this.met('limits', rack.items.limits);
          const has = (list: readonly { id: string }[], id: string | undefined) => (list.some((item) => item.id === id) ? id : list[0]?.id);
          this.patch({
            loaded: true,
            rack: {
              ...rack.items,
              takes,
              limits,
              skeletons: rack.items.skeletons.map((one) => this.met(`skeleton ${one.id}`, one)),
              pairings: rack.items.pairings.map((one) => this.met(`pairing ${one.performer} ${one.character}`, one)),
            },
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
    const met = takes.map((take) => this.met(`take ${take.id}`, take));
    const fresh = new Set(met.map(({ id }) => id));
    this.patchRack({ takes: [...this.state.rack.takes.filter(({ id }) => !fresh.has(id)), ...met] });
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
    this.putItem(`${kind} ${id}`, { name: to });
    this.did(`rename ${before} to ${to}`, undefined, 'item', `${kind} ${id}`, { name: before }, { name: to });
  }

  /** Takes something off the rack that the page cannot read; there is no way back that it could show. */
  removeUnreadable({ kind, id, name }: Unreadable): void {
    this.changeItem(kind, id, { removed: true }).subscribe({
      next: () => {
        this.patch({ unreadable: this.state.unreadable.filter((one) => one.id !== id) });
        this.notices.done(`${name} removed from the rack`);
        this.load();
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  remove(kind: ItemKind, id: string, name: string): void {
    this.putItem(`${kind} ${id}`, { removed: true }, () => this.notices.done(`${name} removed from the rack`, () => this.history.undo()));
    this.did(`remove ${name} from the rack`, undefined, 'item', `${kind} ${id}`, { removed: false }, { removed: true });
  }

  /** Names something on the rack, takes it off or puts it back; the rack is read anew then. */
  private putItem(item: string, change: ItemFields, then?: () => void): void {
    const [kind, id] = item.split(' ') as [ItemKind, string];
    this.changeItem(kind, id, change).subscribe({
      next: () => {
        this.load();
        then?.();
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  /** An edit of one field of an item; what else was changed in it meanwhile stays as it is. */
  private changeItem(kind: ItemKind, id: string, change: ItemFields): Observable<unknown> {
    const known = this.itemVersion(kind, id);
    return this.api.change(kind, id, { base: known, ...change }).pipe(
      catchError((error: unknown) => {
        const now = error instanceof ApiError ? (error.current as ({ version: number } & ItemFields) | undefined) : undefined;
        const before = [...this.state.rack.takes, ...this.state.rack.characters].find((one) => one.id === id)?.name;
        // Renamed elsewhere meanwhile to something else: nothing is overwritten, and the other name is shown.
        if (!now || (change.name !== undefined && before !== undefined && now.name !== before && now.name !== change.name)) {
          if (now) this.load();
          return throwError(() => error);
        }
        return this.api.change(kind, id, { base: now.version, ...change });
      }),
      tap(({ version }) => {
        this.versions.set(`${kind} ${id}`, version);
        if (kind === 'takes') this.rows.bump(`take ${id}`, version);
      }),
    );
  }

  /** Versions of items that are off the rack, or that no list tells of. */
  private readonly versions = new Map<string, number>();

  private itemVersion(kind: ItemKind, id: string): number {
    const { rack } = this.state;
    const listed = kind === 'runs' ? undefined : (rack[kind] as readonly { id: string; version: number }[]).find((one) => one.id === id);
    return Math.max(listed?.version ?? 1, this.versions.get(`${kind} ${id}`) ?? 1);
  }

  /** Changes a take's settings, tags or note. @param key steps with the same key that follow at once are one */
  changeTake(id: string, change: TakeFields, text: string, key?: string): void {
    const take = this.state.rack.takes.find((t) => t.id === id);
    if (!take) return;
    const before: TakeFields = { tags: take.tags, note: take.note, choices: take.choices };
    this.decide(text, key, 'take', id, change, pick(before, change), (value) => this.putTake(id, value));
  }

  private putTake(id: string, value: TakeFields): void {
    const take = this.state.rack.takes.find((t) => t.id === id);
    if (!take) {
      // A take of another page of the list: it is brought first.
      this.api.take(id).subscribe({
        next: (found) => {
          this.learn([found]);
          this.putTake(id, value);
        },
        error: (error: unknown) => this.fail(error),
      });
      return;
    }
    this.patchRack({ takes: this.state.rack.takes.map((t) => (t.id === id ? { ...t, ...value } : t)) });
    this.rows.save(`take ${id}`, value, {
      what: take.name,
      request: (base, whole) => this.api.changeTake(id, { base: base ?? take.version, ...(whole as TakeFields) }),
      leave: (base, whole) => this.api.leave('PATCH', `/api/takes/${id}/settings`, { base: base ?? take.version, ...whole }),
    });
  }

  /** Changes what is decided about a skeleton: for every take and character that stands on it. */
  changeSkeleton(id: string, wanted: SkeletonFields, text: string, key?: string): void {
    const skeleton = this.state.rack.skeletons.find((k) => k.id === id);
    if (!skeleton) return;
    const change = remeasured(skeleton, wanted);
    const before: SkeletonFields = { name: skeleton.name, choices: skeleton.choices, rests: skeleton.rests };
    this.decide(text, key, 'skeleton', id, change, pick(before, change), (value) => this.putSkeleton(id, value));
  }

  private putSkeleton(id: string, value: SkeletonFields): void {
    const skeleton = this.skeleton(id);
    if (!skeleton) return;
    this.patchRack({ skeletons: this.state.rack.skeletons.map((k) => (k.id === id ? { ...k, ...value } : k)) });
    this.rows.save(`skeleton ${id}`, value, {
      what: skeleton.name,
      request: (base, whole) => this.api.changeSkeleton(id, { base: base ?? skeleton.version, ...(whole as SkeletonFields) }),
      leave: (base, whole) => this.api.leave('PATCH', `/api/skeletons/${id}`, { base: base ?? skeleton.version, ...whole }),
    });
  }

  /** Changes a pairing's choices or name; one that is not there yet is made. */
  changePairing(performer: string, character: string, change: PairingFields, text: string, key?: string): void {
    const found = this.pairing(performer, character);
    const before = { choices: found?.choices ?? DEFAULT_CHOICES, name: found?.name ?? this.pairingName(character) };
    const pair = `${performer} ${character}`;
    this.decide(text, key, 'pairing', pair, change, pick(before, change), (value) => this.putPairing(pair, value));
  }

  private putPairing(pair: string, value: PairingFields): void {
    const [performer, character] = pair.split(' ');
    const { rack } = this.state;
    const now = this.pairing(performer, character);
    const whole: PairingJson = {
      id: now?.id ?? crypto.randomUUID(),
      version: now?.version ?? 1,
      name: value.name ?? now?.name ?? this.pairingName(character),
      performer,
      character,
      choices: value.choices ?? now?.choices ?? DEFAULT_CHOICES,
      changedAt: new Date().toISOString(),
    };
    this.patchRack({ pairings: [whole, ...rack.pairings.filter((p) => p !== now)] });
    // All that an edit may be made of goes with it: the server keeps a pairing whole.
    const body = (base: number | null, { choices, name }: PairingFields): SavePairing => ({
      base,
      performer,
      character,
      choices: choices ?? whole.choices,
      name,
    });
    this.rows.save(
      `pairing ${pair}`,
      { name: whole.name, choices: whole.choices },
      {
        what: `the pairing ${whole.name}`,
        before: { name: this.pairingName(character), choices: DEFAULT_CHOICES },
        request: (base, fields) => this.api.savePairing(body(base, fields)),
        leave: (base, fields) => this.api.leave('PUT', '/api/pairings', body(base, fields)),
      },
    );
  }

  private pairingName(character: string): string {
    return asName(`to ${this.state.rack.characters.find((c) => c.id === character)?.name ?? 'character'}`);
  }

  /** Puts labels in; a step that its caller keeps. */
  putLabels(id: string, labels: Readonly<Record<string, string>> | null): void {
    const choices = this.skeleton(id)?.choices;
    if (choices) this.putSkeleton(id, { choices: { ...choices, labels: labels && { ...labels } } });
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
    this.decide(text, undefined, 'limits', '', limits, this.state.rack.limits, (value) => this.putLimits(value));
  }

  private putLimits(limits: ProductionLimits): void {
    this.patchRack({ limits });
    const body = (base: number | null, fields: object) => ({ base: base ?? 0, limits: (fields as { limits: ProductionLimits }).limits });
    this.rows.save(
      'limits',
      { limits },
      {
        what: 'the limits of the production',
        request: (base, fields) => this.api.setLimits(body(base, fields)),
        leave: (base, fields) => this.api.leave('PUT', '/api/limits', body(base, fields)),
      },
    );
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
        this.did(`keep ${what}`, undefined, 'item', `${kind} ${saved.id}`, { removed: true }, { removed: false });
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

  private decide<T>(
    text: string,
    key: string | undefined,
    kind: string,
    target: string,
    change: T,
    before: T,
    set: (value: T) => void,
  ): void {
    if (JSON.stringify(change) === JSON.stringify(before)) return;
    set(change);
    this.did(text, key && `${key} ${target}`, kind, target, before, change);
  }

  private did(text: string, key: string | undefined, kind: string, target: string, before: unknown, after: unknown): void {
    this.history.did({ text, key, edits: [{ kind, target, before, after }] });
  }

  /** Does something with the rack, at once or when it is here. */
  private whenLoaded(act: () => void): void {
    if (this.state.loaded) act();
    else this.state$.pipe(first(({ loaded }) => loaded)).subscribe(act);
  }

  /** A row that was read: what waits to be sent lies over it. */
  private met<T extends { version: number }>(key: string, row: T): T {
    this.rows.learn(key, row);
    return this.rows.current(key, row);
  }

  /** A row as the server has it now, with what waits laid over it. */
  private putRow(key: string, row: Row | null): void {
    this.isAway = false;
    const { rack } = this.state;
    const [kind, id] = key.split(' ');
    if (kind === 'limits') {
      if (row) this.patchRack({ limits: (row as LimitsJson).limits });
    } else if (kind === 'take') {
      this.patchRack({ takes: row ? rack.takes.map((t) => (t.id === id ? (row as TakeJson) : t)) : rack.takes.filter((t) => t.id !== id) });
    } else if (kind === 'skeleton') {
      if (row) this.patchRack({ skeletons: rack.skeletons.map((k) => (k.id === id ? (row as SkeletonJson) : k)) });
    } else {
      const others = rack.pairings.filter((p) => `pairing ${p.performer} ${p.character}` !== key);
      this.patchRack({ pairings: row ? [row as PairingJson, ...others] : others });
    }
  }

  private away(): void {
    if (this.isAway) return;
    this.isAway = true;
    this.notices.caution('the server does not answer; what you change is kept here and sent as soon as it does');
  }

  private ask(what: string, collisions: readonly string[], answer: (whose: 'mine' | 'theirs') => void): void {
    const fields = collisions.map((path) => path.replace(/^choices\./, '')).join(', ');
    this.notices.ask(`${what} was changed in another window too: ${fields}`, [
      { text: 'Keep mine', act: () => answer('mine') },
      { text: 'Take the other', act: () => answer('theirs') },
    ]);
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

  /** Keeps a result with the choices that it was solved by; the pairing stays as it is. */
  saveTransfer(request: Omit<SaveTransfer, 'base'>): void {
    const known = this.state.rack.transfers.find((t) => t.take === request.take && t.character === request.character);
    const send = (base: number | null): void => {
      this.api.saveTransfer({ ...request, base }).subscribe({
        next: (saved) => this.keepTransfer(saved),
        error: (error: unknown) => {
          const now = error instanceof ApiError ? (error.current as TransferJson | null | undefined) : undefined;
          if (!now) this.fail(error);
          // The same choices give the same result: nothing is lost by it.
          else if (JSON.stringify(now.choices) === JSON.stringify(request.choices)) send(now.version);
          else
            this.ask(now.name, ['the kept result'], (whose) => {
              if (whose === 'mine') send(now.version);
              else this.keepTransfer(now);
            });
        },
      });
    };
    send(known?.version ?? null);
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
function remeasured({ choices }: SkeletonJson, change: SkeletonFields): SkeletonFields {
  const next = change.choices;
  if (!next?.reference || next.reference !== choices.reference) return change;
  const by = ({ labels, unit, up, rest, facing }: SkeletonJson['choices']): string => JSON.stringify([labels, unit, up, rest, facing]);
  return by(next) === by(choices) ? change : { ...change, choices: { ...next, reference: null } };
}

/** The values that something had before, of the parts that a change has. */
function pick<T extends object>(before: T, change: T): T {
  return Object.fromEntries(Object.keys(change).map((key) => [key, before[key as keyof T]])) as T;
}
