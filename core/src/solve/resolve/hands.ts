import { bandOf, BandSystem } from '../../math/band';
import { gaussian } from '../../math/filter';
import { everySecond, withBetween } from '../../math/rate';
import { distance, dot, length, outer } from '../../math/vec';
import { feltIn } from '../held';
import type { BodyRoom } from '../hands/keepOut';
import type { HandWant } from '../hands/wants';
import { wholeLength, type LimbTrack } from '../limbTrack';
import type { Past } from '../past';
import { bendsOf, stiffnessOf } from '../../math/leastCurve';
import { displacedTo } from './displace';
import { breaksOf } from './breaks';
import { halvedBreaks, halvedTrack, isHalvedFirst } from './rate';
import { Relaxation } from './relax';
import { makeSense, senseOf, type Sense } from './sense';
import { stretchesOf } from './stretches';
import { LEAST, stillnessOf, weightIn } from './wanted';

/** How slowly a hand's own displacement bends, seconds. */
const HAND = 0.18;
/** An elbow's acceleration is weighed by the frames of so many seconds; and how it and the elbow's turn weigh beside the hand's displacement. */
const ELBOW = 0.25;
const ACCELERATION = 0.06;
const TURN = 0.2;
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
/** Seconds in which a change dies out to an e-th of it: √2 τ. */
const FADES = 0.25;
/** Rounds in which limits, and the directions of limbs, are found step by step. */
const ROUNDS = 24;

/** Displacements that change by less than this from one round to the next are found, metres. */
const SETTLED = 1e-3;

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

/** The same with the frames to which the take jumps: no displacement is bent there. */
interface Resolving extends HandsToResolve {
  readonly breaks: Uint8Array;
}

/** A hand, or its fore arm, that was in a part of the body in a round: what its displacement along the way out has to be. */
interface Out {
  readonly part: number;
  readonly isForeArm: boolean;
  readonly way: Float64Array;
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
  const wants = given.wants.map((want) => ({ ...want, target: calm(want.target, given.frameTime) }));
  return settleFrom({ ...given, wants, breaks: breaksOf(given.arms, given.frameTime) });
}

/** Finds displacements at a rate, from those at half of it. */
function settleFrom(given: Resolving): Float64Array[] | undefined {
  if (given.past || !isHalvedFirst(given.frameTime)) return settle(given);
  const half = settleFrom(halved(given));
  return settle(
    given,
    half?.map((shift) => withBetween(shift, 3, given.arms[0].frames)),
  );
}

/** Finds the displacements at one rate, round by round. @param start displacements near to those; undefined for none */
function settle(given: Resolving, start?: Float64Array[]): Float64Array[] | undefined {
  const { arms, wants, floors, room, softReach, stretch, frameTime, past } = given;
  const { frames } = arms[0];
  const shifts = start ?? arms.map(() => new Float64Array(frames * 3));
  const from = past?.frames ?? 0;
  if (past) arms.forEach((arm, k) => displacedTo(shifts[k], arm, past.hands[k].places, from));
  const asked = new Uint8Array(frames);
  for (const { first, last } of wants) asked.fill(1, first, last + 1);
  const outs = new Map<number, Out[]>();
  const look = (frames: Uint8Array): void => {
    const before = new Map(outs);
    for (const key of before.keys()) if (frames[Math.floor(key / arms.length)] === 1) outs.delete(key);
    room?.(shifts, frames, ({ frame, hand, part, isForeArm, depth }, way) => {
      const key = frame * arms.length + hand;
      const held = before.get(key)?.find((one) => one.part === part && one.isForeArm === isForeArm);
      const now = dot(way, 0, shifts[hand], frame * 3);
      // What is out of the body only because it is held there stays held.
      if (depth <= 0 && !(held && dot(held.way, 0, shifts[hand], frame * 3) < held.least)) return;
      const list = outs.get(key);
      const out = { part, isForeArm, way: way.slice(), least: now + depth };
      if (list) list.push(out);
      else outs.set(key, [out]);
    });
  };
  look(new Uint8Array(frames).fill(1, from));
  for (const key of outs.keys()) asked[Math.floor(key / arms.length)] = 1;
  floors.forEach((floor, k) => floor.forEach((low, f) => shifts[k][f * 3 + 1] < low && (asked[f] = 1)));
  // A hand that is not yet back on its way comes back; and what was found before is found again.
  if (past && shifts.some((shift) => isAway(shift, from - 1))) asked[from] = 1;
  if (start) for (let f = 0; f < frames; f++) if (shifts.some((shift) => isAway(shift, f))) asked[f] = 1;
  if (!asked.includes(1)) return undefined;
  const senses = arms.map((arm) => makeSense(arm, frameTime));
  const still = new Float64Array(frames * 3);
  const changed = new Float64Array(frames);
  const relaxation = new Relaxation(arms.length, frames);
  const around = Math.ceil(((start ? 1 : AROUND) * HAND) / frameTime);
  let stretches = stretchesOf(asked, around, [0, frames - 1]);
  const all = stretches;
  for (let round = 0; round < ROUNDS && stretches.length > 0; round++) {
    if (round > 0) {
      asked.fill(0);
      for (const [first, last] of stretches) asked.fill(1, first, last + 1);
      look(asked);
    }
    arms.forEach((arm, k) => senseOf(senses[k], arm, { ends: shifts[k], root: still, softReach, stretch }));
    changed.fill(0);
    for (const [first, last] of stretches) {
      resolveStretch(stretchOf(first, last, arms.length, wants), given, { senses, shifts, outs, changed, relaxation });
    }
    const felt = feltIn(changed, SETTLED, FADES / frameTime);
    stretches = all.flatMap((one) => stretchesOf(felt, 0, one));
  }
  return shifts;
}

