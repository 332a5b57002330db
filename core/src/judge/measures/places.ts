import type { Found } from '../figure';
import type { CopiedEnd } from '../look/copied';
import { isDown, type Standing } from '../look/holding';
import type { Scene } from '../scene';
import { hypot } from '../../math/numbers';

/** Frames of a rest that are looked at. */
const LOOKED = 9;

/**
 * Mean way in a rest between where a limb ends and where the performer's directions put it, metres.
 * @param isOver over the floor only: what stands on it is as high as it is
 */
function awayIn({ mine, copied }: CopiedEnd, { first, last }: Standing, isOver: boolean): number {
  const step = Math.max(1, Math.floor((last - first + 1) / LOOKED));
  const sum = [0, 0, 0];
  let count = 0;
  for (let f = first; f <= last; f += step, count++) {
    for (let c = 0; c < 3; c++) if (!isOver || c !== 1) sum[c] += mine[f * 3 + c] - copied[f * 3 + c];
  }
  return hypot(...sum) / count;
}

/** Rests of one foot or hand that do not lie in longer ones of other points of it: while a foot stands, its tip that comes down tells of no other place. */
function longest(rests: readonly Standing[]): readonly Standing[] {
  return rests.filter(
    (rest, i) =>
      !rests.some(
        (other, j) => other.first <= rest.first && other.last >= rest.last && (other.last - other.first > rest.last - rest.first || j < i),
      ),
  );
}

/** True for a rest in which the hand is on the performer's own body for some time. */
function isOnBody({ crossings }: Scene['seen'], side: string, { first, last }: Standing): boolean {
  return crossings.touching[side].some((frame) => frame >= first && frame <= last);
}

function places({ given, seen, rests, meeting, grip, overFloor, at }: Scene, kind: 'feet' | 'hands'): Found {
  const id = `places.${kind}` as const;
  let worst = { away: 0, frame: -1, what: '' };
  let count = 0;
  const nameOf = ({ point }: Standing): string => seen.points[point].name;
  for (const end of seen.copied) {
    const [side] = end.name.split(' ');
    if (end.kind !== kind) continue;
    for (const rest of longest(rests.filter((one) => one.kind === kind && nameOf(one).startsWith(side)))) {
      // Hands that meet, touch the body or hold a thing are led by it; their figures are others.
      if (kind === 'hands' && (meeting.frames > 0 || (grip?.seconds ?? 0) > 0 || isOnBody(seen, side, rest))) continue;
      count++;
      const isOver = kind === 'feet' || isDown(rest, overFloor(rest.theirs), given.performer.legLength);
      const away = awayIn(end, rest, isOver) / end.length;
      if (away > worst.away) worst = { away, frame: rest.first, what: nameOf(rest) };
    }
  }
  const isSeen = count > 0 && !given.inPlace;
  return {
    id,
    value: isSeen ? 100 * worst.away : NaN,
    looked: `${count} rests`,
    words: worst.frame < 0 ? 'every rest is where the performer’s is' : `most the ${worst.what} at ${at(worst.frame)}`,
    frame: isSeen && worst.frame >= 0 ? worst.frame : undefined,
  };
}

/** How far feet rest from where the performer's do, on the character's own legs. */
export const placesOfFeet = (scene: Scene): Found => places(scene, 'feet');
/** How far hands rest from where the performer's do, on the character's own arms. */
export const placesOfHands = (scene: Scene): Found => places(scene, 'hands');
