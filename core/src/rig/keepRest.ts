import { invMul } from '../math/quat';
import type { SavedRest } from '../recipe';
import type { Rig } from './rig';
import { keepPose } from './restDetector';

/** The rest pose that a body stands in now, turns by hand and all, to be kept by name. */
export function keepRest({ restPose, skeleton, basis }: Rig, name: string): SavedRest {
  const { parents } = skeleton;
  const local = new Float64Array(parents.length * 4);
  const world = restPose.rotations;
  parents.forEach((parent, j) => {
    if (parent < 0) invMul(local, j * 4, basis.turn, 0, world, j * 4);
    else invMul(local, j * 4, world, parent * 4, world, j * 4);
  });
  return keepPose(skeleton, name, local);
}
