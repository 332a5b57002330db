import type { Numbers } from '../../math/quat';
import { frameOrNone, type Found } from '../figure';
import type { Scene } from '../scene';

/** Frames on each side in which the performer's own points may do as much. */
const NEAR = 3;
/** A limb of other proportions may be accelerated so many times as much as the performer's nearest. */
const MORE = 2;
/** And by so much more, metres a second squared: what corrections that nobody sees take. */
const UNSEEN = 15;

/** Joints that jump from one frame to the next where the performer's do not. */
export interface Jump {
  /** Metres beyond what the performer's own does about that time. */
  readonly away: number;
  readonly point: number;
  readonly frame: number;
}

/**
 * The greatest jump: how far a point of the body is from where its way of the frames before and behind would have it (the second
 * difference of its places), beyond what the performer's does near that frame. A percentile over a take says nothing of one frame.
 * @param mine places of the character's points, frames × count × 3; `theirs` likewise
 * @param scale character over performer
 * @param frameTime seconds
 * @param left 1 for frames that are left out: the take's known faults
 */
export function jumpOf(mine: Numbers, theirs: Numbers, count: number, scale: number, left: Uint8Array, frameTime: number): Jump {
  const frames = left.length;
  const unseen = UNSEEN * frameTime * frameTime;
  let worst: Jump = { away: 0, point: -1, frame: -1 };
  for (let f = 1; f + 1 < frames; f++) {
    if (left[f]) continue;
    for (let i = 0; i < count; i++) {
      const jump = bendIn(mine, count, i, f) - unseen;
      if (jump <= worst.away) continue;
      let most = 0;
      for (let g = Math.max(1, f - NEAR); g <= Math.min(frames - 2, f + NEAR); g++) most = Math.max(most, bendIn(theirs, count, i, g));
      const away = jump - MORE * scale * most;
      if (away > worst.away) worst = { away, point: i, frame: f };
    }
  }
  return worst;
}

/** How far a point is off the middle between where it was and where it will be, doubled. */
function bendIn(places: Numbers, count: number, point: number, f: number): number {
  const o = (f * count + point) * 3;
  const step = count * 3;
  const x = places[o + step] - 2 * places[o] + places[o - step];
  const y = places[o + 1 + step] - 2 * places[o + 1] + places[o + 1 - step];
  const z = places[o + 2 + step] - 2 * places[o + 2] + places[o + 2 - step];
  return Math.sqrt(x * x + y * y + z * z);
}

/** How far a point leaves its way in one frame. */
export function jumps({ given, seen, left, at }: Scene): Found {
  const { points, mine, theirs, frames } = seen;
  const scale = Math.max(given.scale.lift, given.scale.stride);
  const { away, point, frame } = jumpOf(mine, theirs, points.length, scale, left, given.take.frameTime);
  return {
    id: 'jumps',
    value: frames > 2 ? away * 1000 : NaN,
    looked: `${points.length} points, ${frames} frames`,
    words: point < 0 ? 'nothing leaves its way' : `most the ${points[point].name} at ${at(frame)}`,
    frame: point < 0 ? undefined : frameOrNone(frame),
  };
}
