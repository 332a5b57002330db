import { SIDES, type RoleMap } from '../label';
import { cos, DEG, sin } from '../math/trig';
import { cross, normalize, vec } from '../math/vec';
import type { Pose } from '../skeleton';

/** Directions of a standing body: to its left and ahead, unit and level. */
export interface Heading {
  readonly left: Float64Array;
  readonly forward: Float64Array;
}

/** The body's left and the way ahead, both level, from its hip joints or as set by hand (degrees from +Z towards +X). */
export function headingOf(pose: Pose, roles: RoleMap, facing: number | null): Heading {
  const left = vec();
  if (facing === null) {
    const [l, r] = SIDES.map((side) => roles.get(`${side}.upperLeg`)! * 3);
    for (let c = 0; c < 3; c++) left[c] = pose.positions[l + c] - pose.positions[r + c];
    left[1] = 0;
    if (normalize(left, 0) < 1e-9) left[0] = 1;
  } else {
    left[0] = cos(facing * DEG);
    left[2] = -sin(facing * DEG);
  }
  const forward = vec();
  cross(forward, 0, left, 0, vec(0, 1, 0), 0);
  return { left, forward };
}
