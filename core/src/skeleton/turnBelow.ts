import { mul, rotate, type Numbers } from '../math/quat';
import type { Pose } from './pose';
import { isBelow, type Skeleton } from './skeleton';

const arm = new Float64Array(3);

/** Turns a joint of a world pose, and all that hangs on it, about the joint's own place by a world rotation. */
export function turnBelow(pose: Pose, skeleton: Skeleton, top: number, turn: Numbers): void {
  const { positions, rotations } = pose;
  for (let j = top; j < skeleton.names.length; j++) {
    if (!isBelow(skeleton, j, top)) continue;
    mul(rotations, j * 4, turn, 0, rotations, j * 4);
    for (let c = 0; c < 3; c++) arm[c] = positions[j * 3 + c] - positions[top * 3 + c];
    rotate(arm, 0, turn, 0, arm, 0);
    for (let c = 0; c < 3; c++) positions[j * 3 + c] = positions[top * 3 + c] + arm[c];
  }
}
