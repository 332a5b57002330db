/** A made-up walk for tests whose feet stand perfectly still while they are down. */
import { fromAxisAngle, fromFrame, mul, mulInv, rotate } from '../math/quat';
import { mirrorRole } from '../label';
import { random } from '../math/random';
import { atan2, cos, sin } from '../math/trig';
import type { Shape } from './bodies';
import type { Motion } from './motion';

export interface WalkOptions {
  readonly seed?: number;
  readonly frames?: number;
  readonly fps?: number;
  /** Heading of the walk, degrees from +Z towards +X, and where it starts. */
  readonly heading?: number;
  readonly at?: readonly [number, number];
  /** Degrees by which a foot rolls in over its heel and out over its ball; flat by default. */
  readonly roll?: number;
  /** Share of the leg by which the hips are lower than for a straight walk; always, or at so many seconds. */
  readonly crouch?: number | ((seconds: number) => number);
  /** Sensor noise on every joint's turn, radians, and on the hips' place, metres. */
  readonly noise?: number;
  /** Length of the strides, as a share of a walk's own; 0 stands on both feet. */
  readonly pace?: number;
  /** Share of the leg by which every stance stands higher than the one before it, of the other foot. */
  readonly climb?: number;
  /** Metres that the floor rises per metre ahead; the feet lie along it. */
  readonly slope?: number;
  /** Goes on four legs: the arms step as front legs, a quarter of a cycle after the legs of their side, and the trunk is still. */
  readonly fours?: boolean;
}

const CYCLE = 1.2;
const STANCE = 0.62;

