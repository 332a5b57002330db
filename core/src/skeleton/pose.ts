import { copy, mul, rotate, type Numbers } from '../math/quat';
import { jointCount, type Skeleton } from './skeleton';

/** A pose in the world: positions (3 per joint) and rotations (4 per joint). */
export interface Pose {
  readonly positions: Float64Array;
  readonly rotations: Float64Array;
  /** Where joints are sized over time: their sizes in the world over those at rest, 3 per joint along its axes. */
  readonly sizes?: Float64Array;
}

/** A pose of zeros to be written into. */
export function emptyPose(skeleton: Skeleton): Pose {
  const count = jointCount(skeleton);
  return { positions: new Float64Array(count * 3), rotations: new Float64Array(count * 4) };
}

/**
 * Forward kinematics: world positions and rotations from local ones.
 * @param rotations local rotations, 4 per joint from offset `ro`
 * @param translations local translations, 3 per joint
 * @param joints the joints to pose, parents before children; the others keep what stands in `out`
 */
export function forward(out: Pose, parents: Int32Array, translations: Numbers, rotations: Numbers, ro = 0, joints?: Int32Array): void {
  const count = joints ? joints.length : parents.length;
  for (let i = 0; i < count; i++) place(out, joints ? joints[i] : i, parents, translations, rotations, ro);
}

/**
 * Forward kinematics of turns alone, for joints of which no place is asked.
 * @param out world rotations, 4 per joint
 * @param rotations local rotations, 4 per joint from offset `ro`
 * @param joints the joints to turn, parents before children; parents that are not among them stand in `out`
 */
export function forwardTurns(out: Float64Array, parents: Int32Array, rotations: Numbers, ro: number, joints: Int32Array): void {
  for (let i = 0; i < joints.length; i++) {
    const j = joints[i];
    const parent = parents[j];
    if (parent < 0) copy(out, j * 4, rotations, ro + j * 4);
    else mul(out, j * 4, out, parent * 4, rotations, ro + j * 4);
  }
}

function place(
  { positions: P, rotations: R }: Pose,
  j: number,
  parents: Int32Array,
  translations: Numbers,
  rotations: Numbers,
  ro: number,
): void {
  const parent = parents[j];
  if (parent < 0) {
    P[j * 3] = translations[j * 3];
    P[j * 3 + 1] = translations[j * 3 + 1];
    P[j * 3 + 2] = translations[j * 3 + 2];
    R[j * 4] = rotations[ro + j * 4];
    R[j * 4 + 1] = rotations[ro + j * 4 + 1];
    R[j * 4 + 2] = rotations[ro + j * 4 + 2];
    R[j * 4 + 3] = rotations[ro + j * 4 + 3];
    return;
  }
  rotate(P, j * 3, R, parent * 4, translations, j * 3);
  P[j * 3] += P[parent * 3];
  P[j * 3 + 1] += P[parent * 3 + 1];
  P[j * 3 + 2] += P[parent * 3 + 2];
  mul(R, j * 4, R, parent * 4, rotations, ro + j * 4);
}

/** The given joints and all above them, parents before children: what must be posed to know where they are. */
export function withAncestors(parents: Int32Array, joints: Iterable<number>): Int32Array {
  const wanted = new Set<number>();
  for (const joint of joints) for (let j = joint; j >= 0 && !wanted.has(j); j = parents[j]) wanted.add(j);
  return Int32Array.from(wanted).sort();
}

/** The skeleton's own rest pose in the world. */
export function restPose(skeleton: Skeleton): Pose {
  const pose = emptyPose(skeleton);
  forward(pose, skeleton.parents, skeleton.restT, skeleton.restR);
  return pose;
}

/** The world position of a point given in a joint's own frame. */
export function pointInWorld(out: Numbers, oo: number, pose: Pose, joint: number, local: Numbers, lo: number): void {
  rotate(out, oo, pose.rotations, joint * 4, local, lo);
  out[oo] += pose.positions[joint * 3];
  out[oo + 1] += pose.positions[joint * 3 + 1];
  out[oo + 2] += pose.positions[joint * 3 + 2];
}
