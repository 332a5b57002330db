import { SIDES } from '../../label';
import { envelope, smootherstep } from '../../math/filter';
import { framesToHeld } from '../held';
import { lowestOf } from '../../rig';
import { emptyPose, forward } from '../../skeleton';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';

/** Seconds over which a hand is lifted off the floor and let down again. */
const CLEAR = 0.4;
/** Hands higher over the floor than this share of a leg are not looked at. */
const NEAR_FLOOR = 0.35;

/** Lifts hands whose skin would go below the floor; adds to the shifts. @returns false when none would */
export function clearFloor(given: HandsGiven, palms: readonly Float64Array[], shifts: readonly Float64Array[]): boolean {
  const { contacts, frameTime, floor } = given;
  const { skeleton, hands, legLength } = given.pairing.character;
  const { parents } = skeleton;
  const frames = palms[0].length / 3;
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  let any = false;
  const needs = hands.map(() => new Float64Array(frames));
  for (let f = 0; f < frames; f++) {
    let posed = false;
    for (let k = 0; k < hands.length; k++) {
      const lift = shifts[k][f * 3 + 1];
      if (palms[k][f * 3 + 1] + lift - floor > NEAR_FLOOR * legLength) continue;
      if (!posed) {
        placeBody(translations, given, f);
        forward(pose, parents, translations, given.rotations, f * parents.length * 4);
        posed = true;
      }
      const low = lowestOf(hands[k].skin, pose) + lift;
      if (low >= floor) continue;
      needs[k][f] = floor - low;
      any = true;
    }
  }
  if (!any) return false;
  const rests = needs.map(() => new Uint8Array(frames));
  // A hand that rests is as high from the first frame of its rest to the last as it ever has to be.
  for (const { side, on, first, last } of contacts.hands?.touches ?? []) {
    const k = SIDES.indexOf(side);
    const need = needs[k] as Float64Array | undefined;
    if (on !== 'rest' || !need) continue;
    let most = 0;
    for (let f = first; f <= last; f++) most = Math.max(most, need[f]);
    need.fill(most, first, last + 1);
    // One that does not lie on the floor is let go early where it has to be lifted soon, as a jerk would show more.
    if (most > 0) rests[k].fill(1, first, last + 1);
  }
  const radius = Math.round(CLEAR / frameTime);
  needs.forEach((need, k) => {
    const rise = besideRests(need, rests[k], envelope(need, radius), radius);
    for (let f = 0; f < frames; f++) shifts[k][f * 3 + 1] += rise[f];
  });
  return true;
}

/** A lift needed just before a rest, or just after it, does not lift the hand in the rest. */
function besideRests(need: Float64Array, rests: Uint8Array, smooth: Float64Array, width: number): Float64Array {
  const away = framesToHeld(rests);
  // How high the hand is in the rest that is nearest.
  const high = need.map((height, f) => (rests[f] ? height : NaN));
  const nearest = (f: number, from: number): void => {
    if (Number.isNaN(high[f]) && away[from] < away[f]) high[f] = high[from];
  };
  for (let f = 1; f < high.length; f++) nearest(f, f - 1);
  for (let f = high.length - 2; f >= 0; f--) nearest(f, f + 1);
  return need.map((height, f) => {
    if (rests[f]) return height;
    if (away[f] > width) return smooth[f];
    const share = smootherstep(away[f] / (width + 1));
    return Math.max(height, high[f] + (smooth[f] - high[f]) * share);
  });
}