/** The same, of every second frame. */
function halved(given: Resolving): Resolving {
  const { arms, wants, floors, room, frameTime } = given;
  const { frames } = arms[0];
  const all = arms.map(() => new Float64Array(frames * 3));
  const looked = new Uint8Array(frames);
  return {
    ...given,
    frameTime: frameTime * 2,
    breaks: halvedBreaks(given.breaks),
    arms: arms.map(halvedTrack),
    floors: floors.map((floor) => everySecond(floor, 1)),
    wants: wants.flatMap((want) => {
      const [first, last] = [(want.first + 1) >> 1, want.last >> 1];
      if (last < first) return [];
      return [{ ...want, first, last, target: everySecond(want.target.subarray((first * 2 - want.first) * 3), 3) }];
    }),
    room:
      room &&
      ((shifts, asked, inside) => {
        for (let f = 0; f < asked.length; f++) {
          looked[f * 2] = asked[f];
          if (asked[f]) for (let k = 0; k < all.length; k++) for (let c = 0; c < 3; c++) all[k][f * 6 + c] = shifts[k][f * 3 + c];
        }
        room(all, looked, (found, way) => inside({ ...found, frame: found.frame / 2 }, way));
      }),
  };
}

/** A displacement that is none, metres. */
const NONE = 1e-5;

