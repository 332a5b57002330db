import { fillCurve } from '../../math/leastCurve';
import { feltIn } from '../held';
import { levelSwing, liftsNeeded, withPast } from './clear';
import { END } from './costs';
import { bendsIn, displace, displacedTo } from './displace';
import { holdEnd } from './foot';
import { giveWay } from './giveWay';
import { Limits } from './limits';
import type { Rate } from './rate';
import type { ResolveGiven } from './given';
import { makeSense, senseOf } from './sense';
import { Displacements } from './sums';

/** Rounds in which stances give way, while reach, which is a limit, and the directions of limbs are found step by step. */
const ROUNDS = 4;
/** Rounds at most, stances standing: by then only legs that are folded, or drawn out, to their end have anything left to find. */
const MOST_ROUNDS = 12;
/** Seconds in which a change dies out to an e-th of it: √2 τ ⁴√(1 / cost) of hips and ends. */
const FADES = 0.1;
/** Less than this of it is not felt, metres. */
const FELT = 5e-4;

/** Displacements of feet and hips from the copied motion, metres, 3 per frame. */
export interface Settled {
  readonly ends: readonly Float64Array[];
  readonly hips: Float64Array;
  /** The hips, and what a person wants them higher. */
  readonly root: Float64Array;
}

type Settling = Pick<ResolveGiven, 'softReach' | 'stretch' | 'follow' | 'isOwn' | 'past' | 'lay'>;

/**
 * Finds at one rate the least displacement of feet and hips that holds what is held, round by round; and, where it begins anew, the places of stances.
 * Turns swinging feet out of the floor.
 * @param start displacements near to those, all stances in their places; undefined to begin anew
 */
export function settle(rate: Rate, given: Settling, start?: Pick<Settled, 'ends' | 'hips'>): Settled {
  const { holds, unders, time, air, resting, rise } = rate;
  const { softReach, stretch, follow, isOwn, past, lay } = given;
  const { frameTime } = time;
  const from = past?.frames ?? 0;
  const legs = holds.map(({ leg }) => leg);
  const held = holds.map(({ pivots }) => pivots.held);
  const { frames } = legs[0];
  const senses = legs.map((leg) => makeSense(leg, frameTime));
  const ends = start?.ends ?? legs.map(() => new Float64Array(frames * 3));
  const hips = start?.hips ?? new Float64Array(frames * 3);
  const root = new Float64Array(frames * 3);
  const rests = past?.landed ?? legs.map(() => 0);
  const bends = bendsIn(time.breaks, air);
  if (past) {
    hips.set(past.hips.subarray(0, from * 3));
    legs.forEach((leg, k) => displacedTo(ends[k], leg, past.feet[k].places, from));
  }
  // Hips that a person wants higher are no displacement that anything has to make up for.
  const raise = (): void => {
    for (let f = 0; f < frames; f++) for (let c = 0; c < 3; c++) root[f * 3 + c] = hips[f * 3 + c] + (c === 1 ? (rise?.[f] ?? 0) : 0);
  };
  /** @param asked 1 in frames in which something may have changed; undefined for all */
  const sense = (asked?: Uint8Array): void => {
    raise();
    legs.forEach((leg, k) => senseOf(senses[k], leg, { ends: ends[k], root, softReach, stretch, asked }));
  };
  const lifts = legs.map(() => new Float64Array(frames));
  const limits = new Limits({ senses, ends, held, hips, lifts }, frames, frameTime);
  const displaced = { senses, ends, held, hips, resting, air, bends, rests, limits, stretch, ...time };
  const look = (asked?: Uint8Array): void => {
    sense(asked);
    holds.forEach((one, k) => liftsNeeded(one, lifts[k], ends[k], unders[k], asked));
    limits.renew(asked);
  };
  const hold = (): void => holds.forEach((one, k) => holdEnd(one, ends[k], follow[k], from));
  /** Moves stances that are out of reach. @returns false where none is */
  const yields = (isFound: boolean): boolean => {
    if (!giveWay(holds, senses, hips, isFound, from)) return false;
    lay();
    hold();
    return true;
  };
  const level = (): void => {
    if (!isOwn) holds.forEach((one, k) => levelSwing(one, ends[k], unders[k], time, from));
  };
  const find = (asked: Uint8Array | undefined, before?: Displacements): Displacements => {
    limits.mistakes.fill(0);
    const room = new Displacements(frames, frameTime, { hips, ends, held, shown: from, asked: asked?.fill(0, 0, from) }, before);
    displace(room, displaced);
    return room;
  };

  hold();
  if (!start) {
    for (let again = 0; again < ROUNDS; again++) {
      sense();
      if (!yields(false)) break;
    }
    ends.forEach((end, k) => fillCurve(end, 3, withPast(held[k], from), END, time));
  } else level();
  look();
  let room = find(from > 0 ? new Uint8Array(frames).fill(1) : undefined);
  if (!start) level();
  for (let round = 1; round < MOST_ROUNDS; round++) {
    look(room.asked);
    if (!start && round < ROUNDS) {
      const before = ends.map((end) => end.slice());
      if (yields(true)) {
        look();
        ends.forEach((end, k) => markChanges(limits.mistakes, end, before[k]));
      }
    }
    const asked = feltIn(limits.mistakes, FELT, FADES / frameTime);
    if (!asked.includes(1)) break;
    room = find(asked, room);
  }
  raise();
  return { ends, hips, root };
}

/** Adds what has moved between two rounds. */
function markChanges(changed: Float64Array, now: Float64Array, before: Float64Array): void {
  for (let i = 0; i < now.length; i++) {
    const f = (i / 3) | 0;
    changed[f] = Math.max(changed[f], Math.abs(now[i] - before[i]));
  }
}
