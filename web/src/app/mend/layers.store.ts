import { inject, Injectable, signal } from '@angular/core';
import type { SolveChoices } from '@hollow-stride/contract';
import {
  ClipReader,
  frameOf,
  makeLayer,
  mirrorRole,
  placeIn,
  proposeLayer,
  thinPlaces,
  thinTurns,
  turnFromRest,
  valueAt,
  type Figure,
  type Layer,
  type LayerKey,
  type LayerKind,
  type LayerPose,
  type Pose,
  type ThinnedSpan,
  type ReachTrack,
  type TurnTrack,
} from '@hollow-stride/core';
import { BehaviorSubject, combineLatest, distinctUntilChanged, map, type Observable, shareReplay } from 'rxjs';
import { PairStore } from '../pair/pair.store';
import { KeptStore } from '../solve/kept.store';
import { SolveStore } from '../solve/solve.store';
import { SAME_MOMENT, TakeTimeService } from '../solve/take-time.service';
import type { Solved } from '../solver/messages';
import { PlaybackService } from '../timeline/playback.service';
import { NAMES } from './words';

type Stored = SolveChoices['layers'][number];
export type Track = TurnTrack | ReachTrack;
export type Triple = [number, number, number];

/** A layer of the pair that is looked at, by its place in the order. */
export interface LayerEntry {
  readonly index: number;
  readonly layer: Layer;
  /** Of this take alone, or of all takes of the pairing. */
  readonly isOfTake: boolean;
}

/** A new gap is closed over so long about the frame that is shown, seconds to either side. */
const GAP = 0.2;
/** Joints that a pose turns at most. */
const MOST_TURNED = 400;
/** A pose is come to, and left, over so long, seconds. */
const POSED = 0.5;

/** The layers of the current pair, and the one that is worked on: each change is a step that can be taken back. */
@Injectable({ providedIn: 'root' })
export class LayersStore {
  private readonly pairs = inject(PairStore);
  private readonly kept = inject(KeptStore);
  private readonly solve = inject(SolveStore);
  private readonly playback = inject(PlaybackService);
  private readonly time = inject(TakeTimeService);
  private readonly chosen = new BehaviorSubject(-1);
  /** Keys that were copied, to be pasted elsewhere. */
  readonly copied = signal<readonly LayerKey[]>([]);
  private posed: { readonly solved: Solved; readonly reader: ClipReader } | undefined;

  readonly entries$: Observable<readonly LayerEntry[]> = this.pairs.pair$.pipe(
    map(({ take, choices }) => entriesOf(choices.layers, take?.id)),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    shareReplay({ bufferSize: 1, refCount: true }),
  );
  /** The layer that is worked on. */
  readonly current$: Observable<LayerEntry | undefined> = combineLatest([this.entries$, this.chosen]).pipe(
    map(([entries, index]) => entries.find((entry) => entry.index === index)),
    distinctUntilChanged(),
    shareReplay({ bufferSize: 1, refCount: true }),
  );

  get entries(): readonly LayerEntry[] {
    const { take, choices } = this.pairs.now;
    return entriesOf(choices.layers, take?.id);
  }

  get current(): LayerEntry | undefined {
    return this.entries.find(({ index }) => index === this.chosen.value);
  }

  choose(index: number): void {
    this.chosen.next(index);
  }

  /** Adds a layer that does nothing yet but what its filter does, on top of the others, and works on it. */
  add(kind: LayerKind): void {
    const now = this.now;
    const name = this.freeName(NAMES[kind]);
    switch (kind) {
      case 'turns':
        this.put(makeLayer({ name, does: { kind, tracks: [] } }), `add the layer ${name}`);
        break;
      case 'reach':
        this.put(makeLayer({ name, does: { kind, tracks: [] } }), `add the layer ${name}`);
        break;
      case 'bridge':
        this.put(
          makeLayer({ name, does: { kind }, mask: { from: Math.max(0, now - GAP), to: now + GAP, fade: 0 } }),
          `add the layer ${name}`,
        );
        break;
      default:
        this.put(makeLayer({ name, does: { kind } }), `add the layer ${name}`);
    }
  }

  /** Opens a layer at the worst frame of a figure, with what it is about, and goes there. */
  lead(figure: Figure): void {
    const { frame } = figure;
    const roles = this.solve.state.solved?.roles;
    const layer = proposeLayer(figure, frame === undefined ? undefined : this.secondsAt(frame), (role) => roles?.has(role) ?? false);
    if (frame !== undefined) {
      this.playback.pause();
      this.playback.seek(frame);
    }
    this.put({ ...layer, name: this.freeName(layer.name) }, `mend ${figure.name}`);
  }

