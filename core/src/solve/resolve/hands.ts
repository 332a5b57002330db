import { bandOf, BandSystem } from '../../math/band';
import { gaussian, smoothstep } from '../../math/filter';
import { distance } from '../../math/vec';
import type { BodyRoom } from '../hands/keepOut';
import type { HandWant } from '../hands/wants';
import { wholeLength, type LimbTrack } from '../limbTrack';
import type { Past } from '../past';
import { BEND, stiffnessOf } from '../../math/leastCurve';
import { displacedTo, SETTLED } from './displace';
import { makeSense, senseOf, type Sense } from './sense';

/** How slowly a hand's own displacement bends, seconds. */
const HAND = 0.18;
/** An elbow's acceleration is weighed by the frames of so many seconds; and how it and the elbow's turn weigh beside the hand's displacement. */
const ELBOW = 0.25;
const ACCELERATION = 0.06;
const TURN = 0.2;
/** Weight of the square of a metre by which a want is missed; and with how much less it begins and ends, and over how many seconds. */
const WANTED = 1e4;
const EDGE = 0.1;
const LEAST = 0.01;
/** A hand that rests moves by so many seconds' worth of a missed want. */
const STILL = 0.3;
/** What a capture's noise makes of a target is none of it: standard deviation, seconds. */
const CALM = 0.05;
/** Weight of the square of a metre in the floor, in the body, and beyond what an arm takes with ease. */
const FLOOR = 1e6;
const BODY = 1e3;
const REACH = 1e3;
/** An arm folded to less than this share of its length turns no more for a displacement than one that is. */
const FOLDED = 0.2;
/** So many τ before and behind what is asked for a hand is where it was. */
const AROUND = 10;
/** Rounds in which limits, and the directions of limbs, are found step by step. */
const ROUNDS = 8;

/** Curves: two hands, three each. */
const CURVES = 6;
/** Farthest that two unknowns have to do with each other: those of three frames. */
const WIDTH = 3 * CURVES - 1;

export interface HandsToResolve {
  readonly arms: readonly LimbTrack[];
  readonly wants: readonly HandWant[];
  /** Least heights of the displacements, one a frame; −∞ where there is none. */
  readonly floors: readonly Float64Array[];
  readonly room: BodyRoom | undefined;
  /** How far each hand follows its wants, 0 to 1. */
  readonly follow: readonly number[];
  readonly frameTime: number;
  readonly softReach: number;
  readonly stretch: number;
  /** Where the hands were in frames that are final. */
  readonly past?: Pick<Past, 'frames' | 'hands'>;
}

/** A hand that was in the body in a round: what its displacement along the way out has to be. */
interface Out {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly least: number;
}

/**
 * The least displacement of both hands from the copied motion that does what is wanted of them, out of floor and body and within reach, and
 * that elbows do not feel:
 *
 *     |w|² (ℓ/d)² + τ⁴ |w″|² + 0.06 τe⁴ (d²/dt² g·w)² + 0.2 (g·w)²        for each arm
 *     10⁴ |w − target|²                                                    for each want; of one that rests, of the speed of both
 *     10⁶ (floor)², 10³ (body)², 10³ (reach)²                              by what was missing in the last round
 *
 * with d from shoulder to hand, ℓ the arm's length and g as of legs. The place of a rest is a constant that the sums find by themselves. Frames
 * far from all wants and limits are left alone.
 * @returns displacements, metres, 3 per frame; undefined where nothing is wanted and nothing in the way
 */
