import { SIDES } from '../../label';
import { envelope } from '../../math/filter';
import { lowestOf } from '../../rig';
import { emptyPose, forward } from '../../skeleton';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';

/** Seconds over which a hand is lifted off the floor and let down again. */
const CLEAR = 0.4;
/** Hands higher over the floor than this share of a leg are not looked at. */
const NEAR_FLOOR = 0.35;

/** Lifts hands whose skin would go below the floor; adds to the shifts. @returns false when none would */
export function clearFloor(
  { pairing: { character }, plan, rotations, root, contacts, frameTime, floor }: HandsGiven,
  palms: readonly Float64Array[],
  shifts: readonly Float64Array[],
): boolean {
  const { skeleton, hands, legLength } = character;
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
        placeBody(translations, { plan, root }, f);
        forward(pose, parents, translations, rotations, f * parents.length * 4);
        posed = true;
      }
      const low = lowestOf(hands[k].skin, pose) + lift;
      if (low >= floor) continue;
      needs[k][f] = floor - low;
      any = true;
    }
  }
  if (!any) return false;
  // A hand that rests is as high from the first frame of its rest to the last as it ever has to be.
  for (const { side, on, first, last } of contacts.hands?.touches ?? []) {
    const need = needs[SIDES.indexOf(side)] as Float64Array | undefined;
    if (on !== 'rest' || !need) continue;
    let most = 0;
    for (let f = first; f <= last; f++) most = Math.max(most, need[f]);
    need.fill(most, first, last + 1);
  }
  const radius = Math.round(CLEAR / frameTime);
  needs.forEach((need, k) => {
    const rise = envelope(need, radius);
    for (let f = 0; f < frames; f++) shifts[k][f * 3 + 1] += rise[f];
  });
  return true;
}