/** True where a hand is away from its copied place in a frame. */
function isAway(shift: Float64Array, f: number): boolean {
  return length(shift, f * 3) > NONE;
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

/** Frames that are found together, both ends included, and their sums. */
interface Stretch {
  readonly system: BandSystem;
  readonly first: number;
  readonly last: number;
  /** Unknowns from one frame to the next, and from one hand to the next. */
  readonly frame: number;
  readonly hand: number;
}

/** Hands that have to do with each other are found frame by frame together; others one after the other, in a band half as wide. */
function stretchOf(first: number, last: number, hands: number, wants: readonly HandWant[]): Stretch {
  const frames = last - first + 1;
  const meet = wants.some((want) => want.how === 'towards' && want.first <= last && want.last >= first);
  const frame = meet ? hands : 1;
  // Those of three frames have to do with each other.
  const system = new BandSystem(bandOf(frames * hands, 2 * frame, frame));
  return { system, first, last, frame, hand: meet ? 1 : frames };
}

const block = new Float64Array(9);

/** What is known of the hands from the last round. */
interface LastRound {
  readonly senses: readonly Sense[];
  /** Their displacements, which are found anew. */
  readonly shifts: readonly Float64Array[];
  readonly outs: ReadonlyMap<number, readonly Out[]>;
  /** Written: metres by which a displacement changes, one a frame. */
  readonly changed: Float64Array;
  readonly relaxation: Relaxation;
}

/** Finds displacements in a stretch. */
function resolveStretch(
  stretch: Stretch,
  { arms, wants, floors, follow, frameTime, breaks, past }: Resolving,
  { senses, shifts, outs, changed, relaxation }: LastRound,
): void {
  const { system, first, last, frame, hand } = stretch;
  const place = (f: number, k: number): number => (f - first) * frame + k * hand;
  const [bend, elbow] = [stiffnessOf(HAND, frameTime), ACCELERATION * stiffnessOf(ELBOW, frameTime)];
  const bends = bendsOf(last - first + 1, breaks.subarray(first, last + 1));
  for (let f = first; f <= last; f++) {
    for (let k = 0; k < arms.length; k++) {
      const { turn, out, far, near } = senses[k];
      const [shift, cost, at] = [shifts[k], costOf(arms[k], f), place(f, k)];
      for (let d = 0; d < 3 && f + d <= last; d++) {
        const bent = bends[(f - first) * 3 + d];
        const later = at + d * frame;
        outer(block, turn, f * 3, turn, (f + d) * 3, (d === 0 ? TURN : 0) + elbow * bent);
        for (let c = 0; c < 3; c++) block[c * 4] += (d === 0 ? cost : 0) + bend * bent;
        system.couple(at, later, block, 1);
      }
      const low = floors[k]?.[f] ?? -Infinity;
      if (shift[f * 3 + 1] < low) system.near(at, 1, low, FLOOR);
      const over = far[f] > 0 ? far[f] : -Math.max(0, near[f]);
      if (over !== 0) pushAlong(at, out, f * 3, dot(out, f * 3, shift, f * 3) - over, REACH);
      for (const { way, least } of outs.get(f * arms.length + k) ?? []) pushAlong(at, way, 0, least, BODY);
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
  const final = past?.frames ?? 0;
  for (let f = first; f <= last; f++) {
    // A stretch begins and ends where the rest of the take is; the take itself begins and ends anyhow.
    const isEdge = (first > final && f < first + 2) || (last + 1 < arms[0].frames && f > last - 2);
    if (f >= final && !isEdge) continue;
    for (let k = 0; k < arms.length; k++) system.fix(place(f, k), shifts[k], f * 3);
  }
  relaxation.go([first, last], shifts, system.solve(), (f, k) => place(f, k) * 3, changed);

  /** Charges a hand's displacement along a direction for being other than some metres. */
  function pushAlong(at: number, way: Float64Array, o: number, target: number, weight: number): void {
    outer(block, way, o, way, o, weight);
    system.couple(at, at, block, 1);
    for (let c = 0; c < 3; c++) system.push(at, c, weight * target * way[o + c]);
  }
}

/**
 * Charges what a want is missed by.
 * @param share how far it is followed
 * @param resting 1 in frames of the stretch in which the hand rests
 */
function addWant(
  { system, first, last, frame, hand: apart }: Stretch,
  want: HandWant,
  share: number,
  resting: Uint8Array,
  frameTime: number,
): void {
  const { how, hand, first: from, last: to, target, isHigh } = want;
  const stillness = stillnessOf(frameTime);
  for (let f = Math.max(from, first); f <= Math.min(to, last); f++) {
    const o = (f - from) * 3;
    if (Number.isNaN(target[o])) continue;
    const weight = weightIn(f, want, frameTime);
    for (let c = 0; c < 3; c++) {
      const i = (f - first) * frame + hand * apart;
      // What a hand that rests in its place is on may move: it says where the place is, and no more.
      if (how === 'at') system.near(i, c, share * target[o + c], resting[f - first] ? LEAST * weight : weight);
      else if (how === 'still' && isHigh && c === 1) system.near(i, c, share * target[o + c], weight);
      else if (how === 'towards') system.apart(i, i + apart, c, -share * target[o + c], weight);
      else if (f > Math.max(from, first)) system.apart(i - frame, i, c, share * (target[o + c] - target[o + c - 3]), weight * stillness);
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
