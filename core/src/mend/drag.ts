import { exp, invMul, log, mul, mulInv, rotate, unrotate } from '../math/quat';
import { DEG } from '../math/trig';
import type { Pose, Skeleton } from '../skeleton';
import { byBody, inJoint, type Axes } from './axes';

type Triple = [number, number, number];

const CENTIMETRE = 0.01;
const q = new Float64Array(4);
const v = new Float64Array(3);

/** A rotation in a joint's own frame as degrees about the body's axes. */
function degreesOf(axes: Axes, joint: number, turn: Float64Array): Triple {
  log(v, 0, turn, 0);
  rotate(v, 0, axes.restPose.rotations, joint * 4, v, 0);
  return byBody(axes, v, DEG);
}

/**
 * The amount of an added turn once its joint, as it stands with it, is turned on by a rotation of the world.
 * @param amount degrees about the body's axes
 * @param by rotation vector in the world, radians
 */
export function turnedOn(axes: Axes, { rotations }: Pose, joint: number, amount: ArrayLike<number>, by: Float64Array): Triple {
  inJoint(axes, joint, v, amount);
  exp(q, 0, v[0], v[1], v[2]);
  unrotate(v, 0, rotations, joint * 4, by, 0);
  const more = new Float64Array(4);
  exp(more, 0, v[0], v[1], v[2]);
  mul(q, 0, q, 0, more, 0);
  return degreesOf(axes, joint, q);
}

/** How a joint stands turned from its rest in its parent's frame: the amount of a turn that would put it so. */
export function turnFromRest(axes: Axes, { parents }: Skeleton, { rotations }: Pose, joint: number): Triple {
  const rest = axes.restPose.rotations;
  const parent = parents[joint];
  const local = new Float64Array(4);
  if (parent < 0) invMul(q, 0, rest, joint * 4, rotations, joint * 4);
  else {
    invMul(local, 0, rest, parent * 4, rest, joint * 4);
    invMul(q, 0, rotations, parent * 4, rotations, joint * 4);
    invMul(q, 0, local, 0, q, 0);
  }
  return degreesOf(axes, joint, q);
}

/**
 * The amount of a reach once its limb end is moved on by a way in the world.
 * @param amount centimetres by the body's axes, in the frame of a joint; −1 is the world
 * @param by metres
 */
export function movedOn(axes: Axes, { rotations }: Pose, frame: number, amount: ArrayLike<number>, by: Float64Array): Triple {
  v.set(by);
  if (frame >= 0) {
    mulInv(q, 0, rotations, frame * 4, axes.restPose.rotations, frame * 4);
    unrotate(v, 0, q, 0, v, 0);
  }
  const more = byBody(axes, v, CENTIMETRE);
  return [amount[0] + more[0], amount[1] + more[1], amount[2] + more[2]];
}