  /** How every joint with a role stands at the frame that is shown, turned from its rest. */
  poseHere(): LayerPose | undefined {
    const { solved } = this.solve.state;
    const pose = this.pose();
    if (!solved || !pose) return undefined;
    const turnOf = (joint: number): Triple =>
      turnFromRest(solved.axes, solved.character.skeleton, pose, joint).map((x) => Math.round(x * 100) / 100) as Triple;
    // Where the body stands and which way it faces is the motion's.
    return Object.fromEntries(
      [...solved.roles]
        .slice(0, MOST_TURNED)
        .filter(([role]) => role !== 'ground' && role !== 'hips')
        .map(([role, joint]) => [role, turnOf(joint)]),
    );
  }

  /** Lays a pose on about the frame that is shown, in place of the motion. @param pose undefined for the rest */
  layPose(name: string, pose: LayerPose | undefined): void {
    const { solved } = this.solve.state;
    if (!solved) return;
    const now = this.now;
    const roles = [...solved.roles.keys()]
      .slice(0, MOST_TURNED)
      .filter((role) => role !== 'ground' && role !== 'hips' && (!pose || role in pose));
    const tracks = roles.map((role) => ({ role, keys: [keyAt(now, pose?.[role] ?? [0, 0, 0])] }));
    const layer = makeLayer({
      name: this.freeName(name),
      does: { kind: 'turns', way: 'replace', tracks },
      mask: { from: now, to: now, fade: POSED },
    });
    this.put(layer, `lay on the pose ${name}`);
  }

  /** Makes a copy of a layer above it. */
  copy({ index, layer, isOfTake }: LayerEntry): void {
    const { take, choices } = this.pairs.now;
    const stored: Stored = { layer: { ...layer, name: this.freeName(layer.name) }, take: isOfTake ? (take?.id ?? null) : null };
    this.write([...choices.layers.slice(0, index + 1), stored, ...choices.layers.slice(index + 1)], `copy the layer ${layer.name}`);
    this.choose(index + 1);
  }

  change(index: number, change: Partial<Layer>, text: string, key?: string): void {
    this.patch(index, (stored) => ({ ...stored, layer: { ...stored.layer, ...change } }), text, key);
  }

  /** Changes what a layer does. */
  does(index: number, change: object, text: string, key?: string): void {
    this.patch(
      index,
      (stored) => ({ ...stored, layer: { ...stored.layer, does: { ...stored.layer.does, ...change } as Layer['does'] } }),
      text,
      key,
    );
  }

  /** Of this take alone, or of all takes of the pairing. */
  setScope(index: number, isOfTake: boolean): void {
    const { take } = this.pairs.now;
    this.patch(
      index,
      (stored) => ({ ...stored, take: isOfTake ? (take?.id ?? null) : null }),
      `layer of ${isOfTake ? 'this take' : 'all takes'}`,
    );
  }

  /** Moves a layer up or down among those of the pair. */
  move(index: number, by: -1 | 1): void {
    const { entries } = this;
    const at = entries.findIndex((entry) => entry.index === index);
    const other = entries.at(at + by);
    if (at < 0 || at + by < 0 || !other) return;
    const list = [...this.pairs.now.choices.layers];
    [list[index], list[other.index]] = [list[other.index], list[index]];
    this.write(list, 'order of layers');
    this.choose(other.index);
  }

  remove({ index, layer }: LayerEntry): void {
    this.write(
      this.pairs.now.choices.layers.filter((_, i) => i !== index),
      `take off the layer ${layer.name}`,
    );
    this.choose(-1);
  }

  /** Adds a joint, or a limb end, to what a layer keys. */
  addTrack(index: number, name: string): void {
    const does = this.pairs.now.choices.layers[index].layer.does;
    if (does.kind === 'turns' && !does.tracks.some(({ role }) => role === name)) {
      this.does(index, { tracks: [...does.tracks, { role: name, keys: [] }] }, `key ${name}`);
    }
    if (does.kind === 'reach' && !does.tracks.some(({ end }) => end === name)) {
      this.does(index, { tracks: [...does.tracks, { end: name, frame: 'world', keys: [] }] }, `key ${name}`);
    }
  }

  removeTrack(index: number, track: number): void {
    const tracks = this.tracksOf(index);
    this.does(index, { tracks: tracks.filter((_, i) => i !== track) }, `no more keys of ${nameOfTrack(tracks[track])}`);
  }

  /** Lets places go with something else, and takes them over: nothing moves at the frame that is shown. */
  setFrame(index: number, track: number, frame: ReachTrack['frame']): void {
    const { layer } = this.pairs.now.choices.layers[index];
    const own = this.tracksOf(index)[track] as ReachTrack;
    const isPlace = layer.does.kind === 'reach' && layer.does.way === 'replace';
    const keys = isPlace && own.keys.length > 0 ? [{ ...keyAt(this.now, this.placeOf({ ...own, frame })) }] : own.keys;
    this.setTrack(index, track, { frame, keys }, `${nameOfTrack(own)} with ${frame}`);
  }

