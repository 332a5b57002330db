import type { RoleMap } from '../label';
import { childrenOf, type Pose, type Skeleton } from '../skeleton';
import type { Frame } from './bones';

/** A leaf's bone goes on as its parent's does, by this share of its length. */
const BEYOND = 0.6;

/**
 * What points are bound to where a skeleton is there already.
 * @param toBody column-major 4 × 4: the skeleton's space to the body's
 */
export function keptFrame(skeleton: Skeleton, { positions }: Pose, roles: RoleMap, toBody: Float64Array): Frame {
  const places = new Float64Array(positions.length);
  for (let j = 0; j < positions.length; j += 3) {
    for (let r = 0; r < 3; r++) {
      places[j + r] = toBody[r] * positions[j] + toBody[4 + r] * positions[j + 1] + toBody[8 + r] * positions[j + 2] + toBody[12 + r];
    }
  }
  const ends = new Float64Array(positions.length).fill(NaN);
  childrenOf(skeleton).forEach((children, j) => {
    const parent = skeleton.parents[j];
    if (children.length > 0 || parent < 0) return;
    for (let c = 0; c < 3; c++) ends[j * 3 + c] = places[j * 3 + c] + BEYOND * (places[j * 3 + c] - places[parent * 3 + c]);
  });
  const twistOf = new Int32Array(skeleton.parents.length).fill(-1);
  for (const [role, joint] of roles) {
    const bone = /^(.*)\.twist\.\d+$/.exec(role);
    const above = bone && roles.get(bone[1]);
    if (above !== null && above !== undefined) twistOf[joint] = above;
  }
  return { skeleton, places, ends, twistOf };
}
