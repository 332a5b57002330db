import { rotate } from '../../math/quat';
import type { UnderFoot } from '../underFoot';
import type { FootHold } from './foot';

/** A foot that is in the floor by less than this is not, metres. */
const NOTHING = 1e-6;
const arm = new Float64Array(3);

/**
 * The least heights of the displacement of a swinging foot whose heel or ball is under the floor.
 * @param ends displacement of the ankle; 3 per frame
 * @param from frames before this one are final
 * @returns one a frame, NaN where there is none; undefined where there is none at all
 */
export function lowestEnds(
  { leg, foot, footQ, pivots: { held } }: FootHold,
  ends: Float64Array,
  under: UnderFoot,
  from: number,
): Float64Array | undefined {
  const { data, stride, at, frames } = leg;
  let out: Float64Array | undefined;
  for (let f = from; f < frames; f++) {
    if (held[f]) continue;
    let need = 0;
    const o = f * stride + at.end;
    for (const point of [foot.heel, foot.ball]) {
      rotate(arm, 0, footQ, f * 4, point, 0);
      const x = data[o] + ends[f * 3] + arm[0];
      const z = data[o + 2] + ends[f * 3 + 2] + arm[2];
      need = Math.max(need, under(f, x, z) - (data[o + 1] + ends[f * 3 + 1] + arm[1]));
    }
    if (need <= NOTHING) continue;
    out ??= new Float64Array(frames).fill(NaN);
    out[f] = ends[f * 3 + 1] + need;
  }
  return out;
}
