import { smoothstep } from '@hollow-stride/core';
import { add, cross, scale, sub, type V3 } from './vectors';

/** One footprint: where a foot stands, and from when to when. */
export interface Step {
  readonly side: 'l' | 'r';
  readonly x: number;
  readonly z: number;
  /** Height of what it stands on, 0 by default: a rung, a step. */
  readonly y?: number;
  /** How high the foot is lifted on its way here, metres; the take's own clearance by default. */
  readonly lift?: number;
  /** Degrees from +Z towards +X. */
  readonly heading: number;
  readonly strike: number;
  readonly off: number;
  /** Rolls in over the heel and out over the ball; a foot that stands from the start or to the end does not. */
  readonly rollIn: boolean;
  readonly rollOut: boolean;
  /** Stands tipped by so many degrees, heel up negative: a foot on its toes behind a knee. */
  readonly tip?: number;
}

/** Where a foot is at a moment. Pitch in degrees, toes up positive; toes bend against the foot, up positive. */
export interface FootState {
  readonly ankle: V3;
  readonly pitch: number;
  readonly heading: number;
  readonly toes: number;
  /** 0 in the air, 1 on the floor, in between while weight comes and goes. */
  readonly weight: number;
  /** Height of what it stands on, or is on its way between. */
  readonly ground: number;
  /** How far the leg is turned over about the way ahead, degrees; a foot in the air goes with it. None for a leg that hangs. */
  readonly over?: number;
}

/** The performer's foot: ankle over the sole, heel behind it, ball ahead. */
export const FOOT = { ankle: 0.085, heel: 0.045, ball: 0.137 } as const;

const STRIKE_PITCH = 20;
const OFF_PITCH = -52;
const ROLL_IN = 0.13;
const ROLL_OUT = 0.3;
const RAD = Math.PI / 180;

const forwardOf = (heading: number): V3 => [Math.sin(heading * RAD), 0, Math.cos(heading * RAD)];

/** The ankle of a foot that pivots on its heel or ball, `pitch` degrees off the floor. */
function pivot(step: Step, pitch: number): V3 {
  const f = forwardOf(step.heading);
  const reach = pitch >= 0 ? -FOOT.heel : FOOT.ball;
  const up: V3 = [0, 1, 0];
  const c = Math.cos(pitch * RAD);
  const s = Math.sin(pitch * RAD);
  // The arm from pivot to ankle, turned by the pitch about the foot's side axis.
  const along = -reach * c - FOOT.ankle * s;
  const height = -reach * s + FOOT.ankle * c;
  return add([step.x, step.y ?? 0, step.z], add(scale(f, reach + along), scale(up, height)));
}

function stancePitch(step: Step, t: number): number {
  const since = t - step.strike;
  const left = step.off - t;
  // Short stances, as in a run, roll in and out faster.
  const rollIn = Math.min(ROLL_IN, 0.35 * (step.off - step.strike));
  const rollOut = Math.min(ROLL_OUT, 0.6 * (step.off - step.strike));
  if (step.rollIn && since < rollIn) return STRIKE_PITCH * (1 - smoothstep(since / rollIn));
  if (step.rollOut && left < rollOut) {
    const u = 1 - left / rollOut;
    return OFF_PITCH * u * u * (0.6 + 0.4 * u);
  }
  return step.tip ?? 0;
}

function stance(step: Step, t: number, leaves: boolean): FootState {
  const pitch = stancePitch(step, t);
  const weightIn = step.strike > 0 ? smoothstep((t - step.strike) / 0.16) : 1;
  const weightOut = leaves ? smoothstep((step.off - t) / 0.16) : 1;
  return {
    ankle: pivot(step, pitch),
    pitch,
    heading: step.heading,
    toes: Math.max(0, -pitch),
    weight: Math.min(weightIn, weightOut),
    ground: step.y ?? 0,
  };
}

