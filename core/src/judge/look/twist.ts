import { SIDES } from '../../label';
import { invMul, mulInv, twistAngle } from '../../math/quat';
import { hypot } from '../../math/numbers';
import { DEG } from '../../math/trig';
import type { Rig } from '../../rig';
import type { Case } from '../case';

/** Turns about a bone that exceed the performer's by less than this are its own, degrees. */
const UNSEEN = 20;

/** A bone whose turn about itself is watched, on one body. */
interface Bone {
  readonly joint: number;
  readonly axis: Float64Array;
  readonly inParent: boolean;
}

/** Limb joints about their own bones, hands and feet about the one before, by role. */
function bonesOf({ roles, skeleton }: Rig): Map<string, Bone> {
  const out = new Map<string, Bone>();
  for (const side of SIDES) {
    for (const [part, next, isEnd] of [
      ['upperArm', 'lowerArm', false],
      ['lowerArm', 'hand', true],
      ['upperLeg', 'lowerLeg', false],
      ['lowerLeg', 'foot', true],
    ] as const) {
      const joint = roles.get(`${side}.${part}`);
      const end = roles.get(`${side}.${next}`);
      if (joint === undefined || end === undefined) continue;
      const axis = skeleton.restT.slice(end * 3, end * 3 + 3);
      const n = hypot(...axis);
      if (n < 1e-6) continue;
      axis.forEach((v, c) => (axis[c] = v / n));
      out.set(`${side}.${part}`, { joint, axis, inParent: false });
      if (isEnd && skeleton.parents[end] === joint) out.set(`${side}.${next}`, { joint: end, axis, inParent: true });
    }
  }
  return out;
}

/** Turn about a bone, degrees, without sign; 0 below a right angle, which wrings nothing. */
function turnAbout({ joint, axis, inParent }: Bone, { skeleton }: Rig, rotations: Float32Array, f: number, q: Float64Array): number {
  const o = (f * skeleton.parents.length + joint) * 4;
  if (inParent) mulInv(q, 0, rotations, o, skeleton.restR, joint * 4);
  else invMul(q, 0, skeleton.restR, joint * 4, rotations, o);
  const along = q[0] * axis[0] + q[1] * axis[1] + q[2] * axis[2];
  // tan(45°) = 1.
  if (Math.abs(along) < Math.abs(q[3])) return 0;
  return Math.abs(twistAngle(q, 0, axis[0], axis[1], axis[2])) / DEG;
}

/** The farthest that a bone is turned about itself where the performer's is not. */
export class TwistWatch {
  twist = { degrees: 0, joint: -1, frame: 0 };
  private readonly bones: readonly { readonly bone: Bone; readonly theirs: Bone | undefined }[];
  private readonly q = new Float64Array(4);

  constructor(private readonly given: Case) {
    const theirs = bonesOf(given.performer);
    this.bones = [...bonesOf(given.character)].map(([role, bone]) => ({ bone, theirs: theirs.get(role) }));
  }

  see(f: number): void {
    const { bones, q } = this;
    const { performer, character, take, result } = this.given;
    for (let k = 0; k < bones.length; k++) {
      const { bone, theirs } = bones[k];
      const turned = turnAbout(bone, character, result.rotations, f, q);
      if (turned > this.twist.degrees && turned - (theirs ? turnAbout(theirs, performer, take.rotations, f, q) : 0) > UNSEEN)
        this.twist = { degrees: turned, joint: bone.joint, frame: f };
    }
  }
}
