import { unrotate } from '../math/quat';
import { DEG } from '../math/trig';
import type { Rig } from '../rig';

/** All that a key's amounts are told by: the axes of the body, and how its joints are turned at rest. */
export interface Axes {
  readonly left: Float64Array;
  readonly forward: Float64Array;
  readonly restPose: Pick<Rig['restPose'], 'rotations'>;
}

/** Amounts by the axes of the body at rest (its left, up, ahead) as a vector of the world. */
export function inWorld({ left, forward }: Pick<Rig, 'left' | 'forward'>, out: Float64Array, by: ArrayLike<number>, unit: number): void {
  for (let c = 0; c < 3; c++) out[c] = unit * (by[0] * left[c] + by[2] * forward[c]);
  out[1] += unit * by[1];
}

/** The reverse: a vector of the world by the axes of the body at rest. */
export function byBody({ left, forward }: Pick<Rig, 'left' | 'forward'>, way: ArrayLike<number>, unit: number): [number, number, number] {
  const along = (axis: Float64Array): number => (axis[0] * way[0] + axis[1] * way[1] + axis[2] * way[2]) / unit;
  return [along(left), way[1] / unit, along(forward)];
}

/** Degrees about the body's axes as a rotation vector in a joint's own frame. */
export function inJoint(rig: Axes, joint: number, out: Float64Array, degrees: ArrayLike<number>): void {
  inWorld(rig, out, degrees, DEG);
  unrotate(out, 0, rig.restPose.rotations, joint * 4, out, 0);
}
