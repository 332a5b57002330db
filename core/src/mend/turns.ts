import type { Clip } from '../clip';
import { exp, invMul, mul, slerp } from '../math/quat';
import type { LayerDoes } from '../recipe';
import type { Rig } from '../rig';
import { inJoint } from './axes';
import { valueAt } from './curve';
import { Poser } from './poser';

/** Lays keyed turns of joints over a motion: added in each joint's own frame, or in place of how it is turned from its rest. */
export function layTurns(
  rig: Rig,
  clip: Clip,
  { way, tracks }: Extract<LayerDoes, { kind: 'turns' }>,
  weights: Float64Array,
  timeOf: (frame: number) => number,
): Clip {
  const known = tracks.flatMap(({ role, keys }) => {
    const joint = rig.roles.get(role);
    return joint === undefined || keys.length === 0 ? [] : [{ joint, keys }];
  });
  if (known.length === 0) return clip;
  // Turns in the joint's own frame need no pose: the poser only writes.
  const poser = new Poser(rig, clip, []);
  const { rotations } = poser.clip;
  const joints = rig.skeleton.parents.length;
  const degrees = new Float64Array(3);
  const turn = new Float64Array(3);
  const q = new Float64Array(4);
  for (const { joint, keys } of known) {
    const rest = localRest(rig, joint);
    for (let f = 0; f < clip.frames; f++) {
      const weight = weights[f];
      if (weight === 0) continue;
      const o = (f * joints + joint) * 4;
      valueAt(degrees, keys, timeOf(f));
      inJoint(rig, joint, turn, degrees);
      const share = way === 'add' ? weight : 1;
      exp(q, 0, turn[0] * share, turn[1] * share, turn[2] * share);
      if (way === 'add') mul(q, 0, rotations, o, q, 0);
      else {
        mul(q, 0, rest, 0, q, 0);
        slerp(q, 0, rotations, o, q, 0, weight);
      }
      poser.write(f, joint, q);
    }
  }
  return poser.clip;
}

/** A joint's rotation in its parent's frame, at rest. */
export function localRest({ skeleton, restPose }: Pick<Rig, 'skeleton' | 'restPose'>, joint: number): Float64Array {
  const out = new Float64Array(4);
  const parent = skeleton.parents[joint];
  if (parent < 0) out.set(restPose.rotations.subarray(joint * 4, joint * 4 + 4));
  else invMul(out, 0, restPose.rotations, parent * 4, restPose.rotations, joint * 4);
  return out;
}
