import { inject, Injectable, signal } from '@angular/core';
import {
  frameOf,
  mirrorRole,
  placeIn,
  thinPlaces,
  thinTurns,
  turnFromRest,
  valueAt,
  type LayerKey,
  type ReachTrack,
  type ThinnedSpan,
} from '@hollow-stride/core';
import { PairStore } from '../pair/pair.store';
import { SolveStore } from '../solve/solve.store';
import { SAME_MOMENT } from '../solve/take-time.service';
import { LayersStore } from './layers.store';
import { keyAt, nameOfTrack, type Track, type Triple } from './tracks';

/** The keys of layers: what each keys, and its amounts at the frame that is shown; each change is a step that can be taken back. */
@Injectable({ providedIn: 'root' })
export class LayerKeysStore {
  private readonly layers = inject(LayersStore);
  private readonly pairs = inject(PairStore);
  private readonly solve = inject(SolveStore);
  /** Keys that were copied, to be pasted elsewhere. */
  readonly copied = signal<readonly LayerKey[]>([]);

  /** Adds a joint, or a limb end, to what a layer keys. */
  addTrack(index: number, name: string): void {
    const does = this.pairs.now.choices.layers[index].layer.does;
    if (does.kind === 'turns' && !does.tracks.some(({ role }) => role === name)) {
      this.layers.does(index, { tracks: [...does.tracks, { role: name, keys: [] }] }, `key ${name}`);
    }
    if (does.kind === 'reach' && !does.tracks.some(({ end }) => end === name)) {
      this.layers.does(index, { tracks: [...does.tracks, { end: name, frame: 'world', keys: [] }] }, `key ${name}`);
    }
  }

  removeTrack(index: number, track: number): void {
    const tracks = this.tracksOf(index);
    this.layers.does(index, { tracks: tracks.filter((_, i) => i !== track) }, `no more keys of ${nameOfTrack(tracks[track])}`);
  }

  /** Lets places go with something else, and takes them over: nothing moves at the frame that is shown. */
  setFrame(index: number, track: number, frame: ReachTrack['frame']): void {
    const { layer } = this.pairs.now.choices.layers[index];
    const own = this.tracksOf(index)[track] as ReachTrack;
    const isPlace = layer.does.kind === 'reach' && layer.does.way === 'replace';
    const keys = isPlace && own.keys.length > 0 ? [{ ...keyAt(this.layers.now, this.placeOf({ ...own, frame })) }] : own.keys;
    this.setTrack(index, track, { frame, keys }, `${nameOfTrack(own)} with ${frame}`);
  }

  /** Sets the amounts of a track at the frame that is shown: of its key there, which is made where there is none. */
  setValue(index: number, track: number, value: Triple, key?: string): void {
    const own = this.tracksOf(index)[track];
    const at = this.layers.now;
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
      first: layer.mask ? held(this.layers.frameAt(layer.mask.from - fade)) : 0,
      last: layer.mask ? held(this.layers.frameAt(layer.mask.to + fade)) : frames - 1,
      timeOf: (frame) => this.layers.secondsAt(frame),
    };
    const { axes, character } = solved;
    const { keys, worst } =
      'role' in own
        ? thinTurns(axes, character.skeleton, joint, span, tolerance)
        : thinPlaces(axes, character.skeleton, joint, frameOf(solved, own.frame), span, tolerance);
    const tracks = this.tracksOf(index).map((one, i) => (i === track ? { ...one, keys } : one));
    this.layers.does(index, { tracks, way: 'replace' }, `${nameOfTrack(own)} as ${keys.length} keys`);
    return { keys: keys.length, worst };
  }

  /** Sets a key at the frame that is shown with what is there, or removes it. */
  toggleKey(index: number, track: number): void {
    const own = this.tracksOf(index)[track];
    const at = this.layers.now;
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
    this.layers.does(index, { tracks: next }, `mirror the keys of ${nameOfTrack(own)}`);
  }

  /** Puts copied keys into a track, the first at the frame that is shown. */
  pasteKeys(index: number, track: number): void {
    const keys = this.copied();
    if (keys.length === 0) return;
    const own = this.tracksOf(index)[track];
    const by = this.layers.now - keys[0].at;
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
    valueAt(out, own.keys, this.layers.now + SAME_MOMENT / 4);
    return [out[0], out[1], out[2]];
  }

  hasKey(index: number, track: number): boolean {
    return this.keyHere(index, track) !== undefined;
  }

  /** The key of a track at the frame that is shown. */
  keyHere(index: number, track: number): LayerKey | undefined {
    return this.tracksOf(index)
      .at(track)
      ?.keys.find((one) => Math.abs(one.at - this.layers.now) <= SAME_MOMENT);
  }

  tracksOf(index: number): readonly Track[] {
    const does = this.pairs.now.choices.layers.at(index)?.layer.does;
    return does?.kind === 'turns' || does?.kind === 'reach' ? does.tracks : [];
  }

  /** How a track's joint stands, as the amounts that would put it so. */
  private placeOf(track: Track): Triple {
    const { solved } = this.solve.state;
    const pose = this.layers.pose();
    const joint = solved?.roles.get('role' in track ? track.role : track.end);
    if (!solved || !pose || joint === undefined) return [0, 0, 0];
    if ('role' in track) return turnFromRest(solved.axes, solved.character.skeleton, pose, joint);
    return placeIn(solved.axes, pose, joint, frameOf(solved, track.frame));
  }

  private setTrack(index: number, track: number, change: object, text: string, key?: string): void {
    const tracks = this.tracksOf(index).map((own, i) => (i === track ? { ...own, ...change } : own));
    this.layers.does(index, { tracks }, text, key);
  }
}