/** The state of one foot at time t, from its footprints in order of time. */
export function footAt(steps: readonly Step[], t: number, clearance = 0.035): FootState {
  let k = 0;
  while (k + 1 < steps.length && steps[k + 1].strike <= t) k++;
  const step = steps[k];
  const isLast = k + 1 === steps.length;
  if (t <= step.off || isLast) return stance(step, Math.min(t, step.off), !isLast);
  const next = steps[k + 1];
  const time = next.strike - step.off;
  const s = (t - step.off) / time;
  const small = 1e-3;
  const from = stance(step, step.off, true);
  const to = stance(next, next.strike, true);
  const v0 = scale(sub(from.ankle, stance(step, step.off - small, true).ankle), time / small);
  const v1 = scale(sub(stance(next, next.strike + small, true).ankle, to.ankle), time / small);
  const s2 = s * s;
  const s3 = s2 * s;
  const way = (c: 0 | 1 | 2): number =>
    (2 * s3 - 3 * s2 + 1) * from.ankle[c] + (s3 - 2 * s2 + s) * v0[c] + (3 * s2 - 2 * s3) * to.ankle[c] + (s3 - s2) * v1[c];
  const lift = (next.lift ?? clearance) * 16 * s2 * (1 - s) * (1 - s);
  const leave = (1 - s) ** 2.2;
  const pitch = from.pitch * leave + to.pitch * smoothstep((s - 0.3) / 0.7);
  const heading = step.heading + (next.heading - step.heading) * smoothstep(s);
  return {
    ankle: [way(0), way(1) + lift, way(2)],
    pitch,
    heading,
    toes: from.toes * Math.max(0, 1 - s / 0.35) ** 2 + (next.tip === undefined ? 8 : to.toes) * smoothstep((s - 0.6) / 0.4),
    weight: 0,
    ground: (step.y ?? 0) + ((next.y ?? 0) - (step.y ?? 0)) * smoothstep(s),
  };
}

/** Footprints of a straight walk along +Z that starts from a stand and comes to one again. */
export function walkSteps(options: {
  start: number;
  cycle: number;
  length: number;
  width: number;
  count: number;
  toeOut: number;
  end: number;
}): Step[] {
  const { start, cycle, length, width, count, toeOut, end } = options;
  const half = cycle / 2;
  const steps: Step[] = [];
  const at = (i: number): { side: 'l' | 'r'; x: number; heading: number } => {
    const side = i % 2 === 0 ? 'l' : 'r';
    return { side, x: ((side === 'l' ? 1 : -1) * width) / 2, heading: side === 'l' ? toeOut : -toeOut };
  };
  const stanceTime = 0.6 * cycle;
  // Both feet stand; the right leaves first, the left follows.
  const strikes = [0, 0, ...Array.from({ length: count }, (_, i) => start + half * 0.9 + i * half)];
  let z = 0;
  const places = strikes.map((_, i) => {
    if (i < 2) return 0;
    const last = i === strikes.length - 1;
    z += i === 2 || last ? length / 2 : length;
    return last ? z - length / 2 + length / 2 : z;
  });
  places[places.length - 1] = places[places.length - 2];
  strikes.forEach((strike, i) => {
    const index = i < 2 ? i : i + 1; // i = 2 is the right foot's first step
    const { side, x, heading } = at(i === 0 ? 0 : i === 1 ? 1 : index);
    const following = strikes.findIndex((_, k) => k > i && (k < 2 ? k : k + 1) % 2 === index % 2);
    const rollOut = following >= 0;
    const off = rollOut ? (i < 2 ? strikes[following] - (cycle - stanceTime) : strike + stanceTime) : end;
    steps.push({ side, x, z: places[i], heading, strike, off, rollIn: i >= 2, rollOut });
  });
  return steps;
}

/** The two-segment limb: where the knee is for a hip, an ankle and the way the knee faces. */
export function kneeOf(hip: V3, ankle: V3, upper: number, lower: number, faces: V3): V3 {
  const way = sub(ankle, hip);
  const d = Math.min(Math.hypot(...way), (upper + lower) * 0.9999);
  const axis = scale(way, 1 / Math.hypot(...way));
  const x = (d * d + upper * upper - lower * lower) / (2 * d);
  const y = Math.sqrt(Math.max(0, upper * upper - x * x));
  const side = cross(axis, faces);
  const out = cross(side, axis);
  const n = Math.hypot(...out);
  return add(hip, add(scale(axis, x), scale(out, y / n)));
}
