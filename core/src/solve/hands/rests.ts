import { isOnFloor, type Hands } from '../../contact';
import { SIDES } from '../../label';
import type { Pairing } from '../../match';
import { square } from '../../math/numbers';
import { distance } from '../../math/vec';
import { wholeLength, type LimbTrack } from '../limbTrack';
import { coverCurve, unbroken } from '../../math/leastCurve';
import { targetOf, type HandWant } from './wants';

/** Share of its length that an arm goes out to for a place on the floor, and how slowly the hand is lifted where it ends, seconds. */
export const REACH = 0.95;
const LIFT = 0.25;

/** Share of its length by which the place of a hand on the floor comes nearer to its shoulder before it is lifted. */
const INWARD = 0.2;

/** A hand that strays from its place by less than this share of a leg is let be: nobody sees it, and a straight elbow would pay for it. */
export const PLAY = 0.008;

/** What rests of both hands are told from. */
interface RestsGiven {
  readonly hands: Hands;
  readonly pairing: Pick<Pairing, 'scale' | 'performer'>;
  /** Height of the performer's floor and of the character's, metres; undefined where it is not level. */
  readonly floors: readonly [theirs: number, mine: number] | undefined;
  /** Places on the floor are lifted to where arms reach them. */
  readonly reached: boolean;
  readonly frameTime: number;
}

/**
 * A hand that rests keeps its place but for what the performer's own moves in its rest; on the floor it lies as high over it as the performer's,
 * in proportion, as far as the arm reaches down to it.
 * @param k of the hand
 * @param mine places of the palm of the posed arm
 */
export function restWants(
  { hands: { palms, touches }, pairing: { scale, performer }, floors, reached, frameTime }: RestsGiven,
  k: number,
  arm: LimbTrack,
  mine: Float64Array,
): HandWant[] {
  const theirs = palms[k];
  if (!theirs) return [];
  const play = PLAY * performer.legLength * scale.stride;
  const ratio = [scale.stride, scale.lift, scale.stride];
  return touches
    .filter(({ side, on }) => side === SIDES[k] && on === 'rest')
    .map(({ first, last }): HandWant => {
      const isHigh = floors !== undefined && isOnFloor(theirs, { first, last }, floors[0], performer.legLength);
      const drop = isHigh ? ratio[1] * floors[0] - floors[1] : 0;
      const target = targetOf(first, last, (f, out, at) => {
        for (let c = 0; c < 3; c++) out[at + c] = ratio[c] * theirs[f * 3 + c] - mine[f * 3 + c] - (c === 1 ? drop : 0);
      });
      if (isHigh && reached) {
        const short = Float64Array.from({ length: last - first + 1 }, (_, i) => lowestOf(arm, first + i) - target[i * 3 + 1]);
        coverCurve(short, LIFT, unbroken(short.length, frameTime))?.forEach((lift, i) => (target[i * 3 + 1] += lift));
      }
      letBe(target, play, isHigh);
      return { how: 'still', hand: k, first, last, target, isHigh };
    });
}

/** The lowest displacement of a hand that its arm reaches where it is over the floor, or a little nearer, metres; it may be as straight as it was carried over. */
function lowestOf(arm: LimbTrack, f: number): number {
  const { data, stride, at } = arm;
  const o = f * stride;
  const reach = Math.max(REACH * wholeLength(arm, f), distance(data, o + at.top, data, o + at.end));
  const x = data[o + at.end] - data[o + at.top];
  const z = data[o + at.end + 2] - data[o + at.top + 2];
  const out = Math.max(0, Math.sqrt(x * x + z * z) - INWARD * wholeLength(arm, f));
  return data[o + at.top + 1] - Math.sqrt(Math.max(0, reach * reach - out * out)) - data[o + at.end + 1];
}

/** Leaves out the way about its mean by which a target strays less than some play, without a corner. @param isHigh the height is no play */
function letBe(target: Float64Array, play: number, isHigh: boolean): void {
  const count = target.length / 3;
  const mean = [0, 0, 0];
  for (let i = 0; i < target.length; i++) mean[i % 3] += target[i] / count;
  for (let i = 0; i < target.length; i += 3) {
    let size = 0;
    for (let c = 0; c < 3; c++) size += square(target[i + c] - mean[c]);
    const kept = size / (size + play * play);
    for (let c = 0; c < 3; c++) if (c !== 1 || !isHigh) target[i + c] = mean[c] + kept * (target[i + c] - mean[c]);
  }
}