export function resolveHands(given: HandsToResolve): Float64Array[] | undefined {
  const { arms, floors, room, softReach, stretch, frameTime, past } = given;
  const { frames } = arms[0];
  const shifts = arms.map(() => new Float64Array(frames * 3));
  const from = past?.frames ?? 0;
  if (past) arms.forEach((arm, k) => displacedTo(shifts[k], arm, past.hands[k].places, from));
  const asked = new Uint8Array(frames);
  const wants = given.wants.map((want) => ({ ...want, target: calm(want.target, frameTime) }));
  for (const { first, last } of wants) asked.fill(1, first, last + 1);
  const outs = new Map<number, Out>();
  const look = (): void => {
    const before = new Map(outs);
    outs.clear();
    room?.(shifts, (f, hand, x, y, z, depth) => {
      const [shift, o] = [shifts[hand], f * 3];
      const [wx, wy, wz] = [shift[o], shift[o + 1], shift[o + 2]];
      const held = before.get(f * arms.length + hand);
      // What is out of the body only because it is held there stays held, on the side on which it is now.
      if (depth <= 0 && !(held && held.x * wx + held.y * wy + held.z * wz < held.least)) return;
      outs.set(f * arms.length + hand, { x, y, z, least: x * wx + y * wy + z * wz + depth });
      asked[f] = 1;
    });
    for (let k = 0; k < floors.length; k++) for (let f = 0; f < frames; f++) if (shifts[k][f * 3 + 1] < floors[k][f]) asked[f] = 1;
  };
  look();
  // A hand that is not yet back on its way comes back.
  if (past && shifts.some((shift) => isAway(shift, from))) asked[from] = 1;
  if (!asked.includes(1)) return undefined;
  const senses = arms.map((arm) => makeSense(arm, frameTime));
  const still = new Float64Array(frames * 3);
  const margin = Math.ceil((AROUND * HAND) / frameTime);
  let before: BandSystem | undefined;
  for (let round = 0; round < ROUNDS; round++) {
    if (round > 0) look();
    arms.forEach((arm, k) => senseOf(senses[k], arm, shifts[k], still, softReach, stretch));
    let changed = 0;
    for (const [first, last] of stretchesOf(asked, margin)) {
      before = new BandSystem(bandOf((last - first + 1) * CURVES, WIDTH), before);
      changed = Math.max(changed, resolveStretch({ system: before, first, last }, { ...given, wants }, senses, shifts, outs));
    }
    if (changed < SETTLED) break;
  }
  return shifts;
}

/** A displacement that is none, metres. */
const NONE = 1e-5;

/** True where a hand was away from its copied place in the last final frame. */
function isAway(shift: Float64Array, from: number): boolean {
  for (let c = 1; c <= 3; c++) if (Math.abs(shift[from * 3 - c]) > NONE) return true;
  return false;
}

/** A target without its noise, stretch by stretch of frames in which there is one. */
function calm(target: Float64Array, frameTime: number): Float64Array {
  const out = target.slice();
  for (let i = 0; i < target.length; i += 3) {
    if (Number.isNaN(target[i])) continue;
    const from = i;
    while (i + 3 < target.length && !Number.isNaN(target[i + 3])) i += 3;
    out.set(gaussian(target.subarray(from, i + 3), 3, CALM / frameTime), from);
  }
  return out;
}

/** Stretches of frames about those that are asked for. */
function stretchesOf(asked: Uint8Array, margin: number): [number, number][] {
  const out: [number, number][] = [];
  for (let f = 0; f < asked.length; f++) {
    if (!asked[f]) continue;
    const [first, last] = [Math.max(0, f - margin), Math.min(asked.length - 1, f + margin)];
    const before = out.at(-1);
    if (before && first <= before[1] + 1) before[1] = last;
    else out.push([first, last]);
  }
  return out;
}

/** Frames that are found together, both ends included, and their sums. */
interface Stretch {
  readonly system: BandSystem;
  readonly first: number;
  readonly last: number;
}

const at = new Int32Array(9);
const factors = new Float64Array(9);

