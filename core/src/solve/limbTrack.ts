import type { Pairing } from '../match';
import { copy, identity } from '../math/quat';
import { distance } from '../math/vec';
import { emptyPose, forward } from '../skeleton';
import { placeBody } from './placeBody';
import type { LimbPlan, PosePlan } from './plan';
import type { Posed } from './pose';
import type { RootPath } from './root';

/** Places and rotations of one limb's joints in the world, frame by frame, as the pose transfer and the root leave them. */
export interface LimbTrack {
  readonly plan: LimbPlan;
  readonly frames: number;
  /** Numbers in a frame's record. */
  readonly stride: number;
  /** Where in a record a thing stands: places (3) and rotations (4) of the joints, and the rotation that the limb hangs on. */
  readonly at: {
    readonly parentQ: number;
    readonly top: number;
    readonly topQ: number;
    /**
     * Where the limb bends. One of more than two bones bends as a pantograph does, every second bone turning as the first: its bend
     * stands where those bones, set on each other, would end.
     */
    readonly mid: number;
    readonly midQ: number;
    readonly end: number;
    readonly endQ: number;
    /** Of the toes; of the foot where there are none. */
    readonly beyondQ: number;
  };
  readonly data: Float64Array;
}

/** Offset of the place of a limb's joint in a record. */
const placeOf = (index: number): number => 4 + index * 7;
/** Offset of its rotation. */
export const turnOf = (index: number): number => placeOf(index) + 3;

/** Adds to the place of a limb's first bend the bones farther down that turn as its first does. */
export function addBones(out: Float64Array, o: number, positions: Float64Array, { joints, end }: Pick<LimbPlan, 'joints' | 'end'>): void {
  for (let i = 2; i < end; i += 2) {
    for (let c = 0; c < 3; c++) out[o + c] += positions[joints[i + 1] * 3 + c] - positions[joints[i] * 3 + c];
  }
}

/** Length of a limb in a frame, its bends straightened, metres. */
export function wholeLength({ data, stride, at }: LimbTrack, f: number): number {
  const o = f * stride;
  return distance(data, o + at.top, data, o + at.mid) + distance(data, o + at.mid, data, o + at.end);
}

/** An empty record of a limb. */
export function makeLimbTrack(plan: LimbPlan, frames: number): LimbTrack {
  const stride = 4 + plan.joints.length * 7;
  const { end, beyond } = plan;
  return {
    plan,
    frames,
    stride,
    at: {
      parentQ: 0,
      top: placeOf(0),
      topQ: turnOf(0),
      mid: placeOf(1),
      midQ: turnOf(1),
      end: placeOf(end),
      endQ: turnOf(end),
      beyondQ: turnOf(beyond >= 0 ? beyond : end),
    },
    data: new Float64Array(frames * stride),
  };
}

/** Follows limbs through a placed pose. Only the ways to the limbs are posed. */
export function traceLimbs(pairing: Pairing, plan: PosePlan, posed: Posed, root: RootPath, limbs: readonly LimbPlan[]): LimbTrack[] {
  const { skeleton } = pairing.character;
  const { parents } = skeleton;
  const joints = parents.length;
  const { frames, rotations, slides } = posed;
  const chain = Int32Array.from(new Set(limbs.flatMap((limb) => [...limb.chain]))).sort();
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const tracks = limbs.map((limb) => makeLimbTrack(limb, frames));
  for (let f = 0; f < frames; f++) {
    placeBody(translations, { plan, root }, f);
    for (const { joint, values } of slides) for (let c = 0; c < 3; c++) translations[joint * 3 + c] = values[f * 3 + c];
    forward(pose, parents, translations, rotations, f * joints * 4, chain);
    for (let k = 0; k < tracks.length; k++) {
      const { plan: limb, data, stride } = tracks[k];
      const o = f * stride;
      if (limb.parent < 0) identity(data, o);
      else copy(data, o, pose.rotations, limb.parent * 4);
      for (let i = 0; i < limb.joints.length; i++) {
        const j = limb.joints[i];
        const p = o + placeOf(i);
        data[p] = pose.positions[j * 3];
        data[p + 1] = pose.positions[j * 3 + 1];
        data[p + 2] = pose.positions[j * 3 + 2];
        copy(data, p + 3, pose.rotations, j * 4);
      }
      addBones(data, o + placeOf(1), pose.positions, limb);
    }
  }
  return tracks;
}
