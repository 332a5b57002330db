import type { MotionFile } from '../formats';
import { chain, FINGERS, SIDES, type RoleMap, type Side } from '../label';
import { unrotate } from '../math/quat';
import { isBelow, type Pose, type Skeleton } from '../skeleton';
import { outermost, type CarriedPoint } from './outermost';
import { hypot } from '../math/numbers';

/** One hand: where it takes hold, and how far its skin reaches. */
export interface Hand {
  readonly side: Side;
  readonly hand: number;
  /** Middle of the palm in the hand's frame. */
  readonly palm: Float64Array;
  /** Where the longest finger ends, in the frame of its last joint; twice as far as the palm where there are no fingers. */
  readonly tip: { readonly joint: number; readonly local: Float64Array };
  /** Outermost points of the skin of hand and fingers; ends of the bones where there is no mesh. */
  readonly skin: readonly CarriedPoint[];
}

/** The palm lies this far along the way to the first joints of the fingers. */
const PALM = 0.6;
/** Places both hands of a body. @param metres per unit of the file */
export function placeHands(skeleton: Skeleton, rest: Pose, roles: RoleMap, skin: MotionFile['skin'], metres: number): Hand[] {
  return SIDES.flatMap((side) => {
    const hand = roles.get(`${side}.hand`);
    if (hand === undefined) return [];
    const palm = palmOf(skeleton, rest, roles, side, hand);
    const tip = tipOf(skeleton, roles, side) ?? { joint: hand, local: palm.map((v) => 2 * v) };
    return [{ side, hand, palm, tip, skin: outermost(skeleton, skin, metres, below(skeleton, hand)) }];
  });
}

function tipOf({ tips }: Skeleton, roles: RoleMap, side: Side): Hand['tip'] | undefined {
  const joint = ['middle', 'index'].map((finger) => chain(roles, `${side}.${finger}`).at(-1)).find((j) => j !== undefined);
  if (joint === undefined) return undefined;
  const local = tips.slice(joint * 3, joint * 3 + 3);
  return { joint, local: local.every(Number.isFinite) ? local : new Float64Array(3) };
}

function palmOf(skeleton: Skeleton, { positions, rotations }: Pose, roles: RoleMap, side: Side, hand: number): Float64Array {
  const { parents, tips } = skeleton;
  const palm = new Float64Array(3);
  const bases = FINGERS.slice(1).flatMap((finger) => roles.get(`${side}.${finger}.1`) ?? []);
  if (bases.length > 0) {
    for (const base of bases) {
      for (let c = 0; c < 3; c++) palm[c] += (positions[base * 3 + c] - positions[hand * 3 + c]) * (PALM / bases.length);
    }
    unrotate(palm, 0, rotations, hand * 4, palm, 0);
    return palm;
  }
  // A hand without fingers ends at their tips: the palm is its first half.
  if (Number.isFinite(tips[hand * 3])) {
    for (let c = 0; c < 3; c++) palm[c] = 0.5 * tips[hand * 3 + c];
    return palm;
  }
  let far = 0;
  for (const j of parents.keys()) {
    if (!isBelow(skeleton, j, hand)) continue;
    const way = [0, 1, 2].map((c) => positions[j * 3 + c] - positions[hand * 3 + c]);
    const size = hypot(...way);
    if (size <= far) continue;
    far = size;
    palm.set(way);
  }
  unrotate(palm, 0, rotations, hand * 4, palm, 0);
  return palm.map((v) => v / 2);
}

function below(skeleton: Skeleton, hand: number): number[] {
  return [...skeleton.parents.keys()].filter((j) => isBelow(skeleton, j, hand));
}
