import { inject, Injectable } from '@angular/core';
import type { SolveChoices } from '@hollow-stride/contract';
import {
  ClipReader,
  makeLayer,
  proposeLayer,
  turnFromRest,
  type Figure,
  type Layer,
  type LayerKind,
  type LayerPose,
  type Pose,
} from '@hollow-stride/core';
import { BehaviorSubject, combineLatest, distinctUntilChanged, map, type Observable, shareReplay } from 'rxjs';
import { PairStore } from '../pair/pair.store';
import { KeptStore } from '../solve/kept.store';
import { SolveStore } from '../solve/solve.store';
import { TakeTimeService } from '../solve/take-time.service';
import type { Solved } from '../solver/messages';
import { PlaybackService } from '../timeline/playback.service';
import { keyAt, type Triple } from './tracks';
import { NAMES } from './words';

type Stored = SolveChoices['layers'][number];

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