/** Walks a shape with flat feet: still in stance, eased and lifted in the swing; arms, trunk and head move at random. */
export function walk(shape: Shape, options: WalkOptions = {}): Motion {
  const { seed = 1, frames = 240, fps = 60, heading = 0, at = [0, 0], roll = 0, crouch = 0, noise = 0, pace = 1, climb = 0 } = options;
  const { slope = 0, fours = false } = options;
  const incline = atan2(slope, 1);
  const rng = random(seed);
  const count = shape.joints.length;
  const index = new Map(shape.joints.map(({ role }, j) => [role, j]));
  const offset = (role: string): readonly [number, number, number] => shape.joints[index.get(role)!].offset;
  const size = (role: string): number => Math.sqrt(offset(role).reduce((s, x) => s + x * x, 0));
  const turns = new Float64Array(frames * count * 4);
  const hips = new Float64Array(frames * 3);
  const leg = size('left.lowerLeg') + size('left.foot');
  const limbs = limbsOf(fours);
  const sole = restHeight(shape, 'left.foot');
  const stride = leg * rng.range(0.75, 0.95) * pace;
  const base = new Float64Array(4);
  fromAxisAngle(base, 0, 0, 1, 0, (heading * Math.PI) / 180);
  const swing = Array.from({ length: count }, () => [rng.range(0.05, 0.35), rng.range(0, 6.28), rng.range(-1, 1), rng.range(-1, 1)]);
  const q = new Float64Array(4);
  const v = new Float64Array(3);

  for (let f = 0; f < frames; f++) {
    const t = f / fps;
    const forward = (stride / CYCLE) * t;
    const sway = 0.02 * sin((2 * Math.PI * t) / CYCLE);
    // Half a cycle a stance: the hips rise evenly, each foot by two steps in its swing.
    const low = typeof crouch === 'number' ? crouch : crouch(t);
    const height = sole + leg * (0.93 - low) + 0.012 * cos((4 * Math.PI * t) / CYCLE) + (climb * leg * 2 * t) / CYCLE + slope * forward;
    v.set([sway, height - offset('left.upperLeg')[1], forward]);
    rotate(v, 0, base, 0, v, 0);
    hips.set([v[0] + at[0], v[1], v[2] + at[1]], f * 3);
    const o = f * count * 4;
    shape.joints.forEach(({ role, parent }, j) => {
      if (parent < 0) turns.set(base, o);
      else turns.copyWithin(o + j * 4, o + parent * 4, o + parent * 4 + 4);
      if (fours || !/spine|neck|head|clavicle|Arm|hand/.test(role)) return;
      const [amount, phase, a, b] = swing[j];
      const n = Math.sqrt(1 + a * a + b * b);
      const limit = /clavicle|spine|neck/.test(role) ? 0.25 : 1.4;
      fromAxisAngle(q, 0, 1 / n, a / n, b / n, amount * limit * sin((2 * Math.PI * t) / CYCLE + phase));
      mul(turns, o + j * 4, turns, o + j * 4, q, 0);
    });
    for (const { top, mid, end, side, shift } of limbs) {
      // Ankle in the walk's own frame, then the leg that reaches it.
      const phase = t / CYCLE + shift;
      const cycle = Math.floor(phase);
      const u = phase - cycle;
      const root = placeOf(top);
      const step = (cycle - shift) * stride + stride * STANCE * 0.5 + root[2];
      const e = u < STANCE ? 0 : (u - STANCE) / (1 - STANCE);
      const ease = e * e * e * (e * (6 * e - 15) + 10);
      const ankle = [
        root[0] * 0.9,
        restHeight(shape, end) +
          0.09 * leg * Math.min(1, pace) * sin(Math.PI * e) ** 2 +
          2 * climb * leg * (cycle - shift + STANCE * 0.5 + ease),
        step + stride * ease,
      ];
      const pitch = (roll === 0 ? 0 : rolled(u, ankle)) - incline;
      if (slope !== 0) {
        ankle[1] += slope * ankle[2] + sole * (cos(incline) - 1);
        ankle[2] -= sole * sin(incline);
      }
      const hip = [sway + root[0], height + root[1], forward + root[2]];
      const way = ankle.map((x, c) => x - hip[c]);
      const upper = size(mid);
      const lower = size(end);
      const d = Math.min(Math.sqrt(way.reduce((sum, x) => sum + x * x, 0)), (upper + lower) * 0.9995);
      const along = (d * d + upper * upper - lower * lower) / (2 * d);
      const out = Math.sqrt(Math.max(0, upper * upper - along * along));
      const axis = way.map((x) => x / d);
      // The knee stands forward of the line, square to it.
      const k = [-axis[0] * axis[2], -axis[1] * axis[2], 1 - axis[2] * axis[2]];
      const kn = Math.sqrt(k.reduce((sum, x) => sum + x * x, 0));
      const thigh = axis.map((x, c) => x * along + (k[c] / kn) * out);
      const shin = way.map((x, c) => x - thigh[c]);
      lay(top, mid, thigh, o);
      lay(mid, end, shin, o);
      // Toes up while the heel comes down, heel up while the ball leaves.
      for (const part of end.endsWith('foot') ? ['foot', 'toes'] : ['hand']) {
        const j = index.get(`${side}.${part}`);
        if (j === undefined) continue;
        fromAxisAngle(q, 0, 1, 0, 0, part === 'foot' ? pitch : Math.min(0, pitch + incline) - incline);
        mul(turns, o + j * 4, base, 0, q, 0);
      }
    }
    if (noise > 0) shake(o, f);
  }
  return { frames, frameTime: 1 / fps, turns, hips };

  /** Where a limb starts in a body that stands at rest, from the tops of its legs: [across, up, ahead]. */
  function placeOf(role: string): number[] {
    const place = restPlace(shape, role);
    const hip = restPlace(shape, 'left.upperLeg');
    return [place[0], place[1] - hip[1], place[2] - hip[2]];
  }

  /** Sensor noise: each joint's turn and the hips' place, anew in every frame. */
  function shake(o: number, f: number): void {
    for (let j = 0; j < count; j++) {
      fromAxisAngle(q, 0, 1, 0, 0, noise * rng.normal());
      mul(turns, o + j * 4, turns, o + j * 4, q, 0);
      fromAxisAngle(q, 0, 0, 0, 1, noise * rng.normal());
      mul(turns, o + j * 4, turns, o + j * 4, q, 0);
    }
    for (let c = 0; c < 3; c++) hips[f * 3 + c] += noise * 0.5 * rng.normal();
  }

  /**
   * Rolls a foot about its heel as it lands and about its ball as it leaves; the ankle goes with it.
   * @param u share of the cycle, the stance first
   * @returns turn about the side axis, toes down positive
   */
  function rolled(u: number, ankle: number[]): number {
    const most = (roll * Math.PI) / 180;
    const down = u < 0.1 ? -most * (1 - smooth(u / 0.1)) : u > 1 - 0.12 ? -most * smooth((u - 1 + 0.12) / 0.12) : 0;
    const up =
      u > 0.42 && u <= STANCE
        ? most * smooth((u - 0.42) / (STANCE - 0.42))
        : u > STANCE && u < 0.85
          ? most * (1 - smooth((u - STANCE) / (0.85 - STANCE)))
          : 0;
    const angle = down + up;
    const ball = index.has('left.toes') ? offset('left.toes') : [0, -0.06 * leg, 0.15 * leg];
    const arm = angle > 0 ? [ball[1], ball[2]] : [-sole, -0.25 * ball[2]];
    // The point that stands still, seen from the ankle, turned; the ankle makes room for it.
    const [y, z] = [arm[0] * cos(angle) - arm[1] * sin(angle), arm[0] * sin(angle) + arm[1] * cos(angle)];
    ankle[1] += arm[0] - y;
    ankle[2] += arm[1] - z;
    return angle;
  }

  /** Turns a leg joint so that its bone points along `way` of the walk's frame, knee axis level. */
  function lay(role: string, end: string, way: readonly number[], o: number): void {
    const from = new Float64Array(4);
    const to = new Float64Array(4);
    const across = Float64Array.of(1, 0, 0);
    fromFrame(from, 0, Float64Array.from(offset(end)), 0, across, 0);
    fromFrame(to, 0, Float64Array.from(way), 0, across, 0);
    mulInv(from, 0, to, 0, from, 0);
    mul(turns, o + index.get(role)! * 4, base, 0, from, 0);
  }
}

