import type { Foot } from '../rig';
import { acos, atan2 } from '../math/trig';
import { cross, dot, length } from '../math/vec';

const side = new Float64Array(3);

/**
 * The least angle about an axis from which on a point stands no lower than a height; −∞ where it does at all angles, and the angle of its highest
 * place where it never does. Turned by α the point stands along + ahead · cos α + up · sin α over the axis' foot.
 * @param axis unit, 3
 * @param arm from a point of the axis to the point that is raised, 3
 * @param height over that point of the axis, metres
 */
export function raiseNeeded(axis: Float64Array, arm: Float64Array, height: number): number {
  cross(side, 0, axis, 0, arm, 0);
  const along = dot(axis, 0, arm, 0) * axis[1];
  const [ahead, up, over] = [arm[1] - along, side[1], height - along];
  const most = Math.sqrt(ahead * ahead + up * up);
  if (over <= -most) return -Infinity;
  let highest = atan2(up, ahead);
  // What points down, and somewhat back, is raised ahead.
  if (highest < -Math.PI / 2) highest += 2 * Math.PI;
  return highest - acos(Math.min(1, over / most));
}

/** The foot's axis to its right, unit, in its joint's frame, about which toes and foot are raised: level where the sole is. */
export function rightOf({ heel, ball }: Foot): Float64Array {
  const axis = new Float64Array(3);
  const sole = ball.map((v, c) => v - heel[c]);
  cross(axis, 0, heel, 0, sole, 0);
  const size = length(axis, 0) || 1;
  return axis.map((v) => v / size);
}
