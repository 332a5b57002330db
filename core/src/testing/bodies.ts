/** Random two-legged bodies for tests: one shape, any names, axes, unit, up axis and rest pose. */
import type { MotionFile } from '../formats';
import { fromAxisAngle, identity, invMul, mul, normalize, rotate, unrotate } from '../math/quat';
import { random, type Random } from '../math/random';
import { FINGERS } from '../label';
import { makeBasis, makeSkeleton, type UpAxis } from '../skeleton';
import type { Motion } from './motion';

export interface ShapeJoint {
  readonly role: string;
  readonly parent: number;
  /** From the parent joint, metres, T-pose, facing +Z. */
  readonly offset: readonly [number, number, number];
}

/** A body's bones, apart from how any file states them. */
export interface Shape {
  readonly joints: readonly ShapeJoint[];
  readonly tips: ReadonlyMap<string, readonly [number, number, number]>;
}

export interface ShapeOptions {
  readonly spine?: number;
  readonly neck?: number;
  readonly clavicles?: boolean;
  readonly toes?: boolean;
  /** Fingers of two joints each on both hands, thumb first; 0 by default. */
  readonly fingers?: number;
  /** A ground joint at the floor under the hips. */
  readonly ground?: boolean;
  /** Joints of zero length between hips and legs and inside the hands, as captures often have. */
  readonly helpers?: boolean;
  /** A joint at the end of head, toes and fingers in place of a bone's tip. */
  readonly ends?: boolean;
  /** Factor for each limb's length, drawn from this range. */
  readonly spread?: readonly [number, number];
}

/** A body with lengths drawn at random around an adult's. */
export function randomShape(seed: number, options: ShapeOptions = {}): Shape {
  const rng = random(seed);
  const { spine = rng.integer(1, 5), neck = rng.integer(1, 2), clavicles = rng.next() < 0.8, toes = true, spread = [0.8, 1.25] } = options;
  const vary = (): number => rng.range(spread[0], spread[1]);
  const joints: ShapeJoint[] = [];
  const add = (role: string, parent: number, offset: readonly [number, number, number]): number =>
    joints.push({ role, parent, offset }) - 1;
  const leg = vary();
  // Thigh and shin differ from body to body, or no plain transfer would slide.
  const thighLength = 0.42 * leg * rng.range(0.85, 1.15);
  const shinLength = 0.4 * leg * rng.range(0.85, 1.15);
  const trunk = vary();
  const arm = vary();
  const { fingers = 0, ground = false, helpers = false, ends = false } = options;
  const floor = ground ? add('ground', -1, [0, 0, 0]) : -1;
  const hips = add('hips', floor, [0, 0.06 + thighLength + shinLength + 0.07 * leg, 0]);
  let top = hips;
  for (let i = 1; i <= spine; i++) top = add(`spine.${i}`, top, [0, (0.42 * trunk) / spine, i === 1 ? -0.01 : 0]);
  const chest = top;
  for (let i = 1; i <= neck; i++) top = add(`neck.${i}`, top, [0, i === 1 ? 0.2 * trunk : 0.05, 0.005]);
  const head = add('head', top, [0, 0.09, 0.015]);
  if (ends) add('head.end', head, [0, 0.19, 0.01]);
  const width = vary();
  for (const [side, s] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const root = clavicles ? add(`${side}.clavicle`, chest, [s * 0.03, 0.15 * trunk, 0.01]) : chest;
    const upper = add(`${side}.upperArm`, root, clavicles ? [s * 0.15 * width, 0.01, -0.02] : [s * 0.18 * width, 0.16 * trunk, -0.01]);
    const lower = add(`${side}.lowerArm`, upper, [s * 0.28 * arm, 0, -0.005]);
    const wrist = add(`${side}.hand`, lower, [s * 0.25 * arm, 0, 0.005]);
    const palm = helpers && fingers > 0 ? add(`${side}.palm`, wrist, [0, 0, 0]) : wrist;
    FINGERS.slice(0, fingers).forEach((finger, i) => {
      const base: readonly [number, number, number] = i === 0 ? [s * 0.03, -0.01, 0.035] : [s * 0.09, 0, 0.055 - i * 0.022];
      const first = add(`${side}.${finger}.1`, palm, base);
      const second = add(`${side}.${finger}.2`, first, i === 0 ? [s * 0.025, -0.005, 0.02] : [s * 0.035, 0, 0]);
      if (ends) add(`${side}.${finger}.end`, second, [s * 0.025, 0, 0]);
    });
    const socket = helpers ? add(`${side}.hipHelper`, hips, [0, 0, 0]) : hips;
    const thigh = add(`${side}.upperLeg`, socket, [s * 0.09 * width, -0.06, 0]);
    const shin = add(`${side}.lowerLeg`, thigh, [s * 0.004, -thighLength, 0.006]);
    const foot = add(`${side}.foot`, shin, [0, -shinLength, -0.012]);
    const ball = toes ? add(`${side}.toes`, foot, [s * 0.01, -0.055 * leg, 0.13 * leg]) : foot;
    if (ends && toes) add(`${side}.toes.end`, ball, [0, -0.005 * leg, 0.07 * leg]);
  }
  const tips = new Map<string, readonly [number, number, number]>();
  if (ends) return { joints, tips };
  tips.set('head', [0, 0.19, 0.01]);
  for (const [side, s] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    if (fingers === 0) tips.set(`${side}.hand`, [s * 0.17, -0.005, 0.005]);
    for (const finger of FINGERS.slice(0, fingers)) tips.set(`${side}.${finger}.2`, [s * 0.025, 0, 0]);
    tips.set(toes ? `${side}.toes` : `${side}.foot`, toes ? [0, -0.005 * leg, 0.07 * leg] : [s * 0.01, -0.06 * leg, 0.2 * leg]);
  }
  return { joints, tips };
}

