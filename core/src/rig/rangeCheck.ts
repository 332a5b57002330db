import type { Clip } from '../clip';
import type { RoleMap } from '../label';
import { exp, invMul } from '../math/quat';
import { cos, DEG, sin, TAU } from '../math/trig';
import type { Heading } from './heading';
import { copyPose } from './turns';
import { type Pose, type Skeleton, turnBelow } from '../skeleton';

/** One movement of the range check: which role turns, by what, and what a person should see. */
export interface RangeStep {
  readonly role: string;
  readonly says: string;
  /** Degrees about the body's left, the vertical and the way ahead at the height of the movement. */
  readonly turn: readonly [number, number, number];
}

/** The standard sequence: left first in every pair, limbs from the trunk outwards. */
export const RANGE_STEPS: readonly RangeStep[] = [
  { role: 'left.upperArm', says: 'left arm forward', turn: [-70, 0, 0] },
  { role: 'right.upperArm', says: 'right arm forward', turn: [-70, 0, 0] },
  { role: 'left.lowerArm', says: 'left elbow', turn: [0, -80, 0] },
  { role: 'right.lowerArm', says: 'right elbow', turn: [0, 80, 0] },
  { role: 'left.hand', says: 'left hand', turn: [0, 0, 50] },
  { role: 'right.hand', says: 'right hand', turn: [0, 0, -50] },
  { role: 'left.upperLeg', says: 'left leg forward', turn: [-60, 0, 0] },
  { role: 'right.upperLeg', says: 'right leg forward', turn: [-60, 0, 0] },
  { role: 'left.lowerLeg', says: 'left knee', turn: [70, 0, 0] },
  { role: 'right.lowerLeg', says: 'right knee', turn: [70, 0, 0] },
  { role: 'left.foot', says: 'left foot', turn: [-30, 0, 0] },
  { role: 'right.foot', says: 'right foot', turn: [-30, 0, 0] },
  { role: 'spine.1', says: 'bow', turn: [40, 0, 0] },
  { role: 'head', says: 'head to the left', turn: [0, 55, 0] },
];

/** Frames of one movement, out and back. */
export const RANGE_FRAMES = 36;
const FPS = 30;

/**
 * A short sequence by a skeleton's labels: each limb in turn, out and back, left first. Movements whose role has no joint are
 * left out.
 * @param rest world rest pose, metres, Y up
 * @returns the clip, and for each movement its step and first frame
 */
export function rangeCheck(
  skeleton: Skeleton,
  rest: Pose,
  roles: RoleMap,
  { left, forward }: Heading,
): { clip: Clip; steps: { step: RangeStep; first: number }[] } {
  const present = RANGE_STEPS.filter(({ role }) => roles.has(role));
  const joints = skeleton.names.length;
  const frames = Math.max(1, present.length * RANGE_FRAMES);
  const rotations = new Float32Array(frames * joints * 4);
  const roots = skeleton.parents.map((parent, j) => (parent < 0 ? j : -1)).filter((j) => j >= 0);
  const q = new Float64Array(4);
  const local = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const pose = copyPose(rest);
    const step = present[Math.floor(f / RANGE_FRAMES)] as RangeStep | undefined;
    const joint = step && roles.get(step.role);
    if (step && joint !== undefined) {
      const share = 0.5 - 0.5 * cos((TAU * (f % RANGE_FRAMES)) / RANGE_FRAMES);
      const [x, y, z] = step.turn.map((degrees) => degrees * DEG * share);
      exp(q, 0, x * left[0] + z * forward[0], y, x * left[2] + z * forward[2]);
      turnBelow(pose, skeleton, joint, q);
    }
    for (let j = 0; j < joints; j++) {
      const parent = skeleton.parents[j];
      if (parent < 0) local.set(pose.rotations.subarray(j * 4, j * 4 + 4));
      else invMul(local, 0, pose.rotations, parent * 4, pose.rotations, j * 4);
      rotations.set(local, (f * joints + j) * 4);
    }
  }
  const moves = Array.from(roots, (joint) => {
    const values = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) values.set(rest.positions.subarray(joint * 3, joint * 3 + 3), f * 3);
    return { joint, values };
  });
  return {
    clip: { name: 'range check', frames, frameTime: 1 / FPS, rotations, moves },
    steps: present.map((step, i) => ({ step, first: i * RANGE_FRAMES })),
  };
}

/** Turns of a wiggle: to and fro about three axes one after the other. */
const WIGGLE = 24 * DEG;

/**
 * A pose with one joint, and all that hangs on it, moved to and fro: what a label would move.
 * @param phase 0…1 once to and fro about an axis; the axis changes with each whole number
 */
export function wiggle(rest: Pose, skeleton: Skeleton, joint: number, phase: number): Pose {
  const pose = copyPose(rest);
  const axis = Math.floor(phase) % 3;
  const angle = WIGGLE * sin(TAU * phase);
  const q = new Float64Array(4);
  exp(q, 0, axis === 1 ? angle : 0, axis === 2 ? angle : 0, axis === 0 ? angle : 0);
  turnBelow(pose, skeleton, joint, q);
  return pose;
}
