import { lowestOf } from '../../rig';
import { emptyPose, forward } from '../../skeleton';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';

/** Hands higher over the floor than this share of a leg are not looked at. */
const NEAR_FLOOR = 0.5;

/**
 * How high the displacement of each hand has to be at least, metres, for its skin to stay over the floor: one a frame, −∞ where it is far from it.
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
  const near = floor + NEAR_FLOOR * legLength;
  for (let f = 0; f < frames; f++) {
    if (palms.every((palm) => palm[f * 3 + 1] > near)) continue;
    placeBody(translations, given, f);
    forward(pose, parents, translations, given.rotations, f * parents.length * 4);
    for (let k = 0; k < hands.length; k++) if (palms[k][f * 3 + 1] <= near) out[k][f] = floor - lowestOf(hands[k].skin, pose);
  }
  return out;
}
