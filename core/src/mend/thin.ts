import { ClipReader, type Clip } from '../clip';
import { angleBetween, exp } from '../math/quat';
import { distance } from '../math/vec';
import type { LayerKey } from '../recipe';
import { isBelow, restPose, withAncestors, type Skeleton } from '../skeleton';
import { inJoint, type Axes } from './axes';
import { valueAt } from './curve';
import { turnFromRest } from './drag';
import { placeIn } from './reach';

/** The motion of a joint as few keys. */
export interface Thinned {
  readonly keys: LayerKey[];
  /** Farthest that the curve takes the joint, or what hangs on it, from the motion, metres. */
  readonly worst: number;
}

/** What is thinned: frames of a clip, and how they lie in the take's own time. */
export interface Span {
  readonly clip: Clip;
  readonly first: number;
  readonly last: number;
  readonly timeOf: (frame: number) => number;
}

/**
 * How a joint is turned from its rest as keys of a layer that replaces it: as few as keep the end of what hangs on it within a tolerance.
 * @param tolerance metres
 */
export function thinTurns(axes: Axes, skeleton: Skeleton, joint: number, span: Span, tolerance: number): Thinned {
  const reader = new ClipReader(skeleton, span.clip, withAncestors(skeleton.parents, [joint]));
  const samples = sampled(span, (f) => turnFromRest(axes, skeleton, reader.at(f), joint));
  unwind(samples);
  const reach = reachBelow(skeleton, joint);
  const [v, a, b] = [new Float64Array(3), new Float64Array(4), new Float64Array(4)];
  return thinned(span, samples, tolerance, (value, i) => {
    inJoint(axes, joint, v, value);
    exp(a, 0, v[0], v[1], v[2]);
    inJoint(axes, joint, v, samples.subarray(i * 3, i * 3 + 3));
    exp(b, 0, v[0], v[1], v[2]);
    return reach * angleBetween(a, 0, b, 0);
  });
}

/** Where a limb end is in a frame's axes as keys of a layer that replaces it. @param frame joint that places go with; −1 is the world */
export function thinPlaces(axes: Axes, skeleton: Skeleton, joint: number, frame: number, span: Span, tolerance: number): Thinned {
  const reader = new ClipReader(skeleton, span.clip, withAncestors(skeleton.parents, frame < 0 ? [joint] : [joint, frame]));
  const samples = sampled(span, (f) => placeIn(axes, reader.at(f), joint, frame));
  return thinned(span, samples, tolerance, (value, i) => 0.01 * distance(value, 0, samples, i * 3));
}

function sampled({ first, last }: Span, of: (frame: number) => readonly number[]): Float64Array {
  const out = new Float64Array((last - first + 1) * 3);
  for (let f = first; f <= last; f++) out.set(of(f), (f - first) * 3);
  return out;
}

/** Rotation vectors that go on past half a turn instead of coming back from the other side, degrees. */
function unwind(samples: Float64Array): void {
  const whole = 360;
  for (let i = 3; i < samples.length; i += 3) {
    const size = Math.sqrt(samples[i] * samples[i] + samples[i + 1] * samples[i + 1] + samples[i + 2] * samples[i + 2]);
    if (size < 1e-9) continue;
    let dot = 0;
    for (let c = 0; c < 3; c++) dot += samples[i + c] * samples[i + c - 3];
    // Along its own axis the nearest of all turns that mean the same.
    const turns = Math.round((dot / size - size) / whole);
    for (let c = 0; c < 3; c++) samples[i + c] *= (size + turns * whole) / size;
  }
}

/** Adds keys where the curve is farthest off until it is nowhere off by more. */
function thinned(
  { first, timeOf }: Span,
  samples: Float64Array,
  tolerance: number,
  off: (value: Float64Array, i: number) => number,
): Thinned {
  const count = samples.length / 3;
  const keyOf = (i: number): LayerKey => ({
    at: timeOf(first + i),
    value: [0, 1, 2].map((c) => Math.round(samples[i * 3 + c] * 1000) / 1000) as [number, number, number],
    tangent: 'smooth',
    slope: null,
  });
  const has = new Uint8Array(count);
  const keys: LayerKey[] = [];
  const add = (i: number): void => {
    has[i] = 1;
    const at = timeOf(first + i);
    const place = keys.findIndex((key) => key.at > at);
    keys.splice(place < 0 ? keys.length : place, 0, keyOf(i));
  };
  add(0);
  if (count > 1) add(count - 1);
  const value = new Float64Array(3);
  for (;;) {
    let worst = 0;
    let where = -1;
    for (let i = 0; i < count; i++) {
      valueAt(value, keys, timeOf(first + i));
      const away = off(value, i);
      if (away > worst) [worst, where] = [away, i];
    }
    // A frame that has a key is off by no more than what is rounded.
    if (worst <= tolerance || where < 0 || has[where]) return { keys, worst };
    add(where);
  }
}

/** How far from a joint the end of what hangs on it is at most, along the bones, metres. */
function reachBelow(skeleton: Skeleton, joint: number): number {
  const { positions } = restPose(skeleton);
  const length = new Float64Array(skeleton.parents.length);
  let most = 0.05;
  for (let j = joint + 1; j < length.length; j++) {
    if (!isBelow(skeleton, j, joint)) continue;
    length[j] = length[skeleton.parents[j]] + distance(positions, j * 3, positions, skeleton.parents[j] * 3);
    most = Math.max(most, length[j]);
  }
  return most;
}
