import { ClipReader } from '../../clip';
import { mulInv, rotate } from '../../math/quat';
import { gapTo, leanVolumes, sideOf, type Volume } from '../../rig';
import { pointInWorld, withAncestors, type Pose } from '../../skeleton';
import type { HandsGiven } from './given';

/**
 * Writes the unit way out of a part on which the performer's own hand is, or a place of its fore arm, in the character's world.
 * @param along share of the fore arm from the wrist; undefined for the palm
 * @returns how far the performer's is from its own part, metres; below 0 where it is in it, and tells none
 */
export type WayOut = (out: Float64Array, frame: number, hand: number, part: number, along: number | undefined) => number;

/**
 * On which side of each part of its own body a hand of the performer is: a hand that runs into the part on another body leaves it there, where the
 * shortest way out would send it across.
 * @param parts volumes of the character
 * @param poseAt the character's pose in a frame; the joints of the volumes stand in it under their own numbers
 */
export function waysOut(
  { pairing, take }: HandsGiven,
  parts: readonly Volume[],
  poseAt: (frame: number) => { readonly pose: Pose },
): WayOut {
  const { performer, character, match } = pairing;
  const lean = new Map(leanVolumes(performer).map((volume) => [volume.role, volume]));
  // Trunks of unlike counts of bones: what stands for a bone of one is the nearest in the other.
  const theirs = parts.map(
    ({ role }) => lean.get(role) ?? (role.startsWith('spine.') ? (lean.get('spine.1') ?? lean.get('hips')) : undefined),
  );
  const hands = character.hands.map(({ side }) => performer.hands.find((one) => one.side === side));
  const elbows = character.hands.map(({ side }) => performer.roles.get(`${side}.lowerArm`));
  const joints = [
    ...theirs.flatMap((one) => one?.joint ?? []),
    ...hands.flatMap((one) => one?.hand ?? []),
    ...elbows.flatMap((one) => one ?? []),
  ];
  const reader = new ClipReader(performer.skeleton, take, withAncestors(performer.skeleton.parents, joints));
  const place = new Float64Array(3);
  const turn = new Float64Array(4);
  let posed = -1;
  return (out, f, k, i, along) => {
    const [part, hand, elbow] = [theirs[i], hands[k], elbows[k]];
    if (!part || !hand || (along !== undefined && elbow === undefined)) return -1;
    if (posed !== f) reader.at(f);
    posed = f;
    if (along === undefined) pointInWorld(place, 0, reader.pose, hand.hand, hand.palm, 0);
    else {
      const { positions } = reader.pose;
      for (let c = 0; c < 3; c++) place[c] = positions[hand.hand * 3 + c] * (1 - along) + positions[elbow! * 3 + c] * along;
    }
    const gap = (part.drawn > 0 && along !== undefined ? sideOf : gapTo)(part, reader.pose, place, 0, out);
    if (gap < 0) return gap;
    mulInv(turn, 0, performer.restPose.rotations, part.joint * 4, reader.pose.rotations, part.joint * 4);
    rotate(out, 0, turn, 0, out, 0);
    mulInv(turn, 0, poseAt(f).pose.rotations, i * 4, match.pose.rotations, parts[i].joint * 4);
    rotate(out, 0, turn, 0, out, 0);
    return gap;
  };
}
