import { smoothstep } from '../../math/filter';
import type { ResolveGiven } from './given';

/** Shorter than this between two holds is no flight, seconds. */
const SHORTEST = 0.08;
/** How fast the hips go is told by so many seconds at either end. */
const TOLD_BY = 0.04;
/** What a body falls by in the air, metres a second squared. */
const GRAVITY = 9.81;
/** Of that share downwards on, the mean of a span without a hold begins to be a flight, and by the second it is one. */
const FALLS = [0.3, 0.7] as const;

/**
 * How far the body is in the air, from 0 to 1, one a frame: neither foot is held, the body does not rest, and the hips, as copied, fall as what is
 * thrown does.
 * @param lift scale by which the performer's heights become the character's
 */
export function airOf(
  { legs, resting, lift, frameTime }: Pick<ResolveGiven, 'legs' | 'resting' | 'lift' | 'frameTime'>,
  held: readonly Uint8Array[],
): Float64Array | undefined {
  const { frames } = legs[0];
  const isFree = (f: number): boolean => held.every((one) => one[f] === 0) && !(resting && resting[f] > 0);
  const height = (f: number): number => legs.reduce((sum, { data, stride, at }) => sum + data[f * stride + at.top + 1], 0) / legs.length;
  const step = Math.max(1, Math.round(TOLD_BY / frameTime));
  let out: Float64Array | undefined;
  for (let first = 0, last = 0; first < frames; first = last + 1) {
    last = first;
    if (!isFree(first)) continue;
    while (last + 1 < frames && isFree(last + 1)) last++;
    const seconds = (last - first - step) * frameTime;
    // What begins or ends with the take may stand as well.
    if (first === 0 || last + 1 === frames || (last - first) * frameTime < SHORTEST || seconds <= 0) continue;
    const begins = (height(first + step) - height(first)) / (step * frameTime);
    const ends = (height(last) - height(last - step)) / (step * frameTime);
    const share = smoothstep(((begins - ends) / (seconds * GRAVITY * lift) - FALLS[0]) / (FALLS[1] - FALLS[0]));
    if (share > 0) (out ??= new Float64Array(frames)).fill(share, first, last + 1);
  }
  return out;
}
