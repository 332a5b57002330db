import { distance } from '../../math/vec';
import { wholeLength, type LimbTrack } from '../limbTrack';
import { WANTED, weightIn } from '../resolve/wanted';
import { REACH } from './rests';
import type { HandWant } from './wants';

/** A hand nearer than this to its place is there: what it rests on gives way to smoothness so far, metres. */
const THERE = 0.01;

/** How far a hand stays from its place at worst, metres, and in which frame. */
export interface Short {
  readonly distance: number;
  readonly frame: number;
}

/**
 * The worst by which a hand stays from where it rests, or from what it holds, where its arm is too short for that: what keeps it away otherwise is no
 * matter of reach. The place of a rest is found, but for its height.
 * @param wants of this hand
 * @param shift displacement from the copied motion, metres, 3 per frame
 * @param share how far the hand follows what is wanted of it
 */
export function shortOf(arm: LimbTrack, wants: readonly HandWant[], shift: Float64Array, share: number, frameTime: number): Short {
  let worst: Short = { distance: 0, frame: 0 };
  const { data, stride, at } = arm;
  const place = new Float64Array(3);
  for (const want of wants) {
    const { how, isHigh, first, last, target } = want;
    const isAsked = [how === 'at', how === 'at' || isHigh, how === 'at'];
    for (let f = first; f <= last; f++) {
      const o = f * stride;
      let missed = 0;
      for (let c = 0; c < 3; c++) {
        const by = isAsked[c] ? share * target[(f - first) * 3 + c] : 0;
        place[c] = data[o + at.end + c] + by;
        if (isAsked[c]) missed += (shift[f * 3 + c] - by) * (shift[f * 3 + c] - by);
      }
      const away = Math.sqrt(missed);
      if (!(away > Math.max(THERE, worst.distance)) || weightIn(f, want, frameTime) < WANTED / 2) continue;
      const reach = Math.max(REACH * wholeLength(arm, f), distance(data, o + at.top, data, o + at.end));
      if (distance(data, o + at.top, place, 0) > reach) worst = { distance: away, frame: f };
    }
  }
  return worst;
}