/** The same body at another size. */
export function scaled(shape: Shape, factor: number): Shape {
  const by = (v: readonly [number, number, number]): [number, number, number] => [v[0] * factor, v[1] * factor, v[2] * factor];
  return {
    joints: shape.joints.map((j) => ({ ...j, offset: by(j.offset) })),
    tips: new Map([...shape.tips].map(([role, tip]) => [role, by(tip)])),
  };
}

/** How a file states a body. */
export interface Style {
  readonly names?: Readonly<Record<string, string>> | ((role: string) => string);
  /** Seed of each joint's own axes; undefined lays them along the world. */
  readonly axes?: number;
  readonly metres?: number;
  readonly up?: UpAxis;
  /** Seed and size of random turns of the arms at rest; of the whole body but hips and feet when `whole`. */
  readonly rest?: { readonly seed: number; readonly degrees: number; readonly whole?: boolean };
  /** Degrees by which feet and toes point down at rest. */
  readonly pointedFeet?: number;
  readonly name?: string;
  /** Every joint can be given a place over time, not the root alone. */
  readonly places?: boolean;
}

const PLAIN: Readonly<Record<string, string>> = {
  hips: 'Hips',
  head: 'Head',
  clavicle: 'Collar',
  upperArm: 'UpperArm',
  lowerArm: 'ForeArm',
  hand: 'Hand',
  upperLeg: 'Thigh',
  lowerLeg: 'Shin',
  foot: 'Foot',
  toes: 'Toes',
  spine: 'Spine',
  neck: 'Neck',
  ground: 'Ground',
  palm: 'Palm',
  hipHelper: 'HipJoint',
};

/** "left.upperArm" as "LeftUpperArm", "spine.2" as "Spine2". */
export function plainName(role: string): string {
  const parts = role.split('.');
  const side = parts[0] === 'left' || parts[0] === 'right' ? parts.shift()! : '';
  const [part, number = ''] = parts;
  return `${side ? side[0].toUpperCase() + side.slice(1) : ''}${PLAIN[part] ?? part}${number}`;
}

function randomTurn(out: Float64Array, o: number, rng: Random, degrees: number): void {
  const axis = [rng.normal(), rng.normal(), rng.normal()];
  const n = Math.sqrt(axis[0] ** 2 + axis[1] ** 2 + axis[2] ** 2) || 1;
  fromAxisAngle(out, o, axis[0] / n, axis[1] / n, axis[2] / n, (degrees * Math.PI) / 180);
  normalize(out, o);
}