  /** Sets the amounts of a track at the frame that is shown: of its key there, which is made where there is none. */
  setValue(index: number, track: number, value: Triple, key?: string): void {
    const own = this.tracksOf(index)[track];
    const at = this.now;
    const here = own.keys.find((one) => Math.abs(one.at - at) <= SAME_MOMENT);
    const rounded = value.map((x) => Math.round(x * 100) / 100) as Triple;
    this.setKeys(
      index,
      track,
      [...own.keys.filter((one) => one !== here), { ...(here ?? keyAt(at, rounded)), value: rounded }],
      `move ${nameOfTrack(own)}`,
      key,
    );
  }

  /**
   * Takes up the motion that is shown as few keys of a track in its place, over the layer's time.
   * @param tolerance metres
   * @returns how many keys, and how far they are off, metres
   */
  thin(index: number, track: number, tolerance: number): { readonly keys: number; readonly worst: number } | undefined {
    const { solved } = this.solve.state;
    const own = this.tracksOf(index).at(track);
    const layer = this.pairs.now.choices.layers.at(index)?.layer;
    const joint = own && solved?.roles.get(nameOfTrack(own));
    if (!solved || !own || !layer || joint === undefined) return undefined;
    const { frames } = solved.solved;
    const held = (frame: number): number => Math.max(0, Math.min(frames - 1, Math.round(frame)));
    const fade = layer.mask?.fade ?? 0;
    const span: ThinnedSpan = {
      clip: solved.solved,
      first: layer.mask ? held(this.frameAt(layer.mask.from - fade)) : 0,
      last: layer.mask ? held(this.frameAt(layer.mask.to + fade)) : frames - 1,
      timeOf: (frame) => this.secondsAt(frame),
    };
    const { axes, character } = solved;
    const { keys, worst } =
      'role' in own
        ? thinTurns(axes, character.skeleton, joint, span, tolerance)
        : thinPlaces(axes, character.skeleton, joint, frameOf(solved, own.frame), span, tolerance);
    const tracks = this.tracksOf(index).map((one, i) => (i === track ? { ...one, keys } : one));
    this.does(index, { tracks, way: 'replace' }, `${nameOfTrack(own)} as ${keys.length} keys`);
    return { keys: keys.length, worst };
  }

  /** Sets a key at the frame that is shown with what is there, or removes it. */
  toggleKey(index: number, track: number): void {
    const own = this.tracksOf(index)[track];
    const at = this.now;
    const without = own.keys.filter((one) => Math.abs(one.at - at) > SAME_MOMENT);
    const keys = without.length < own.keys.length ? without : [...own.keys, keyAt(at, this.value(index, track))];
    this.setKeys(index, track, keys, `key of ${nameOfTrack(own)}`);
  }

  /** Changes keys of a track. @param keys in any order */
  setKeys(index: number, track: number, keys: readonly LayerKey[], text: string, key?: string): void {
    this.setTrack(index, track, { keys: [...keys].sort((a, b) => a.at - b.at) }, text, key);
  }

  /** The keys of a track on the other side of the body, as a mirror shows them. */
  mirrorTrack(index: number, track: number): void {
    const own = this.tracksOf(index)[track];
    const name = mirrorRole(nameOfTrack(own));
    // A turn's axis is a pseudovector; a way is a vector.
    const signs = 'role' in own ? [1, -1, -1] : [-1, 1, 1];
    const keys = own.keys.map((key) => ({
      ...key,
      value: key.value.map((x, c) => x * signs[c]) as Triple,
      slope: key.slope && (key.slope.map((x, c) => x * signs[c]) as Triple),
    }));
    const tracks = this.tracksOf(index);
    const other = tracks.findIndex((one) => nameOfTrack(one) === name);
    const mirrored = 'role' in own ? { ...own, role: name, keys } : { ...own, end: name, keys };
    const next = other < 0 ? [...tracks, mirrored] : tracks.map((one, i) => (i === other ? mirrored : one));
    this.does(index, { tracks: next }, `mirror the keys of ${nameOfTrack(own)}`);
  }

  /** Puts copied keys into a track, the first at the frame that is shown. */
  pasteKeys(index: number, track: number): void {
    const keys = this.copied();
    if (keys.length === 0) return;
    const own = this.tracksOf(index)[track];
    const by = this.now - keys[0].at;
    const pasted = keys.map((key) => ({ ...key, at: key.at + by }));
    const [from, to] = [pasted[0].at, pasted[pasted.length - 1].at];
    const others = own.keys.filter(({ at }) => at < from - SAME_MOMENT || at > to + SAME_MOMENT);
    this.setKeys(index, track, [...others, ...pasted], `paste keys to ${nameOfTrack(own)}`);
  }

