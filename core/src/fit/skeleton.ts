import { SIDES } from '../label';
import { fromAxes, invMul, unrotate } from '../math/quat';
import { cross, dot, length, normalize } from '../math/vec';
import type { FitDetail } from '../recipe';
import { makeSkeleton, type Skeleton } from '../skeleton';
import { layFingers } from './fingers';
import type { Landmarks, Place } from './landmarks';

/** A skeleton by landmarks, and what is known of it beyond its joints. */
export interface FittedSkeleton {
  /** Metres, Y up; each joint's Y along its bone, its X the axis that a hinge turns about. */
  readonly skeleton: Skeleton;
  /** World places of the joints, 3 each. */
  readonly places: Float64Array;
  /** Where the bones of leaves end, 3 a joint; NaN for those that end in another joint. */
  readonly ends: Float64Array;
  /** For joints that only share another's twist, that joint; −1 for all others. */
  readonly twistOf: Int32Array;
}

interface Joint {
  readonly name: string;
  readonly parent: string | undefined;
  readonly at: Place;
  /** Where its bone points, and ends where nothing hangs on it. */
  readonly to: Place;
  readonly isLeaf?: boolean;
  readonly twistOf?: string;
}

/** The hips joint lies over the middle of the hip joints, share of the height. */
const OVER_HIPS = 0.028;
/** The head's joint from the chin to the crown. */
const HEAD_JOINT = 0.09;
/** The joints of a spine of n stand at (i + first) / (n + all) of the way from the hips to the neck. */
const SPINE = { first: 0.8, all: 1.15 };
/** The clavicle's joint: aside, share of the shoulder's, and under it, share of the height. */
const CLAVICLE = { aside: 0.17, under: 0.004 };
const TWISTS = { UpperArm: [0.35, 0.7], LowerArm: [0.35, 0.7], UpperLeg: [0.5] } as const;
/** A limb bent by more than this, as sine, shows the axis of its hinge. */
const BENT = 0.09;
/** A bent limb's axis is believed where it is so near to the usual one, as cosine. */
const USUAL = 0.6;

/**
 * Lays a skeleton through landmarks.
 * @param trunkZ the middle of the trunk from front to back at a height
 */
export function skeletonOf(marks: Landmarks, detail: FitDetail, middle: number, trunkZ: (y: number) => number): FittedSkeleton {
  const joints: Joint[] = [];
  const height = marks['crown'][1];
  const put = (name: string, parent: string | undefined, at: Place, to: Place, more: Partial<Joint> = {}): void => {
    joints.push({ name, parent, at, to, ...more });
  };
  const [leftHip, rightHip] = SIDES.map((side) => marks[`${side}.hip`]);
  const hipsY = (leftHip[1] + rightHip[1]) / 2 + OVER_HIPS * height;
  const hips: Place = [(leftHip[0] + rightHip[0]) / 2, hipsY, (leftHip[2] + rightHip[2]) / 2];
  const neck = marks['neck'];
  const chin = marks['chin'];
  const crown = marks['crown'];
  const spine = Array.from({ length: detail.spine }, (_, i): Place => {
    const t = (i + SPINE.first) / (detail.spine + SPINE.all);
    const y = hips[1] + t * (neck[1] - hips[1]);
    return [hips[0] + t * (neck[0] - hips[0]), y, trunkZ(y)];
  });
  const head: Place = [chin[0], chin[1] + HEAD_JOINT * (crown[1] - chin[1]), (chin[2] + neck[2]) / 2];
  const necks = Array.from({ length: detail.neck }, (_, i): Place => between(neck, head, i / detail.neck));
  const line = [...spine, ...necks, head];
  put('hips', undefined, hips, spine[0]);
  let top = 'hips';
  line.slice(0, -1).forEach((at, i) => {
    const name = i < spine.length ? `spine${i + 1}` : `neck${i - spine.length + 1}`;
    put(name, top, at, line[i + 1]);
    top = name;
  });
  put('head', top, head, crown, { isLeaf: true });
  const chest = `spine${detail.spine}`;
  for (const side of SIDES) {
    const m = (mark: string): Place => marks[`${side}.${mark}`];
    const [shoulder, elbow, wrist] = [m('shoulder'), m('elbow'), m('wrist')];
    const clavicleY = shoulder[1] - CLAVICLE.under * height;
    const clavicle: Place = [middle + CLAVICLE.aside * (shoulder[0] - middle), clavicleY, (trunkZ(clavicleY) + shoulder[2]) / 2];
    const fingertip = m('fingertip');
    put(`${side}Clavicle`, chest, clavicle, shoulder);
    put(`${side}UpperArm`, `${side}Clavicle`, shoulder, elbow);
    put(`${side}LowerArm`, `${side}UpperArm`, elbow, wrist);
    put(`${side}Hand`, `${side}LowerArm`, wrist, fingertip, { isLeaf: detail.fingers === 0 });
    for (const finger of layFingers(wrist, fingertip, detail.fingers)) {
      finger.joints.forEach((at, i) => {
        const isLast = i + 1 === finger.joints.length;
        const parent = i === 0 ? `${side}Hand` : `${side}${finger.name}${i}`;
        put(`${side}${finger.name}${i + 1}`, parent, at, isLast ? finger.tip : finger.joints[i + 1], { isLeaf: isLast });
      });
    }
    const hock = marks[`${side}.hock`] as Place | undefined;
    const leg: [string, Place][] = [
      ['UpperLeg', m('hip')],
      ['LowerLeg', m('knee')],
      ...(hock ? [['Hock', hock] as [string, Place]] : []),
      ['Foot', m('ankle')],
      ['Toes', m('ball')],
    ];
    leg.forEach(([name, at], i) => {
      const isLast = i + 1 === leg.length;
      put(`${side}${name}`, i === 0 ? 'hips' : `${side}${leg[i - 1][0]}`, at, isLast ? m('toe') : leg[i + 1][1], { isLeaf: isLast });
    });
    if (!detail.twists) continue;
    for (const [name, shares] of Object.entries(TWISTS)) {
      const bone = joints.find((joint) => joint.name === `${side}${name}`)!;
      shares.forEach((share, i) =>
        put(`${side}${name}Twist${i + 1}`, bone.name, between(bone.at, bone.to, share), bone.to, { twistOf: bone.name }),
      );
    }
  }
  return assemble(joints);
}