/** The motion seen in a mirror that stands along the body's own middle: left and right exchanged, X turned about. */
export function mirrored(shape: Shape, motion: Motion): Motion {
  const count = shape.joints.length;
  const turns = new Float64Array(motion.turns.length);
  const partner = shape.joints.map(({ role }) => shape.joints.findIndex((joint) => joint.role === mirrorRole(role)));
  for (let f = 0; f < motion.frames; f++) {
    for (let j = 0; j < count; j++) {
      const [x, y, z, w] = motion.turns.slice((f * count + partner[j]) * 4, (f * count + partner[j]) * 4 + 4);
      turns.set([x, -y, -z, w], (f * count + j) * 4);
    }
  }
  return { ...motion, turns, hips: motion.hips.map((v, i) => (i % 3 === 0 ? -v : v)) };
}

const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * t * (t * (6 * t - 15) + 10));

interface Limb {
  readonly side: 'left' | 'right';
  readonly top: string;
  readonly mid: string;
  readonly end: string;
  /** Share of a cycle by which it comes before the left leg. */
  readonly shift: number;
}

function limbsOf(fours: boolean): Limb[] {
  const limb = (side: Limb['side'], shift: number, [top, mid, end]: readonly string[]): Limb => ({
    side,
    top: `${side}.${top}`,
    mid: `${side}.${mid}`,
    end: `${side}.${end}`,
    shift,
  });
  const leg = ['upperLeg', 'lowerLeg', 'foot'];
  const arm = ['upperArm', 'lowerArm', 'hand'];
  const legs = [limb('left', 0, leg), limb('right', 0.5, leg)];
  return fours ? [...legs, limb('left', 0.75, arm), limb('right', 0.25, arm)] : legs;
}

/** Height of a joint at rest over the lowest point of its foot, as the shape stands. */
function restHeight(shape: Shape, role: string): number {
  return restPlace(shape, role)[1];
}

function restPlace(shape: Shape, role: string): number[] {
  const place = [0, 0, 0];
  for (let j = shape.joints.findIndex((joint) => joint.role === role); j >= 0; j = shape.joints[j].parent) {
    shape.joints[j].offset.forEach((x, c) => (place[c] += x));
  }
  return place;
}