  /** Moves a key in time; one that stood there goes. */
  moveKey(index: number, track: number, from: number, to: number): void {
    const own = this.tracksOf(index)[track];
    const moved = own.keys.find((one) => Math.abs(one.at - from) <= SAME_MOMENT);
    if (!moved) return;
    const others = own.keys.filter((one) => one !== moved && Math.abs(one.at - to) > SAME_MOMENT);
    this.setKeys(index, track, [...others, { ...moved, at: Math.max(0, to) }], `move a key of ${nameOfTrack(own)}`);
  }

  /** The amounts of a track at the frame that is shown; of one without keys in place of the motion, those of the motion. */
  value(index: number, track: number): Triple {
    const own = this.tracksOf(index).at(track);
    const layer = this.pairs.now.choices.layers.at(index)?.layer;
    if (!own || !layer) return [0, 0, 0];
    if (own.keys.length === 0 && 'way' in layer.does && layer.does.way === 'replace') return this.placeOf(own);
    const out = new Float64Array(3);
    // A key is set at a frame's own second, give or take rounding.
    valueAt(out, own.keys, this.now + SAME_MOMENT / 4);
    return [out[0], out[1], out[2]];
  }

  hasKey(index: number, track: number): boolean {
    return this.keyHere(index, track) !== undefined;
  }

  /** The key of a track at the frame that is shown. */
  keyHere(index: number, track: number): LayerKey | undefined {
    return this.tracksOf(index)
      .at(track)
      ?.keys.find((one) => Math.abs(one.at - this.now) <= SAME_MOMENT);
  }

  tracksOf(index: number): readonly Track[] {
    const does = this.pairs.now.choices.layers.at(index)?.layer.does;
    return does?.kind === 'turns' || does?.kind === 'reach' ? does.tracks : [];
  }

  /** The character as it stands at the frame that is shown. */
  pose(): Pose | undefined {
    const { solved } = this.solve.state;
    if (!solved) return undefined;
    if (this.posed?.solved !== solved) this.posed = { solved, reader: new ClipReader(solved.character.skeleton, solved.solved) };
    return this.posed.reader.at(Math.min(this.playback.state.frame, solved.solved.frames - 1));
  }

  frameAt(seconds: number): number {
    return this.time.frameAt(seconds);
  }

  secondsAt(frame: number): number {
    return this.time.secondsAt(frame);
  }

  get now(): number {
    return this.time.now;
  }

  /** How a track's joint stands, as the amounts that would put it so. */
  private placeOf(track: Track): Triple {
    const { solved } = this.solve.state;
    const pose = this.pose();
    const joint = solved?.roles.get('role' in track ? track.role : track.end);
    if (!solved || !pose || joint === undefined) return [0, 0, 0];
    if ('role' in track) return turnFromRest(solved.axes, solved.character.skeleton, pose, joint);
    return placeIn(solved.axes, pose, joint, frameOf(solved, track.frame));
  }

  private setTrack(index: number, track: number, change: object, text: string, key?: string): void {
    const tracks = this.tracksOf(index).map((own, i) => (i === track ? { ...own, ...change } : own));
    this.does(index, { tracks }, text, key);
  }

  private freeName(wanted: string): string {
    const taken = new Set(this.entries.map(({ layer }) => layer.name));
    const name = wanted.slice(0, 74);
    for (let i = 2; ; i++) {
      const free = i === 2 ? name : `${name} ${i - 1}`;
      if (!taken.has(free)) return free;
    }
  }

  /** Puts a layer of this take on top. */
  private put(layer: Layer, text: string): void {
    const { take, choices } = this.pairs.now;
    this.write([...choices.layers, { layer, take: take?.id ?? null }], text);
    this.choose(choices.layers.length);
  }

  private patch(index: number, change: (stored: Stored) => Stored, text: string, key?: string): void {
    const list = this.pairs.now.choices.layers;
    if (list[index] === undefined) return;
    this.write(
      list.map((stored, i) => (i === index ? change(stored) : stored)),
      text,
      key,
    );
  }

  private write(layers: readonly Stored[], text: string, key?: string): void {
    this.kept.change({ layers: [...layers] }, text, key);
  }
}

function entriesOf(stored: readonly Stored[], take: string | undefined): LayerEntry[] {
  return stored.flatMap(({ layer, take: of }, index) => (of === null || of === take ? [{ index, layer, isOfTake: of !== null }] : []));
}

const keyAt = (at: number, value: Triple): LayerKey => ({ at, value, tangent: 'smooth', slope: null });

/** Name of what a track keys. */
export const nameOfTrack = (track: Track | undefined): string => (track ? ('role' in track ? track.role : track.end) : 'nothing');
