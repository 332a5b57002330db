import type { SkinPoints } from '../../formats';
import { propsOf, type Rig } from '../../rig';
import { isBelow, type Pose } from '../../skeleton';
import { onceFor } from './once';
import { edgesOf, type Edges } from './edges';

export type SkinPart = 'feet' | 'hands' | 'body';

/** Outermost points of the skin of one joint, and a box about them in the joint's frame: middle and half sizes. */
export interface SkinGroup {
  readonly joint: number;
  readonly part: SkinPart;
  readonly box: Float64Array;
  readonly points: readonly number[];
}

/** The skin as far as it is looked at: outermost points of each joint, and all edges that several joints move. */
export interface Skin {
  readonly known: 'mesh' | 'capsules';
  /** Points by the joint that moves them most. */
  readonly groups: readonly SkinGroup[];
  readonly influences: Int32Array;
  readonly weights: Float32Array;
  /** In each joint's frame, metres, 12 a point. */
  readonly locals: Float32Array;
  readonly edges: Edges;
  readonly count: number;
}

/** Directions in which the outermost point of a joint's skin is kept. */
const WAYS = [-1, 0, 1]
  .flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((z) => [x, y, z] as const)))
  .filter(([x, y, z]) => Math.abs(x) + Math.abs(y) + Math.abs(z) === 1 || Math.abs(x * y * z) === 1);

/** Makes a character's skin ready to be looked at, once; a skeleton without one is given capsules along its limbs. */
export function makeSkin(rig: Rig, points: SkinPoints | undefined): Skin {
  return onceFor('skin', rig, points, () => (points && points.joints.length > 0 ? fromMesh(rig, points) : capsules(rig)));
}

function partOf({ roles, skeleton }: Rig): (joint: number) => SkinPart {
  const below = (suffix: string): number[] =>
    ['left', 'right'].map((side) => roles.get(`${side}.${suffix}`)).filter((j) => j !== undefined);
  const feet = below('foot');
  const hands = below('hand');
  return (joint) =>
    feet.some((j) => isBelow(skeleton, joint, j)) ? 'feet' : hands.some((j) => isBelow(skeleton, joint, j)) ? 'hands' : 'body';
}

function fromMesh(rig: Rig, points: SkinPoints): Skin {
  const { metres } = rig.basis;
  const locals = points.locals.map((v) => v * metres);
  const byJoint = new Map<number, number[]>();
  // Things beside the body stand as high as they are.
  const things = propsOf(rig);
  points.joints.forEach((joint, i) => {
    if (things.some((thing) => isBelow(rig.skeleton, joint, thing.joint))) return;
    const list = byJoint.get(joint) ?? [];
    list.push(i);
    byJoint.set(joint, list);
  });
  const part = partOf(rig);
  const placeIn = (i: number, joint: number): number => {
    for (let k = 0; k < 4; k++) if (points.influences[i * 4 + k] === joint) return (i * 4 + k) * 3;
    return i * 12;
  };
  const groups = [...byJoint].map(([joint, list]) => {
    const outer = new Set<number>();
    for (const [x, y, z] of WAYS) {
      let best = list[0];
      let most = -Infinity;
      for (const i of list) {
        const o = placeIn(i, joint);
        const reach = x * locals[o] + y * locals[o + 1] + z * locals[o + 2];
        if (reach > most) [best, most] = [i, reach];
      }
      outer.add(best);
    }
    return {
      joint,
      part: part(joint),
      box: boxAbout([...outer].map((i) => locals.subarray(placeIn(i, joint), placeIn(i, joint) + 3))),
      points: [...outer],
    };
  });
  return {
    known: 'mesh',
    groups,
    influences: points.influences,
    weights: points.weights,
    locals,
    edges: edgesOf(rig, points, metres),
    count: points.joints.length,
  };
}

function boxAbout(points: readonly ArrayLike<number>[]): Float64Array {
  const box = new Float64Array(6);
  for (let c = 0; c < 3; c++) {
    const values = points.map((point) => point[c]);
    const [low, high] = [Math.min(...values), Math.max(...values)];
    box[c] = (low + high) / 2;
    box[c + 3] = (high - low) / 2;
  }
  return box;
}

/** A height that no point of a group lies below in a pose, as far as its joint moves it. */
export function lowestOf({ joint, box }: SkinGroup, { positions, rotations }: Pose): number {
  const q = joint * 4;
  const x = rotations[q];
  const y = rotations[q + 1];
  const z = rotations[q + 2];
  const w = rotations[q + 3];
  const a = 2 * (x * y + w * z);
  const b = 1 - 2 * (x * x + z * z);
  const c = 2 * (y * z - w * x);
  return (
    positions[joint * 3 + 1] + a * box[0] + b * box[1] + c * box[2] - Math.abs(a) * box[3] - Math.abs(b) * box[4] - Math.abs(c) * box[5]
  );
}