/** States a shape, and a motion on it when one is given, as a file in the given style. */
export function makeFile(shape: Shape, style: Style = {}, motion?: Motion): MotionFile {
  const { joints } = shape;
  const count = joints.length;
  const { metres = 1, up = '+Y', names = plainName, name = 'test.bvh' } = style;
  const axes = new Float64Array(count * 4);
  const restTurns = new Float64Array(count * 4);
  const axesRng = style.axes === undefined ? undefined : random(style.axes);
  const restRng = style.rest === undefined ? undefined : random(style.rest.seed);
  const basis = makeBasis(metres, up);
  for (let j = 0; j < count; j++) {
    if (axesRng) randomTurn(axes, j * 4, axesRng, axesRng.range(10, 170));
    else identity(axes, j * 4);
    // Limbs only: a rest pose still stands upright on flat feet.
    const turning = style.rest?.whole ? /Arm|Leg|spine|neck|head|clavicle/ : /Arm/;
    if (restRng && turning.test(joints[j].role)) {
      randomTurn(restTurns, j * 4, restRng, style.rest!.degrees);
      if (joints[j].parent >= 0 && joints[j].role.includes('lowerArm'))
        mul(restTurns, j * 4, restTurns, joints[j].parent * 4, restTurns, j * 4);
    } else if (restRng && joints[j].role.includes('hand')) restTurns.copyWithin(j * 4, joints[j].parent * 4, joints[j].parent * 4 + 4);
    else identity(restTurns, j * 4);
    if (style.pointedFeet !== undefined && /foot|toes/.test(joints[j].role)) {
      fromAxisAngle(restTurns, j * 4, 1, 0, 0, (style.pointedFeet * Math.PI) / 180);
    }
  }
  const q = new Float64Array(8);
  const v = new Float64Array(3);
  const restT = new Float64Array(count * 3);
  const restR = new Float64Array(count * 4);
  const tips = new Float64Array(count * 3).fill(NaN);
  const local = (out: Float64Array | Float32Array, oo: number, turns: Float64Array, to: number, j: number): void => {
    mul(q, 0, turns, to + j * 4, axes, j * 4);
    const p = joints[j].parent;
    if (p < 0) invMul(q, 0, basis.turn, 0, q, 0);
    else {
      mul(q, 4, turns, to + p * 4, axes, p * 4);
      invMul(q, 0, q, 4, q, 0);
    }
    for (let c = 0; c < 4; c++) out[oo + c] = q[c];
  };
  joints.forEach(({ role, parent, offset }, j) => {
    v.set(offset);
    if (parent < 0) unrotate(v, 0, basis.turn, 0, v, 0);
    else unrotate(v, 0, axes, parent * 4, v, 0);
    for (let c = 0; c < 3; c++) restT[j * 3 + c] = v[c] / metres;
    local(restR, j * 4, restTurns, 0, j);
    const tip = shape.tips.get(role);
    if (tip) {
      v.set(tip);
      unrotate(v, 0, axes, j * 4, v, 0);
      for (let c = 0; c < 3; c++) tips[j * 3 + c] = v[c] / metres;
    }
  });
  const skeleton = makeSkeleton({
    names: joints.map(({ role }) => (typeof names === 'function' ? names(role) : names[role])),
    parents: joints.map(({ parent }) => parent),
    restT,
    restR,
    tips,
  });
  const clips = [];
  if (motion) {
    const { frames, frameTime } = motion;
    const rotations = new Float32Array(frames * count * 4);
    const values = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      for (let j = 0; j < count; j++) local(rotations, (f * count + j) * 4, motion.turns, f * count * 4, j);
      for (let c = 0; c < 3; c++) v[c] = motion.hips[f * 3 + c] / metres;
      unrotate(v, 0, basis.turn, 0, v, 0);
      values.set(v, f * 3);
    }
    clips.push({ name: 'walk', frameTime, frames, rotations, moves: [{ joint: 0, values }] });
  }
  return {
    name,
    skeleton,
    clips,
    warnings: [],
    layout: {
      format: 'bvh',
      channels: joints.map(({ parent }) => (parent < 0 || style.places ? [0, 1, 2, 5, 3, 4] : [5, 3, 4])),
      offsets: restT.slice(),
      fromOffset: new Uint8Array(count),
      endSites: joints.map((_, j) => (Number.isNaN(tips[j * 3]) ? [] : [...tips.slice(j * 3, j * 3 + 3)])),
    },
  };
}

/** World positions of a motion's joints in one frame, straight from the shape; 3 per joint. */
export function positionsOf(shape: Shape, motion: Motion, frame: number): Float64Array {
  const count = shape.joints.length;
  const out = new Float64Array(count * 3);
  const v = new Float64Array(3);
  shape.joints.forEach(({ parent, offset }, j) => {
    if (parent < 0) {
      out.set(motion.hips.subarray(frame * 3, frame * 3 + 3), j * 3);
      return;
    }
    v.set(offset);
    rotate(v, 0, motion.turns, (frame * count + parent) * 4, v, 0);
    for (let c = 0; c < 3; c++) out[j * 3 + c] = out[parent * 3 + c] + v[c];
  });
  return out;
}
