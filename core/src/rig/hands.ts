import type { MotionFile } from '../formats';
import { FINGERS, SIDES, type RoleMap, type Side } from '../label';
import { unrotate } from '../math/quat';
import { isBelow, type Pose, type Skeleton } from '../skeleton';

/** A point that a joint carries. */
export interface CarriedPoint {
  readonly joint: number;
  readonly local: Float64Array;
}

/** One hand: where it takes hold, and how far its skin reaches. */
export interface Hand {
  readonly side: Side;
  readonly hand: number;
  /** Middle of the palm in the hand's frame. */
  readonly palm: Float64Array;
  /** Outermost points of the skin of hand and fingers; ends of the bones where there is no mesh. */
  readonly skin: readonly CarriedPoint[];
}

/** The palm lies this far along the way to the first joints of the fingers. */
const PALM = 0.6;
/** Directions in which a joint's outermost point is kept. */
const WAYS = [-1, 0, 1].flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((z) => [x, y, z] as const))).filter((v) => v.some(Boolean));

/** Places both hands of a body. @param metres per unit of the file */
export function placeHands(skeleton: Skeleton, rest: Pose, roles: RoleMap, skin: MotionFile['skin'], metres: number): Hand[] {
  return SIDES.flatMap((side) => {
    const hand = roles.get(`${side}.hand`);
    return hand === undefined
      ? []
      : [{ side, hand, palm: palmOf(skeleton, rest, roles, side, hand), skin: skinOf(skeleton, skin, metres, hand) }];
  });
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
    const size = Math.hypot(...way);
    if (size <= far) continue;
    far = size;
    palm.set(way);
  }
  unrotate(palm, 0, rotations, hand * 4, palm, 0);
  return palm.map((v) => v / 2);
}

function skinOf(skeleton: Skeleton, skin: MotionFile['skin'], metres: number, hand: number): CarriedPoint[] {
  const { parents, tips } = skeleton;
  const below = [...parents.keys()].filter((j) => isBelow(skeleton, j, hand));
  const out: CarriedPoint[] = [];
  if (skin) {
    const byJoint = new Map<number, number[]>();
    skin.joints.forEach((joint, i) => {
      if (!below.includes(joint)) return;
      const k = [0, 1, 2, 3].find((n) => skin.influences[i * 4 + n] === joint) ?? 0;
      const list = byJoint.get(joint) ?? [];
      list.push((i * 4 + k) * 3);
      byJoint.set(joint, list);
    });
    for (const [joint, list] of byJoint) {
      const kept = new Set<number>();
      for (const [x, y, z] of WAYS) {
        const reach = (o: number): number => x * skin.locals[o] + y * skin.locals[o + 1] + z * skin.locals[o + 2];
        kept.add(list.reduce((best, o) => (reach(o) > reach(best) ? o : best), list[0]));
      }
      for (const o of kept) out.push({ joint, local: Float64Array.from(skin.locals.subarray(o, o + 3), (v) => v * metres) });
    }
  }
  if (out.length > 0) return out;
  return below.flatMap((joint) => {
    const tip = Float64Array.from(tips.subarray(joint * 3, joint * 3 + 3));
    return [{ joint, local: new Float64Array(3) }, ...(tip.every(Number.isFinite) ? [{ joint, local: tip }] : [])];
  });
}