/** Thickness of limbs without a mesh, in leg lengths: what a lean body has. */
const THICK: readonly (readonly [RegExp, number])[] = [
  [/hips|spine/, 0.09],
  [/head/, 0.09],
  [/upperLeg/, 0.06],
  [/lowerLeg/, 0.045],
  [/upperArm|lowerArm|neck/, 0.04],
  [/hand|foot/, 0.02],
];

function capsules(rig: Rig): Skin {
  const { roles, legLength, feet, skeleton } = rig;
  const part = partOf(rig);
  const locals: number[] = [];
  const influences: number[] = [];
  const groups: Skin['groups'][number][] = [];
  for (const [role, joint] of roles) {
    const thick = THICK.find(([pattern]) => pattern.test(role))?.[1];
    if (thick === undefined || role.includes('twist')) continue;
    const foot = feet.find((f) => f.foot === joint);
    // The sole is known by its probes; elsewhere a ball about the joint, six points of it.
    const around = foot
      ? [foot.heel, foot.ball]
      : [-1, 1].flatMap((s) => [0, 1, 2].map((c) => Float64Array.from([0, 1, 2], (k) => (k === c ? s * thick * legLength : 0))));
    const tip = skeleton.tips.subarray(joint * 3, joint * 3 + 3);
    if (/hand/.test(role) && tip.every(Number.isFinite)) around.push(Float64Array.from(tip));
    const list = around.map((local) => {
      influences.push(joint, -1, -1, -1);
      locals.push(...local, ...new Array<number>(9).fill(0));
      return influences.length / 4 - 1;
    });
    groups.push({ joint, part: part(joint), box: boxAbout(around), points: list });
  }
  const count = influences.length / 4;
  const weights = new Float32Array(count * 4);
  for (let i = 0; i < count; i++) weights[i * 4] = 1;
  return {
    known: 'capsules',
    groups,
    influences: Int32Array.from(influences),
    weights,
    locals: Float32Array.from(locals),
    edges: { ends: new Int32Array(0), lengths: new Float64Array(0), bounds: new Float64Array(0) },
    count,
  };
}

/** Height of a point of the skin in a pose (linear blend skinning, glTF 2.0 section 3.7.3). */
export function heightOf({ influences, weights, locals }: Skin, point: number, { positions, rotations }: Pose): number {
  let y = 0;
  for (let k = 0; k < 4; k++) {
    const joint = influences[point * 4 + k];
    if (joint < 0) break;
    const o = (point * 4 + k) * 3;
    const q = joint * 4;
    const qx = rotations[q];
    const qy = rotations[q + 1];
    const qz = rotations[q + 2];
    const qw = rotations[q + 3];
    const x = locals[o];
    const v = locals[o + 1];
    const z = locals[o + 2];
    const up = 2 * (qx * qy + qw * qz) * x + (1 - 2 * (qx * qx + qz * qz)) * v + 2 * (qy * qz - qw * qx) * z;
    y += weights[point * 4 + k] * (positions[joint * 3 + 1] + up);
  }
  return y;
}

/** out = place of a point of the skin in a pose. */
export function placeOf(
  { influences, weights, locals }: Skin,
  point: number,
  { positions, rotations }: Pose,
  out: Float64Array,
  oo: number,
): void {
  out[oo] = out[oo + 1] = out[oo + 2] = 0;
  for (let k = 0; k < 4; k++) {
    const joint = influences[point * 4 + k];
    if (joint < 0) break;
    const o = (point * 4 + k) * 3;
    const w = weights[point * 4 + k];
    const q = joint * 4;
    const qx = rotations[q];
    const qy = rotations[q + 1];
    const qz = rotations[q + 2];
    const qw = rotations[q + 3];
    const x = locals[o];
    const y = locals[o + 1];
    const z = locals[o + 2];
    const tx = 2 * (qy * z - qz * y);
    const ty = 2 * (qz * x - qx * z);
    const tz = 2 * (qx * y - qy * x);
    out[oo] += w * (positions[joint * 3] + x + qw * tx + qy * tz - qz * ty);
    out[oo + 1] += w * (positions[joint * 3 + 1] + y + qw * ty + qz * tx - qx * tz);
    out[oo + 2] += w * (positions[joint * 3 + 2] + z + qw * tz + qx * ty - qy * tx);
  }
}
