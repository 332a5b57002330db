/** Moves of a whole body over the floor: a turn about the vertical, then a shift. */
import type { Clip } from '../clip';
import { fromAxisAngle, invMul, mul, mulInv, rotate } from '../math/quat';
import { atan2, cos, sin } from '../math/trig';
import type { Rig } from '../rig';
import type { Pose, Skeleton } from '../skeleton';

/** p ↦ turned by `yaw` (radians, from +Z towards +X), then moved by x and z, metres. */
export interface Planar {
  readonly yaw: number;
  readonly x: number;
  readonly z: number;
}

export const STAYS: Planar = { yaw: 0, x: 0, z: 0 };

/** First `b`, then `a`. */
export function after(a: Planar, b: Planar): Planar {
  const [x, z] = moved(a, b.x, b.z);
  return { yaw: a.yaw + b.yaw, x, z };
}

/** What undoes a move. */
export function inverse({ yaw, x, z }: Planar): Planar {
  const [bx, bz] = moved({ yaw: -yaw, x: 0, z: 0 }, x, z);
  return { yaw: -yaw, x: -bx, z: -bz };
}

/** Where a point of the floor comes to. */
export function moved({ yaw, x, z }: Planar, px: number, pz: number): readonly [number, number] {
  const [c, s] = [cos(yaw), sin(yaw)];
  return [c * px + s * pz + x, c * pz - s * px + z];
}

/** The joint that a rig's place and heading are told by. */
export const bodyJoint = ({ roles }: Pick<Rig, 'roles'>): number => roles.get('hips') ?? 0;

const turn = new Float64Array(4);
const way = new Float64Array(3);

/** Radians from +Z towards +X that a body faces in a pose. */
export function headingAt({ roles, restPose, forward, left }: Pick<Rig, 'roles' | 'restPose' | 'forward' | 'left'>, pose: Pose): number {
  const joint = bodyJoint({ roles });
  mulInv(turn, 0, pose.rotations, joint * 4, restPose.rotations, joint * 4);
  rotate(way, 0, turn, 0, forward, 0);
  let [x, z] = [way[0], way[2]];
  // Of a body that is bent over, its left tells more than the way ahead.
  rotate(way, 0, turn, 0, left, 0);
  x += -way[2];
  z += way[0];
  return atan2(x, z);
}

/** The move that brings one pose over another: to its heading, and some joint to its place. */
export function overIt(rig: Rig, pose: Pose, on: Pose, joint = bodyJoint(rig)): Planar {
  const yaw = headingAt(rig, on) - headingAt(rig, pose);
  const [x, z] = moved({ yaw, x: 0, z: 0 }, pose.positions[joint * 3], pose.positions[joint * 3 + 2]);
  return { yaw, x: on.positions[joint * 3] - x, z: on.positions[joint * 3 + 2] - z };
}

/** A clip moved over the floor, by another move in each frame. @param at the move of a frame */
export function movedClip(skeleton: Skeleton, clip: Clip, at: (frame: number) => Planar): Clip {
  const joints = skeleton.names.length;
  const roots = [...skeleton.parents.keys()].filter((j) => skeleton.parents[j] < 0);
  const rotations = clip.rotations.slice();
  const moves = clip.moves.map(({ joint, values }) => ({ joint, values: roots.includes(joint) ? values.slice() : values }));
  for (const root of roots) {
    if (moves.some(({ joint }) => joint === root)) continue;
    const values = new Float32Array(clip.frames * 3);
    for (let f = 0; f < clip.frames; f++) values.set(skeleton.restT.subarray(root * 3, root * 3 + 3), f * 3);
    moves.push({ joint: root, values });
  }
  const tracks = new Map(moves.map(({ joint, values }) => [joint, values]));
  const q = new Float64Array(4);
  const own = new Float64Array(4);
  for (let f = 0; f < clip.frames; f++) {
    const planar = at(f);
    if (planar.yaw === 0 && planar.x === 0 && planar.z === 0) continue;
    fromAxisAngle(q, 0, 0, 1, 0, planar.yaw);
    for (const root of roots) {
      const o = (f * joints + root) * 4;
      for (let c = 0; c < 4; c++) own[c] = rotations[o + c];
      mul(own, 0, q, 0, own, 0);
      rotations.set(own, o);
      const values = tracks.get(root)!;
      const [x, z] = moved(planar, values[f * 3], values[f * 3 + 2]);
      values[f * 3] = x;
      values[f * 3 + 2] = z;
    }
  }
  return { ...clip, rotations, moves: moves.sort((a, b) => a.joint - b.joint) };
}

/** A turn of the world without its part about the vertical (swing and twist). */
export function withoutYaw(out: Float64Array, q: Float64Array): void {
  fromAxisAngle(turn, 0, 0, 1, 0, 2 * atan2(q[1], q[3]));
  invMul(out, 0, turn, 0, q, 0);
}
