import { pointInWorld, type Pose } from '../skeleton';
import type { Foot } from './feet';

const point = new Float64Array(3);

/** How low a foot's heel and ball are, metres: the lower of the two. */
export function soleHeight(pose: Pose, { foot, heel, ball }: Foot): number {
  pointInWorld(point, 0, pose, foot, heel, 0);
  const height = point[1];
  pointInWorld(point, 0, pose, foot, ball, 0);
  return Math.min(height, point[1]);
}