/** @returns metres by which the farthest displacement has changed */
function resolveStretch(
  stretch: Stretch,
  { arms, wants, floors, follow, frameTime, past }: HandsToResolve,
  senses: readonly Sense[],
  shifts: readonly Float64Array[],
  outs: ReadonlyMap<number, Out>,
): number {
  const { system, first, last } = stretch;
  const place = (f: number, k: number, c: number): number => (f - first) * CURVES + k * 3 + c;
  const [bend, elbow] = [stiffnessOf(HAND, frameTime), ACCELERATION * stiffnessOf(ELBOW, frameTime)];
  for (let f = first; f <= last; f++) {
    const isBent = f > first && f < last;
    for (let k = 0; k < arms.length; k++) {
      const { turn, out, far, near } = senses[k];
      const cost = costOf(arms[k], f);
      for (let c = 0; c < 3; c++) {
        system.near(place(f, k, c), 0, cost);
        if (isBent) system.sum(place(f - 1, k, c), CURVES, BEND, 3, 0, bend);
      }
      put(0, f, k, turn, 1);
      system.add(at, factors, 3, 0, TURN);
      if (isBent) {
        for (let n = 0; n < 3; n++) put(n * 3, f - 1 + n, k, turn, BEND[n]);
        system.add(at, factors, 9, 0, elbow);
      }
      const low = floors[k]?.[f] ?? -Infinity;
      if (shifts[k][f * 3 + 1] < low) system.near(place(f, k, 1), low, FLOOR);
      let gone = 0;
      for (let c = 0; c < 3; c++) gone += out[f * 3 + c] * shifts[k][f * 3 + c];
      put(0, f, k, out, 1);
      const over = far[f] > 0 ? far[f] : -Math.max(0, near[f]);
      if (over !== 0) system.add(at, factors, 3, gone - over, REACH);
    }
    for (let k = 0; k < arms.length; k++) {
      const out = outs.get(f * arms.length + k);
      if (!out) continue;
      for (let c = 0; c < 3; c++) at[c] = place(f, k, c);
      [factors[0], factors[1], factors[2]] = [out.x, out.y, out.z];
      system.add(at, factors, 3, out.least, BODY);
    }
  }
  const resting = arms.map(() => new Uint8Array(last - first + 1));
  for (const { how, hand, first: from, last: to } of wants) {
    if (how === 'still') resting[hand].fill(1, Math.max(0, from - first), Math.max(0, to + 1 - first));
  }
  for (const want of wants) {
    const share = want.how === 'towards' ? Math.min(...follow) : follow[want.hand];
    if (want.first <= last && want.last >= first) addWant(stretch, want, share, resting[want.hand], frameTime);
  }
  for (let f = first; f <= last && f < (past?.frames ?? 0); f++)
    for (let k = 0; k < arms.length; k++) for (let c = 0; c < 3; c++) system.fix(place(f, k, c), shifts[k][f * 3 + c]);
  // A stretch begins and ends where the rest of the take is; the take itself begins and ends anyhow.
  if (first > (past?.frames ?? 0)) for (let i = 0; i < 2 * CURVES; i++) system.fix(i, 0);
  if (last + 1 < arms[0].frames) for (let i = system.size - 2 * CURVES; i < system.size; i++) system.fix(i, 0);
  const found = system.solve();
  let changed = 0;
  for (let f = first; f <= last; f++) {
    for (let k = 0; k < arms.length; k++) {
      for (let c = 0; c < 3; c++) {
        const now = found[place(f, k, c)];
        const by = Math.abs(now - shifts[k][f * 3 + c]);
        if (by > changed) changed = by;
        shifts[k][f * 3 + c] = now;
      }
    }
  }
  return changed;

  /** Puts the values of a hand in a frame in a row, along a direction. */
  function put(n: number, f: number, k: number, direction: Float64Array, by: number): void {
    for (let c = 0; c < 3; c++) {
      at[n + c] = place(f, k, c);
      factors[n + c] = by * direction[f * 3 + c];
    }
  }
}

/**
 * Charges what a want is missed by.
 * @param share how far it is followed
 * @param resting 1 in frames of the stretch in which the hand rests
 */
function addWant(
  { system, first }: Stretch,
  { how, hand, first: from, last: to, target, isHigh }: HandWant,
  share: number,
  resting: Uint8Array,
  frameTime: number,
): void {
  const seconds = STILL / frameTime;
  for (let f = from; f <= to; f++) {
    const o = (f - from) * 3;
    if (Number.isNaN(target[o])) continue;
    const inside = (Math.min(f - from, to - f) + 1) * frameTime;
    const weight = WANTED * (LEAST + (1 - LEAST) * smoothstep(inside / EDGE));
    for (let c = 0; c < 3; c++) {
      const i = (f - first) * CURVES + hand * 3 + c;
      // What a hand that rests in its place is on may move: it says where the place is, and no more.
      if (how === 'at') system.near(i, share * target[o + c], resting[f - first] ? LEAST * weight : weight);
      else if (how === 'still' && isHigh && c === 1) system.near(i, share * target[o + c], weight);
      else if (how === 'towards') {
        [at[0], at[1]] = [i, i + 3];
        [factors[0], factors[1]] = [1, -1];
        system.add(at, factors, 2, share * target[o + c], weight);
      } else if (f > from) {
        [at[0], at[1]] = [i - CURVES, i];
        [factors[0], factors[1]] = [-1, 1];
        system.add(at, factors, 2, share * (target[o + c] - target[o + c - 3]), weight * seconds * seconds);
      }
    }
  }
}

/** What a displacement of a hand costs: an arm that is folded turns the farther for it. */
function costOf(arm: LimbTrack, f: number): number {
  const { data, stride, at } = arm;
  const o = f * stride;
  const part = Math.max(FOLDED, distance(data, o + at.top, data, o + at.end) / wholeLength(arm, f));
  return 1 / (part * part);
}