function between(a: Place, b: Place, t: number): Place {
  return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])];
}

/** Joints with their own axes, as a skeleton. */
function assemble(joints: readonly Joint[]): FittedSkeleton {
  const index = new Map(joints.map(({ name }, j) => [name, j]));
  const parents = joints.map(({ parent }) => (parent === undefined ? -1 : index.get(parent)!));
  const count = joints.length;
  const world = new Float64Array(count * 4);
  const restT = new Float64Array(count * 3);
  const restR = new Float64Array(count * 4);
  const ends = new Float64Array(count * 3).fill(NaN);
  const places = Float64Array.from(joints.flatMap(({ at }) => [...at]));
  const tips = new Float64Array(count * 3).fill(NaN);
  joints.forEach((joint, j) => {
    axesOf(joint, joints[parents[j]] as Joint | undefined, next(j), world, j * 4);
    const p = parents[j];
    for (let c = 0; c < 3; c++) restT[j * 3 + c] = joint.at[c] - (p < 0 ? 0 : joints[p].at[c]);
    if (p < 0) restR.set(world.subarray(j * 4, j * 4 + 4), j * 4);
    else {
      unrotate(restT, j * 3, world, p * 4, restT, j * 3);
      invMul(restR, j * 4, world, p * 4, world, j * 4);
    }
    if (!joint.isLeaf) return;
    for (let c = 0; c < 3; c++) {
      ends[j * 3 + c] = joint.to[c];
      tips[j * 3 + c] = joint.to[c] - joint.at[c];
    }
    unrotate(tips, j * 3, world, j * 4, tips, j * 3);
  });
  const twistOf = Int32Array.from(joints, ({ twistOf: bone }) => (bone === undefined ? -1 : index.get(bone)!));
  return { skeleton: makeSkeleton({ names: joints.map(({ name }) => name), parents, restT, restR, tips }), places, ends, twistOf };

  /** The bone that a joint's own one bends against. */
  function next(j: number): Joint | undefined {
    return joints.find(({ parent, at }) => parent === joints[j].name && at === joints[j].to);
  }
}

/**
 * A joint's axes: Y along the bone; Z ahead, or up for bones that point ahead; X across, about which elbows and knees turn. A limb
 * that is bent shows that axis itself.
 */
function axesOf(joint: Joint, parent: Joint | undefined, next: Joint | undefined, out: Float64Array, oo: number): void {
  const y = way(joint.at, joint.to);
  const z = Math.abs(y[2]) > 0.75 ? Float64Array.of(0, 1, 0) : Float64Array.of(0, 0, 1);
  const x = new Float64Array(3);
  cross(x, 0, y, 0, z, 0);
  normalize(x, 0);
  const hinge = new Float64Array(3);
  if (/(UpperArm|UpperLeg)$/.test(joint.name) && next) cross(hinge, 0, y, 0, way(next.at, next.to), 0);
  else if (/(LowerArm|LowerLeg)$/.test(joint.name) && parent) cross(hinge, 0, way(parent.at, parent.to), 0, y, 0);
  if (length(hinge, 0) > BENT) {
    normalize(hinge, 0);
    const like = dot(hinge, 0, x, 0);
    if (Math.abs(like) > USUAL) for (let c = 0; c < 3; c++) x[c] = like > 0 ? hinge[c] : -hinge[c];
  }
  cross(z, 0, x, 0, y, 0);
  normalize(z, 0);
  cross(x, 0, y, 0, z, 0);
  fromAxes(out, oo, x[0], x[1], x[2], y[0], y[1], y[2], z[0], z[1], z[2]);
}

function way(from: Place, to: Place): Float64Array {
  const out = Float64Array.from(to, (v, c) => v - from[c]);
  if (!(normalize(out, 0) > 1e-9)) out.set([0, 1, 0]);
  return out;
}
