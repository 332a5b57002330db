import type { SkinPoints } from '../formats';
import { rotate } from '../math/quat';
import { distance } from '../math/vec';
import type { Pose } from '../skeleton';

/** A place where the skin is drawn out when the body moves. */
export interface Spot {
  /** At rest, in the axes and unit of the poses. */
  readonly at: readonly [number, number, number];
  /** The joint that moves the skin there most. */
  readonly joint: number;
  /** Which of the poses. */
  readonly pose: number;
  /** How much longer an edge is than at rest, in the unit of the poses. */
  readonly drawn: number;
}

/**
 * Where the points of a skin are in a pose.
 * @param skin in its file's axes and unit
 * @param metres unit of the pose per unit of the file
 * @param out 3 a point
 */
export function skinPlaces(
  { influences, weights, locals, joints }: SkinPoints,
  { positions, rotations }: Pose,
  metres: number,
  out: Float64Array,
): void {
  const [local, turned] = [new Float64Array(3), new Float64Array(3)];
  out.fill(0);
  for (let i = 0; i < joints.length; i++) {
    for (let k = i * 4; k < i * 4 + 4 && influences[k] >= 0; k++) {
      for (let c = 0; c < 3; c++) local[c] = locals[k * 3 + c] * metres;
      rotate(turned, 0, rotations, influences[k] * 4, local, 0);
      for (let c = 0; c < 3; c++) out[i * 3 + c] += weights[k] * (turned[c] + positions[influences[k] * 3 + c]);
    }
  }
}

/**
 * Where the skin is drawn out most: the worst edge of each joint's skin, over poses.
 * @param rest the pose that edges are measured against
 * @returns worst first
 */
export function strainedSpots(skin: SkinPoints, rest: Pose, poses: readonly Pose[], metres: number): Spot[] {
  const { edges, joints } = skin;
  const [still, places] = [new Float64Array(joints.length * 3), new Float64Array(joints.length * 3)];
  skinPlaces(skin, rest, metres, still);
  const worst = new Map<number, Spot>();
  poses.forEach((pose, p) => {
    skinPlaces(skin, pose, metres, places);
    for (let e = 0; e < edges.length; e += 2) {
      const [a, b] = [edges[e] * 3, edges[e + 1] * 3];
      const drawn = distance(places, a, places, b) - distance(still, a, still, b);
      const joint = joints[edges[e]];
      if (drawn <= (worst.get(joint)?.drawn ?? 0)) continue;
      const at = [0, 1, 2].map((c) => (still[a + c] + still[b + c]) / 2) as [number, number, number];
      worst.set(joint, { at, joint, pose: p, drawn });
    }
  });
  return [...worst.values()].sort((a, b) => b.drawn - a.drawn);
}
