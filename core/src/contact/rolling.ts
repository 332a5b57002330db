import { smoothstep } from '../math/filter';
import type { ProbeTrack } from './probes';
import { placeOf } from './resting';
import type { Span } from './still';
import { square } from '../math/numbers';

/** Ways of less than this share of a leg say nothing. */
const NOTHING = 3e-4;
/** A toe tip that is no farther from its middle place than this share of a leg rests. */
const TIP = 0.015;

/**
 * Point that a planted ball of a foot rolls over: 1 for the joint of toes that lie flat while the heel is lifted, as feet do; 0 for the ball
 * under it, where toes are stiff, or where the take has the ball stiller than the joint.
 */
export function rollOf(
  { heel, ball, joint, tip, toes }: Omit<ProbeTrack, 'side' | 'isOver'>,
  first: number,
  last: number,
  leg: number,
): number {
  const nothing = square(NOTHING * leg);
  // Where the tip would be if the foot did not bend: as far ahead of the ball as the toes are long.
  const stiff = spread(ball, first, last, heel, toes);
  const flat = 1 - Math.min(1, spread(tip, first, last) / (stiff + nothing));
  if (flat === 0) return 0;
  const share = flat * Math.min(1, (spread(ball, first, last) + nothing) / (spread(joint, first, last) + nothing));
  // It is the one or the other: noise draws the share to the middle.
  return smoothstep(2 * share);
}

/** Mean square of the way from the mean place; of places beyond `a` by a share of the way from `b` to it. */
function spread(a: Float64Array, first: number, last: number, b = a, beyond = 0): number {
  const count = last - first + 1;
  let sum = 0;
  for (let c = 0; c < 3; c++) {
    let mean = 0;
    let square = 0;
    const start = a[first * 3 + c] + (a[first * 3 + c] - b[first * 3 + c]) * beyond;
    for (let i = first * 3 + c; i <= last * 3 + c; i += 3) {
      // From the first place on, so that nothing is lost far from the origin.
      const v = a[i] + (a[i] - b[i]) * beyond - start;
      mean += v;
      square += v * v;
    }
    sum += square - (mean * mean) / count;
  }
  return Math.max(0, sum) / count;
}

/** How high over the floor the toe tip rests while the ball is planted: metres, one a frame of the plant; NaN where it does not. */
export function restingTips(tip: Float64Array, { first, last }: Span, floor: number, leg: number): Float64Array {
  const place = placeOf(tip, first, last);
  return Float64Array.from({ length: last - first + 1 }, (_, i) => {
    let gap = 0;
    for (let c = 0; c < 3; c++) gap += square(tip[(first + i) * 3 + c] - place[c]);
    return gap < square(TIP * leg) ? place[1] - floor : NaN;
  });
}
