import type { Hands } from '../../contact';
import { SIDES } from '../../label';
import type { Pairing } from '../../match';
import { carryOver } from '../carry';

/** What takes a resting hand to its place, 3 per frame, carried over between rests. */
export function restShift(
  { palms, touches }: Hands,
  k: number,
  own: Float64Array,
  held: Uint8Array,
  scale: Pairing['scale'],
  frameTime: number,
): Float64Array {
  const shift = new Float64Array(own.length);
  const theirs = palms[k];
  if (!theirs) return shift;
  const ratio = [scale.stride, scale.lift, scale.stride];
  for (const { side, on, first, last } of touches) {
    if (side !== SIDES[k] || on !== 'rest') continue;
    const count = last - first + 1;
    for (let c = 0; c < 3; c++) {
      let away = 0;
      for (let f = first; f <= last; f++) away += ratio[c] * theirs[f * 3 + c] - own[f * 3 + c];
      away /= count;
      for (let f = first; f <= last; f++) shift[f * 3 + c] = ratio[c] * theirs[f * 3 + c] - away - own[f * 3 + c];
    }
    held.fill(1, first, last + 1);
  }
  carryOver(shift, 3, held, frameTime);
  return shift;
}
