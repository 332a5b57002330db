import type { MotionFile } from '../formats';
import { rotate } from '../math/quat';
import type { Pose, Skeleton } from '../skeleton';

/** A point that a joint carries. */
export interface CarriedPoint {
  readonly joint: number;
  readonly local: Float64Array;
}

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
      for (const o of kept) out.push({ joint, local: Float64Array.from(skin.locals.subarray(o, o + 3), (v) => v * metres) });
    }
  }
  if (out.length > 0) return out;
  return joints.flatMap((joint) => {
    const tip = skeleton.tips.slice(joint * 3, joint * 3 + 3);
    return [{ joint, local: new Float64Array(3) }, ...(tip.every(Number.isFinite) ? [{ joint, local: tip }] : [])];
  });
}

const point = new Float64Array(3);

/** Height of the lowest of some points in a pose, metres. */
export function lowestOf(skin: readonly CarriedPoint[], { positions, rotations }: Pose): number {
  let low = Infinity;
  for (let i = 0; i < skin.length; i++) {
    const { joint, local } = skin[i];
    rotate(point, 0, rotations, joint * 4, local, 0);
    low = Math.min(low, positions[joint * 3 + 1] + point[1]);
  }
  return low;
}
