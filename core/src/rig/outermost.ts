import type { MotionFile } from '../formats';
import { rotate } from '../math/quat';
import type { Pose, Skeleton } from '../skeleton';

/** A point that a joint carries, alone or along with others. */
export interface CarriedPoint {
  readonly joint: number;
  /** In the joint's frame, metres. */
  readonly local: Float64Array;
  /** The other joints that move it, by their shares; what is left of one is the joint's own. */
  readonly also: readonly { readonly joint: number; readonly local: Float64Array; readonly share: number }[];
}

/** A joint that moves a point by less than this does not show. */
const LITTLE = 0.02;

/** Directions in which a joint's outermost point is kept. */
const WAYS = [-1, 0, 1].flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((z) => [x, y, z] as const))).filter((v) => v.some(Boolean));

/**
 * The outermost points of the skin that joints carry; ends of their bones where there is no mesh.
 * @param metres per unit of the file
 */
export function outermost(skeleton: Skeleton, skin: MotionFile['skin'], metres: number, joints: readonly number[]): CarriedPoint[] {
  const out: CarriedPoint[] = [];
  if (skin) {
    const byJoint = new Map<number, number[]>(joints.map((joint) => [joint, []]));
    skin.joints.forEach((joint, i) => {
      const k = [0, 1, 2, 3].find((n) => skin.influences[i * 4 + n] === joint) ?? 0;
      byJoint.get(joint)?.push((i * 4 + k) * 3);
    });
    for (const [joint, list] of byJoint) {
      if (list.length === 0) continue;
      const kept = new Set<number>();
      for (const [x, y, z] of WAYS) {
        const reach = (o: number): number => x * skin.locals[o] + y * skin.locals[o + 1] + z * skin.locals[o + 2];
        kept.add(list.reduce((best, o) => (reach(o) > reach(best) ? o : best), list[0]));
      }
      for (const o of kept) out.push(carriedBy(skin, joint, o, metres));
    }
  }
  if (out.length > 0) return out;
  return joints.flatMap((joint) => {
    const tip = skeleton.tips.slice(joint * 3, joint * 3 + 3);
    return [new Float64Array(3), ...(tip.every(Number.isFinite) ? [tip] : [])].map((local) => ({ joint, local, also: [] }));
  });
}

/** A point of the skin with all that moves it. @param at where it stands in the frame of the joint that it is counted to */
function carriedBy(
  { locals, influences, weights }: NonNullable<MotionFile['skin']>,
  joint: number,
  at: number,
  metres: number,
): CarriedPoint {
  const local = (o: number): Float64Array => Float64Array.from(locals.subarray(o, o + 3), (v) => v * metres);
  const first = Math.floor(at / 12) * 4;
  const also = [0, 1, 2, 3]
    .map((k) => ({ joint: influences[first + k], local: local((first + k) * 3), share: weights[first + k] }))
    .filter((one) => one.joint >= 0 && one.joint !== joint && one.share >= LITTLE);
  return { joint, local: local(at), also };
}

/** All joints that move some points. */
export const jointsOf = (points: readonly CarriedPoint[]): number[] =>
  points.flatMap(({ joint, also }) => [joint, ...also.map((one) => one.joint)]);

const point = new Float64Array(3);

/** Height of the lowest of some points in a pose, metres (linear blend skinning, glTF 2.0 section 3.7.3). */
export function lowestOf(skin: readonly CarriedPoint[], { positions, rotations }: Pose): number {
  let low = Infinity;
  for (let i = 0; i < skin.length; i++) {
    const { joint, local, also } = skin[i];
    rotate(point, 0, rotations, joint * 4, local, 0);
    const own = positions[joint * 3 + 1] + point[1];
    let height = own;
    for (let k = 0; k < also.length; k++) {
      rotate(point, 0, rotations, also[k].joint * 4, also[k].local, 0);
      height += also[k].share * (positions[also[k].joint * 3 + 1] + point[1] - own);
    }
    low = Math.min(low, height);
  }
  return low;
}
