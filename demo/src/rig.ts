import { makeSkeleton, quat, type Skeleton } from '@hollow-stride/core';
import { cross, length, square, sub, unit, type V3 } from './vectors';

/** A joint as it is drawn up: where it stands at rest, in metres, Y up, facing +Z. */
export interface RigJoint {
  readonly name: string;
  readonly parent: string | undefined;
  readonly at: V3;
}

/** How the joints' own axes lie at rest: along the world, or along their bones as many rigs have it. */
export type Axes = 'world' | 'bones';

export interface Rig {
  readonly joints: readonly RigJoint[];
  readonly skeleton: Skeleton;
  readonly index: ReadonlyMap<string, number>;
  /** World rest rotation of each joint, 4 per joint. */
  readonly worldR: Float64Array;
}

/** The mirror image of joints of the left side: `L` in names becomes `R`. */
export function mirrored(joints: readonly RigJoint[], rename: (name: string) => string): RigJoint[] {
  return joints.map(({ name, parent, at }) => ({
    name: rename(name),
    parent: parent === undefined ? undefined : rename(parent),
    at: [-at[0], at[1], at[2]],
  }));
}

/**
 * Builds a skeleton from joints that stand in the world.
 * @param tips world positions where the bones of leaves end, by joint name
 */
export function buildRig(joints: readonly RigJoint[], axes: Axes, tips: ReadonlyMap<string, V3> = new Map()): Rig {
  const index = new Map(joints.map(({ name }, i) => [name, i]));
  const worldR = new Float64Array(joints.length * 4);
  const restT = new Float64Array(joints.length * 3);
  const restR = new Float64Array(joints.length * 4);
  const tipT = new Float64Array(joints.length * 3).fill(NaN);
  const parents = joints.map(({ parent }) => (parent === undefined ? -1 : index.get(parent)!));
  joints.forEach((joint, j) => {
    const child = joints.find(({ parent }) => parent === joint.name);
    const end = child?.at ?? tips.get(joint.name);
    const along = end ? sub(end, joint.at) : ([0, 0, 0] as const);
    if (axes === 'world' || length(along) < 1e-6) quat.identity(worldR, j * 4);
    else {
      // Y along the bone, Z as far to the front as that allows.
      const y = unit(along);
      const z = square(y, [0, 0, 1]);
      const x = cross(y, z);
      quat.fromAxes(worldR, j * 4, ...x, ...y, ...z);
    }
    const p = parents[j];
    const t = Float64Array.from(p < 0 ? joint.at : sub(joint.at, joints[p].at));
    if (p < 0) quat.copy(restR, j * 4, worldR, j * 4);
    else {
      quat.unrotate(t, 0, worldR, p * 4, t, 0);
      quat.invMul(restR, j * 4, worldR, p * 4, worldR, j * 4);
    }
    restT.set(t, j * 3);
    const tip = tips.get(joint.name);
    if (tip) {
      const v = Float64Array.from(sub(tip, joint.at));
      quat.unrotate(v, 0, worldR, j * 4, v, 0);
      tipT.set(v, j * 3);
    }
  });
  const skeleton = makeSkeleton({ names: joints.map(({ name }) => name), parents, restT, restR, tips: tipT });
  return { joints, skeleton, index, worldR };
}
