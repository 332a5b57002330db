import { ClipReader, type Clip } from '../clip';
import { hermite } from '../math/filter';
import { fromAxisAngle, mul, rotate } from '../math/quat';
import { DEG } from '../math/trig';
import type { FloorKey } from '../recipe';
import type { Skeleton } from '../skeleton';

/** What a floor is corrected by at a moment: metres up, degrees about the vertical, metres over the floor. */
export type FloorAmounts = Pick<FloorKey, 'height' | 'heading' | 'place'>;

const NONE: FloorAmounts = { height: 0, heading: 0, place: [0, 0] };

/**
 * The correction at a moment: keys are gone through smoothly and without overshoot (monotone cubic: Fritsch and Carlson 1980), held before
 * the first and after the last.
 * @param keys by rising time
 * @param seconds the take's own
 */
export function floorAt(keys: readonly FloorKey[], seconds: number): FloorAmounts {
  if (keys.length === 0) return NONE;
  let b = keys.findIndex(({ at }) => at > seconds);
  if (b < 0) b = keys.length;
  if (b === 0) return keys[0];
  if (b === keys.length) return keys[b - 1];
  const value = (of: (key: FloorKey) => number): number => between(keys, b - 1, seconds, of);
  return {
    height: value(({ height }) => height),
    heading: value(({ heading }) => heading),
    place: [value(({ place }) => place[0]), value(({ place }) => place[1])],
  };
}

function between(keys: readonly FloorKey[], a: number, seconds: number, of: (key: FloorKey) => number): number {
  const [from, to] = [keys[a], keys[a + 1]];
  const width = to.at - from.at;
  return hermite(of(from), slopeAt(keys, a, of), of(to), slopeAt(keys, a + 1, of), width, (seconds - from.at) / width);
}

/** Slope at a key: the harmonic mean of those on both sides where they agree in sign, level where they do not; at an end that of its side. */
function slopeAt(keys: readonly FloorKey[], k: number, of: (key: FloorKey) => number): number {
  const slope = (i: number): number => (of(keys[i + 1]) - of(keys[i])) / (keys[i + 1].at - keys[i].at);
  if (k === 0) return slope(0);
  if (k === keys.length - 1) return slope(k - 1);
  const [before, after] = [slope(k - 1), slope(k)];
  return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
}

/**
 * Takes a drift out of a take by keys over time. A heading that drifted bent the way too: each step over the floor is turned as the body is,
 * and the way goes on from where it has come to.
 * @param body joint whose way over the floor is the take's
 * @param timeOf the take's own second of a frame
 */
export function withoutDrift(
  skeleton: Skeleton,
  clip: Clip,
  keys: readonly FloorKey[],
  body: number,
  timeOf: (frame: number) => number,
): Clip {
  if (keys.length === 0) return clip;
  const sorted = [...keys].sort((a, b) => a.at - b.at);
  const roots = [...skeleton.parents.keys()].filter((j) => skeleton.parents[j] < 0);
  const joints = skeleton.parents.length;
  const rotations = clip.rotations.slice();
  const tracks = new Map(clip.moves.map(({ joint, values }) => [joint, values.slice()]));
  for (const joint of roots) {
    if (tracks.has(joint)) continue;
    // A root without places of its own stands at its rest place.
    const values = new Float32Array(clip.frames * 3);
    for (let f = 0; f < clip.frames; f++) values.set(skeleton.restT.subarray(joint * 3, joint * 3 + 3), f * 3);
    tracks.set(joint, values);
  }
  const reader = new ClipReader(skeleton, clip);
  const [turn, half, v] = [new Float64Array(4), new Float64Array(4), new Float64Array(3)];
  const now = new Float64Array(3);
  const before = new Float64Array(3);
  const to = new Float64Array(3);
  let heading = 0;
  for (let f = 0; f < clip.frames; f++) {
    const amounts = floorAt(sorted, timeOf(f));
    now.set(reader.at(f).positions.subarray(body * 3, body * 3 + 3));
    if (f === 0) to.set(now);
    else {
      // A step lies between two frames, and so does its heading.
      fromAxisAngle(half, 0, 0, 1, 0, ((heading + amounts.heading) / 2) * DEG);
      for (let c = 0; c < 3; c++) v[c] = c === 1 ? 0 : now[c] - before[c];
      rotate(v, 0, half, 0, v, 0);
      to[0] += v[0];
      to[2] += v[2];
    }
    before.set(now);
    heading = amounts.heading;
    fromAxisAngle(turn, 0, 0, 1, 0, heading * DEG);
    for (const joint of roots) {
      const o = (f * joints + joint) * 4;
      mul(rotations, o, turn, 0, rotations, o);
      const values = tracks.get(joint)!;
      for (let c = 0; c < 3; c++) v[c] = values[f * 3 + c] - (c === 1 ? 0 : now[c]);
      rotate(v, 0, turn, 0, v, 0);
      values[f * 3] = v[0] + to[0] + amounts.place[0];
      values[f * 3 + 1] = v[1] + amounts.height;
      values[f * 3 + 2] = v[2] + to[2] + amounts.place[1];
    }
  }
  return { ...clip, rotations, moves: [...tracks].map(([joint, values]) => ({ joint, values })) };
}
