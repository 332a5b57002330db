import { outer } from '../../math/vec';
import { bendsOf, stiffnessOf, type Time } from '../../math/leastCurve';
import type { LimbTrack } from '../limbTrack';
import { COST, END, END_COST, HIPS } from './costs';
import type { Limits } from './limits';
import type { Sense } from './sense';
import { CURVES, type Displacements, type Known } from './sums';

/** How much more it costs where limbs may be drawn out instead, by the share of their length. */
const SPARED = 200;
/** In the air hips bend by so much less, and a displacement of theirs, and of a foot, costs only these shares: what is thrown flies on as it was thrown, and lands so. */
const THROWN = 100;
const FLIES = { hips: 0.01, end: 0.1 } as const;
/** What a displacement of a body that rests on the floor costs more. */
const RESTING = 1e5;
/** Weight of a knee's acceleration beside the hips', and of its turn itself. */
const ACCELERATION = 0.06;
const TURN = 0.2;

/** How frames go into the squares of second differences: of knees and ends, and of hips, which bend less in the air (`bendsOf`). */
interface Bends {
  readonly bends: Float64Array;
  readonly thrown: Float64Array;
}

/** @param air how far the body is in the air, from 0 to 1, one a frame */
export function bendsIn(breaks: Uint8Array, air: Float64Array | undefined): Bends {
  const bends = bendsOf(breaks.length, breaks);
  const weights = air?.map((share) => 1 + THROWN * share);
  return { bends, thrown: weights ? bendsOf(breaks.length, breaks, weights) : bends };
}

/**
 * Weight of the square of a metre by which an end that comes to its place, or leaves it, as slow as rest, goes otherwise than the performer's: what a
 * capture's noise makes of it within 0.02 s (τ ⁴√(1 / weight)) is left out.
 */
const CREEPS = 1e3;

export interface Displaced extends Time, Omit<Known, 'asked' | 'shown'> {
  /** How each leg takes it, as it was displaced in the last round. */
  readonly senses: readonly Sense[];
  /** 1 in frames in which the body itself rests, which then stays; smooth, one a frame. */
  readonly resting: Float64Array | undefined;
  /** How far the body is in the air, from 0 to 1, one a frame. */
  readonly air: Float64Array | undefined;
  readonly bends: Bends;
  /** Where each end is wanted in frames in which it is held and does not stand still. */
  readonly wanted: readonly Float64Array[];
  /** 1 in frames in which it stands still. */
  readonly still: readonly Uint8Array[];
  /** Height of its displacement that each free end goes back to, metres. */
  readonly rests: readonly number[];
  readonly limits: Limits;
  /** Share of their length by which limbs may be drawn out. */
  readonly stretch: number;
}

/**
 * Finds the displacements of hips and ends from the copied motion together: smooth, as it is held, and as little as knees and reach ask
 * for (one step of Gauss and Newton from the last round's). Writes `ends` and `hips`.
 */
export function displace(room: Displacements, given: Displaced): void {
  room.begin();
  for (let f = 0; f < room.frames; f++) {
    if (!room.isAsked(f, 2)) continue;
    addBends(room, given, f);
    given.limits.add(room, f);
  }
  room.end(room.system.solve());
}

const block = new Float64Array(9);
const sum = new Float64Array(9);

/**
 * Charges displacements and their bends, and what knees feel of the difference between their ends' displacements and the hips': their turns, and the
 * accelerations of these.
 */
function addBends(
  room: Displacements,
  { senses, resting, air, bends: { bends, thrown }, rests, held, still, wanted, stretch, frameTime }: Displaced,
  f: number,
): void {
  const [slow, quick] = [stiffnessOf(HIPS, frameTime), stiffnessOf(END, frameTime)];
  const o = f * CURVES;
  const inAir = air?.[f] ?? 0;
  const cost = (1 - (1 - FLIES.hips) * inAir) * (1 + SPARED * stretch);
  const back = (1 - (1 - FLIES.end) * inAir) * END_COST;
  for (let d = 0; d < 3 && f + d < room.frames; d++) {
    const bend = bends[f * 3 + d];
    const later = o + d * CURVES;
    sum.fill(0);
    for (let c = 0; c < 3; c++) {
      sum[c * 4] = slow * thrown[f * 3 + d];
      if (d === 0) sum[c * 4] += COST[c] * cost + (resting ? RESTING * resting[f] : 0);
    }
    for (let k = 0; k < senses.length; k++) {
      const { turn } = senses[k];
      const end = 1 + k;
      outer(block, turn, f * 3, turn, (f + d) * 3, (d === 0 ? TURN : 0) + ACCELERATION * slow * bend);
      for (let i = 0; i < 9; i++) sum[i] += block[i];
      room.couple(o, later + end, block, -1);
      if (d > 0) room.couple(o + end, later, block, -1);
      for (let c = 0; c < 3; c++) block[c * 4] += quick * bend + (d === 0 ? back : 0);
      room.couple(o + end, later + end, block, 1);
    }
    room.couple(o, later, sum, 1);
  }
  for (let k = 0; k < senses.length; k++) {
    room.push(o + 1 + k, 1, back * rests[k]);
    if (held[k][f] === 1 && still[k][f] === 0) for (let c = 0; c < 3; c++) room.near(o + 1 + k, c, wanted[k][f * 3 + c], CREEPS);
  }
}

/** Writes how far the end of a limb was from its copied place in frames that are final. */
export function displacedTo(ends: Float64Array, { data, stride, at }: LimbTrack, places: Float64Array, from: number): void {
  for (let f = 0; f < from; f++) for (let c = 0; c < 3; c++) ends[f * 3 + c] = places[f * 3 + c] - data[f * stride + at.end + c];
}
