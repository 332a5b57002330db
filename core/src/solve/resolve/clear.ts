import { coverCurve, type Time } from '../../math/leastCurve';
import { rotate } from '../../math/quat';
import type { UnderFoot } from '../underFoot';
import type { FootHold } from './foot';

/** How slowly the lift bends that clears the floor, seconds: as a free foot comes back to its path. */
const RISE = 0.06;

const arm = new Float64Array(3);

/**
 * Raises a swinging foot whose heel or ball is under the floor as far as it has to, and lets it down again without a corner.
 * @param ends displacement of the ankle; 3 per frame
 * @param from frames before this one are final
 */
export function clearFloor(
  { leg, foot, footQ, pivots: { held } }: FootHold,
  ends: Float64Array,
  under: UnderFoot,
  time: Time,
  from: number,
): void {
  const { data, stride, at, frames } = leg;
  const needs = new Float64Array(frames).fill(-Infinity);
  for (let f = from; f < frames; f++) {
    if (held[f]) continue;
    const o = f * stride + at.end;
    for (const point of [foot.heel, foot.ball]) {
      rotate(arm, 0, footQ, f * 4, point, 0);
      const x = data[o] + ends[f * 3] + arm[0];
      const z = data[o + 2] + ends[f * 3 + 2] + arm[2];
      needs[f] = Math.max(needs[f], under(f, x, z) - (data[o + 1] + ends[f * 3 + 1] + arm[1]));
    }
  }
  const raised = coverCurve(needs, RISE, time, withPast(held, from));
  if (raised) for (let f = from; f < frames; f++) ends[f * 3 + 1] += raised[f];
}

/** Frames whose ends stand: held ones, and the final ones. */
export function withPast(held: Uint8Array, from: number): Uint8Array {
  return from > 0 ? held.slice().fill(1, 0, from) : held;
}
