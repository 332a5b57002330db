import type { Hands } from '../../contact';
import { SIDES } from '../../label';
import type { Pairing } from '../../match';
import { percentile } from '../../math/filter';
import { distance } from '../../math/vec';
import { carryOver } from '../carry';
import type { LimbTrack } from '../limbTrack';

/** A palm that rests lower over the floor than this share of a leg rests on it. */
const ON_FLOOR = 0.07;
/** Share of its length that an arm goes out to for a place on the floor, but for a part of the rest. */
const REACH = 0.93;
const MOSTLY = 0.1;

/**
 * The correction that takes a resting hand to its place, 3 per frame, carried over between rests. A hand that rests on the floor does so as high over
 * it as the performer's, in proportion, as far as the arm reaches down to it; any other where it is on this body.
 * @param own places of the palm of the posed arm
 * @param floors height of the performer's floor and of the character's, metres; undefined where it is not level
 */
export function restShift(
  { palms, touches }: Hands,
  arm: LimbTrack,
  mine: Float64Array,
  held: Uint8Array,
  { scale, performer }: Pick<Pairing, 'scale' | 'performer'>,
  floors: readonly [theirs: number, mine: number] | undefined,
  frameTime: number,
): Float64Array {
  const shift = new Float64Array(mine.length);
  const { side } = arm.plan;
  const theirs = palms[SIDES.indexOf(side)];
  if (!theirs) return shift;
  const ratio = [scale.stride, scale.lift, scale.stride];
  for (const touch of touches) {
    const { first, last } = touch;
    if (touch.side !== side || touch.on !== 'rest') continue;
    const count = last - first + 1;
    // Over the floor first: how far down an arm reaches depends on it.
    for (const c of [0, 2, 1]) {
      let away = 0;
      for (let f = first; f <= last; f++) away += ratio[c] * theirs[f * 3 + c] - mine[f * 3 + c];
      away /= count;
      if (c === 1 && floors && middleOf(first, last, (f) => theirs[f * 3 + 1]) - floors[0] < ON_FLOOR * performer.legLength) {
        const reach = series(first, last, (f) => ratio[1] * theirs[f * 3 + 1] - lowestFor(arm, mine, shift, f));
        away = Math.min(ratio[1] * floors[0] - floors[1], Math.max(away, percentile(reach, MOSTLY)));
      }
      for (let f = first; f <= last; f++) shift[f * 3 + c] = ratio[c] * theirs[f * 3 + c] - away - mine[f * 3 + c];
    }
    held.fill(1, first, last + 1);
  }
  carryOver(shift, 3, held, frameTime);
  return shift;
}

/** The lowest that a palm may come to where it is over the floor, as far as its arm reaches. */
function lowestFor({ data, stride, at }: LimbTrack, palms: Float64Array, shift: Float64Array, f: number): number {
  const o = f * stride;
  const reach = REACH * (distance(data, o + at.top, data, o + at.mid) + distance(data, o + at.mid, data, o + at.end));
  const x = data[o + at.end] + shift[f * 3] - data[o + at.top];
  const z = data[o + at.end + 2] + shift[f * 3 + 2] - data[o + at.top + 2];
  const down = Math.sqrt(Math.max(0, reach * reach - x * x - z * z));
  return data[o + at.top + 1] - down + palms[f * 3 + 1] - data[o + at.end + 1];
}

function series(first: number, last: number, of: (frame: number) => number): Float64Array {
  return Float64Array.from({ length: last - first + 1 }, (_, i) => of(first + i));
}

const middleOf = (first: number, last: number, of: (frame: number) => number): number => percentile(series(first, last, of), 0.5);
