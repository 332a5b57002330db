import type { SkinPoints } from '../../formats';
import { SIDES } from '../../label';
import { percentile } from '../../math/filter';
import { rotate, unrotate } from '../../math/quat';
import { distance, dot, sub } from '../../math/vec';
import type { Rig } from '../../rig';
import type { Pose } from '../../skeleton';
import { onceFor } from './once';
import type { BodyPoint } from './points';
import { lastSpine } from './directions';
import { hypot } from '../../math/numbers';

/** A part of the body as a rod with round ends: its bone, and half its thickness. */
export interface Capsule {
  readonly name: string;
  readonly from: number;
  readonly to: number;
  /** Where it ends, in the frame of `to`; at that joint where nothing stands here. */
  readonly tip?: Float64Array;
  /** Share of the bone that it takes; all by default. */
  readonly share?: number;
  /** Metres. */
  readonly radius: number;
}

/**
 * Half the thickness of lean bodies without a mesh: of a leg's bones in shares of their own length, of an arm's in shares of the whole arm's, of trunk and
 * head in shares of the trunk's. A body with long legs has no larger head for it.
 */
const LEAN = { thigh: 0.15, shin: 0.1, forearm: 0.07, hand: 0.053, trunk: 0.18, head: 0.165 } as const;
/** Skin that is nearer to the bone than the rest of it by this share tells the thickness: clothes and flat parts stand off. */
const NEAR = 0.3;
/** Fewer points of skin than this say nothing. */
const ENOUGH = 12;

/** The parts of a body that may run into each other, by name. */
export function capsulesOf(rig: Rig, skin: SkinPoints | undefined, points: readonly BodyPoint[]): Map<string, Capsule> {
  const { roles, restPose } = rig;
  const out = new Map<string, Capsule>();
  const apart = (a: number | undefined, b: number | undefined): number =>
    a === undefined || b === undefined ? 0 : distance(restPose.positions, a * 3, restPose.positions, b * 3);
  const trunk = apart(roles.get('hips'), roles.get('neck.1') ?? roles.get('head') ?? lastSpine(rig));
  const add = (name: string, kind: keyof typeof LEAN, from: number | undefined, to: number | undefined, size = apart(from, to)): void => {
    if (from === undefined || to === undefined || from === to) return;
    const lean = LEAN[kind] * size;
    const thick = skin && onceFor(`thickness ${name}`, rig, skin, () => thicknessOf(rig, skin, from, to));
    // Wrists come together where hands do: that is for the figures of hands.
    const share = kind === 'forearm' ? 0.7 : 1;
    out.set(name, { name, from, to, share, radius: thick ?? lean });
  };
  for (const side of SIDES) {
    const at = (role: string): number | undefined => roles.get(`${side}.${role}`);
    const arm = apart(at('upperArm'), at('lowerArm')) + apart(at('lowerArm'), at('hand'));
    add(`${side} thigh`, 'thigh', at('upperLeg'), at('lowerLeg'));
    add(`${side} shin`, 'shin', at('lowerLeg'), at('foot'));
    add(`${side} forearm`, 'forearm', at('lowerArm'), at('hand'), arm);
    const palm = points.find(({ name }) => name === `${side} palm`);
    if (palm)
      out.set(`${side} hand`, {
        name: `${side} hand`,
        from: palm.joint,
        to: palm.joint,
        tip: palm.local,
        radius: LEAN.hand * arm,
      });
  }
  add('trunk', 'trunk', roles.get('hips'), lastSpine(rig), trunk);
  add('head', 'head', roles.get('head') === undefined ? undefined : rig.skeleton.parents[roles.get('head')!], roles.get('head'), trunk);
  return out;
}

/** Half the thickness of the skin about the bones from one joint to another below it, metres; undefined where there is too little of it. */
function thicknessOf({ skeleton, basis, restPose }: Rig, skin: SkinPoints, from: number, to: number): number | undefined {
  const bones = new Map<number, Float64Array>();
  for (let child = to; child !== from && child >= 0; child = skeleton.parents[child]) {
    const joint = skeleton.parents[child];
    if (joint < 0) return undefined;
    const along = new Float64Array(3);
    sub(along, 0, restPose.positions, child * 3, restPose.positions, joint * 3);
    unrotate(along, 0, restPose.rotations, joint * 4, along, 0);
    bones.set(joint, along);
  }
  const gaps: number[] = [];
  skin.joints.forEach((joint, i) => {
    const bone = bones.get(joint);
    if (!bone) return;
    const k = [0, 1, 2, 3].find((n) => skin.influences[i * 4 + n] === joint) ?? 0;
    gaps.push(toBone(skin.locals, (i * 4 + k) * 3, basis.metres, bone));
  });
  return gaps.length < ENOUGH ? undefined : percentile(gaps, NEAR);
}

/** Distance of a point from a bone that begins at the origin. */
function toBone(points: Float32Array, o: number, unit: number, bone: Float64Array): number {
  let along = 0;
  for (let c = 0; c < 3; c++) along += bone[c] * points[o + c] * unit;
  const t = Math.max(0, Math.min(1, along / Math.max(1e-12, dot(bone, 0, bone, 0))));
  return hypot(...[0, 1, 2].map((c) => points[o + c] * unit - t * bone[c]));
}

/** out = both ends of a capsule's bone in a pose, six numbers. */
export function endsOf(out: Float64Array, o: number, { from, to, tip, share = 1 }: Capsule, { positions, rotations }: Pose): void {
  for (let c = 0; c < 3; c++) {
    out[o + c] = positions[from * 3 + c];
    out[o + 3 + c] = 0;
  }
  if (tip) rotate(out, o + 3, rotations, to * 4, tip, 0);
  for (let c = 0; c < 3; c++) {
    out[o + 3 + c] += positions[to * 3 + c];
    out[o + 3 + c] = out[o + c] + share * (out[o + 3 + c] - out[o + c]);
  }
}

/**
 * Shortest way between two bones, metres (two segments: Ericson, Real-Time Collision Detection, 5.1.9).
 * @param p ends of bones, six numbers each, as `endsOf` leaves them
 */
export function between(p: Float64Array, a: number, b: number): number {
  let aa = 0;
  let bb = 0;
  let ab = 0;
  let ar = 0;
  let br = 0;
  for (let c = 0; c < 3; c++) {
    const u = p[a + 3 + c] - p[a + c];
    const v = p[b + 3 + c] - p[b + c];
    const r = p[a + c] - p[b + c];
    aa += u * u;
    bb += v * v;
    ab += u * v;
    ar += u * r;
    br += v * r;
  }
  const size = aa * bb - ab * ab;
  // Of bones that lie along each other, or are points, one end will do to begin with.
  let s = size > LEAST ? clamp((ab * br - ar * bb) / size) : 0;
  const t = clamp(bb > LEAST ? (ab * s + br) / bb : 0);
  s = aa > LEAST ? clamp((ab * t - ar) / aa) : 0;
  let sum = 0;
  for (let c = 0; c < 3; c++) {
    const x = p[a + c] + s * (p[a + 3 + c] - p[a + c]);
    const y = p[b + c] + t * (p[b + 3 + c] - p[b + c]);
    sum += (x - y) * (x - y);
  }
  return Math.sqrt(sum);
}

/** Squares of lengths below this are nothing, square metres. */
const LEAST = 1e-12;

const clamp = (t: number): number => Math.max(0, Math.min(1, t));
