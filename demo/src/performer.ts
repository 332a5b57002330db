import { flattenRest, quat, writeBvh, type Clip, type Skeleton } from '@hollow-stride/core';
import { buildRig, mirrored, type Rig, type RigJoint } from './rig';
import type { V3 } from './vectors';

/** The performer of the demo takes: a plain adult skeleton with anatomical names, T-pose, in metres here. */
const LEFT: readonly RigJoint[] = [
  { name: 'collar_l', parent: 'thorax', at: [0.025, 1.42, 0.01] },
  { name: 'humerus_l', parent: 'collar_l', at: [0.175, 1.43, -0.01] },
  { name: 'radius_l', parent: 'humerus_l', at: [0.46, 1.43, -0.015] },
  { name: 'wrist_l', parent: 'radius_l', at: [0.715, 1.43, -0.005] },
  { name: 'femur_l', parent: 'pelvis', at: [0.092, 0.93, 0.0] },
  { name: 'tibia_l', parent: 'femur_l', at: [0.097, 0.505, 0.008] },
  { name: 'ankle_l', parent: 'tibia_l', at: [0.1, 0.085, -0.012] },
  { name: 'ball_l', parent: 'ankle_l', at: [0.108, 0.02, 0.125] },
];
const TIPS: readonly (readonly [string, V3])[] = [
  ['wrist_l', [0.895, 1.425, 0.0]],
  ['ball_l', [0.112, 0.015, 0.2]],
];

const toRight = (name: string): string => name.replace(/_l$/, '_r');

export function performerRig(): Rig {
  const joints: RigJoint[] = [
    { name: 'pelvis', parent: undefined, at: [0, 0.975, 0] },
    { name: 'lumbar', parent: 'pelvis', at: [0, 1.08, -0.01] },
    { name: 'thorax', parent: 'lumbar', at: [0, 1.24, -0.015] },
    { name: 'neck', parent: 'thorax', at: [0, 1.49, 0.0] },
    { name: 'skull', parent: 'neck', at: [0, 1.59, 0.02] },
    ...LEFT,
    ...mirrored(LEFT, toRight),
  ];
  const tips = new Map<string, V3>([['skull', [0, 1.77, 0.025]]]);
  for (const [name, [x, y, z]] of TIPS) {
    tips.set(name, [x, y, z]);
    tips.set(toRight(name), [-x, y, z]);
  }
  return buildRig(joints, 'world', tips);
}

/** Motion on the performer: world rotations of all joints and the pelvis' place, frame by frame. */
export class Performance {
  readonly rotations: Float64Array[] = [];
  readonly places: V3[] = [];

  constructor(
    readonly rig: Rig,
    readonly fps: number,
  ) {}

  /** Adds a frame of world rotations by joint name; joints left out follow their parent. */
  add(place: V3, world: ReadonlyMap<string, Float64Array>): void {
    const { joints, skeleton } = this.rig;
    const out = new Float64Array(joints.length * 4);
    joints.forEach(({ name }, j) => {
      const own = world.get(name);
      if (own) quat.copy(out, j * 4, own, 0);
      else if (skeleton.parents[j] < 0) quat.identity(out, j * 4);
      else quat.copy(out, j * 4, out, skeleton.parents[j] * 4);
    });
    this.rotations.push(out);
    this.places.push(place);
  }

  /** As a clip with local rotations, in metres. */
  clip(name: string): Clip {
    const { skeleton } = this.rig;
    const joints = skeleton.names.length;
    const frames = this.rotations.length;
    const rotations = new Float32Array(frames * joints * 4);
    const values = new Float32Array(frames * 3);
    const q = new Float64Array(4);
    this.rotations.forEach((world, f) => {
      for (let j = 0; j < joints; j++) {
        const parent = skeleton.parents[j];
        if (parent < 0) quat.copy(q, 0, world, j * 4);
        else quat.invMul(q, 0, world, parent * 4, world, j * 4);
        quat.copy(rotations, (f * joints + j) * 4, q, 0);
      }
      values.set(this.places[f], f * 3);
    });
    return { name, frameTime: 1 / this.fps, frames, rotations, moves: [{ joint: 0, values }] };
  }
}

/** Writes a clip of the performer as BVH in centimetres. */
export function writeTake(skeleton: Skeleton, clip: Clip): Uint8Array {
  const flat = flattenRest(
    { ...skeleton, restT: skeleton.restT.map((v) => v * 100), tips: skeleton.tips.map((v) => v * 100) },
    { ...clip, moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.map((v) => v * 100) })) },
  );
  return writeBvh(flat.skeleton, flat.clip, flat.layout);
}
