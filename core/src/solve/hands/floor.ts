import { ClipReader } from '../../clip';
import { lowestOf } from '../../rig';
import { emptyPose, forward } from '../../skeleton';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';

/** Hands higher over the floor than this share of a leg are not looked at. */
const NEAR_FLOOR = 0.5;
/** Shares of a leg by which the bones of a hand that is laid down may be in the floor: the ends of fingers that press on it. What is deeper is under it. */
const THICK = 0.025;

/**
 * How deep each of the performer's hands is in its own floor, in proportion, metres, one a frame. Where a character has no mesh its hands end at
 * their bones: what the performer's bones do in its floor is a thickness, and no fault.
 */
function depthOf({ pairing: { performer, scale }, take, contacts }: HandsGiven, near: number): Float64Array[] {
  const reader = new ClipReader(performer.skeleton, take);
  const thick = THICK * performer.legLength;
  const out = performer.hands.map(() => new Float64Array(take.frames));
  for (let f = 0; f < take.frames; f++) {
    if (contacts.hands?.palms.every((palm) => !palm || palm[f * 3 + 1] > near)) continue;
    const pose = reader.at(f);
    performer.hands.forEach(
      ({ skin }, k) => (out[k][f] = scale.lift * Math.max(0, Math.min(thick, contacts.floor - lowestOf(skin, pose)))),
    );
  }
  return out;
}

/**
 * How high the displacement of each hand has to be at least, metres, for its skin to stay over the floor: one a frame, −∞ where it is far from it, and
 * on the performer's own body, where hands are as low as the take has them.
 * @param palms places of the posed palms, 3 per frame
 */
export function floorUnder(given: HandsGiven, palms: readonly Float64Array[]): Float64Array[] {
  const { floor } = given;
  const { skeleton, hands, legLength } = given.pairing.character;
  const { parents } = skeleton;
  const frames = palms[0].length / 3;
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const out = hands.map(() => new Float64Array(frames).fill(-Infinity));
  if (given.pairing.same.same) return out;
  const near = floor + NEAR_FLOOR * legLength;
  const isBare = given.pairing.character.volumes.length === 0 && given.pairing.performer.hands.length === hands.length;
  const depths = isBare ? depthOf(given, given.contacts.floor + NEAR_FLOOR * given.pairing.performer.legLength) : undefined;
  for (let f = 0; f < frames; f++) {
    if (palms.every((palm) => palm[f * 3 + 1] > near)) continue;
    placeBody(translations, given, f);
    forward(pose, parents, translations, given.rotations, f * parents.length * 4);
    for (let k = 0; k < hands.length; k++)
      if (palms[k][f * 3 + 1] <= near) {
        const least = floor - lowestOf(hands[k].skin, pose) - (depths?.[k][f] ?? 0);
        out[k][f] = Math.max(least, floor - palms[k][f * 3 + 1]);
      }
  }
  return out;
}
