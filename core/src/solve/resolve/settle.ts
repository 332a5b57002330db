import { fillCurve } from '../../math/leastCurve';
import { distance } from '../../math/vec';
import { feltIn } from '../held';
import { AtRest } from './atRest';
import { levelSwing, liftsNeeded, withPast } from './clear';
import { END } from './costs';
import { bendsIn, displace, displacedTo, type Displaced } from './displace';
import { holdEnd } from './foot';
import { giveWay, outOfReach, tooNear, type Misses } from './giveWay';
import { Limits } from './limits';
import type { Rate } from './rate';
import type { ResolveGiven } from './given';
import { makeSense, senseOf, type Sense } from './sense';
import { Displacements } from './sums';

/** Rounds in which stances give way, while reach, which is a limit, and the directions of limbs are found step by step. */
const ROUNDS = 4;
/** Rounds at most, stances standing: by then only legs that are folded, or drawn out, to their end have anything left to find. */
const MOST_ROUNDS = 24;
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
  return new Settler(rate, given, start).settle();
}

class Settler implements Settled {
  readonly ends: readonly Float64Array[];
  readonly hips: Float64Array;
  readonly root: Float64Array;
  private readonly frames: number;
  /** Frames before this one are final. */
  private readonly from: number;
  private readonly held: readonly Uint8Array[];
  /** Of these, 1 in those that are given; in the others an end is near where it comes from, or leaves to. */
  private readonly still: readonly Uint8Array[];
  /** Where each end is wanted there, metres, 3 per frame. */
  private readonly wanted: readonly Float64Array[];
  private readonly senses: readonly Sense[];
  private readonly lifts: readonly Float64Array[];
  private readonly limits: Limits;
  private readonly displaced: Displaced;
  private readonly atRest: AtRest | undefined;

  constructor(
    private readonly rate: Rate,
    private readonly given: Settling,
    private readonly start: Pick<Settled, 'ends' | 'hips'> | undefined,
  ) {
    const { holds, time, air, resting } = rate;
    const { past, stretch } = given;
    const legs = holds.map(({ leg }) => leg);
    const { frames } = legs[0];
    this.frames = frames;
    this.from = past?.frames ?? 0;
    this.held = holds.map(({ pivots }) => pivots.held);
    this.still = holds.map(({ pivots }) => pivots.still);
    this.wanted = legs.map(() => new Float64Array(frames * 3));
    this.senses = legs.map((leg) => makeSense(leg, time.frameTime));
    this.ends = start?.ends ?? legs.map(() => new Float64Array(frames * 3));
    this.hips = start?.hips ?? new Float64Array(frames * 3);
    this.root = new Float64Array(frames * 3);
    this.lifts = legs.map(() => new Float64Array(frames));
    if (past) {
      this.hips.set(past.hips.subarray(0, this.from * 3));
      legs.forEach((leg, k) => displacedTo(this.ends[k], leg, past.feet[k].places, this.from));
    }
    const { senses, ends, held, hips } = this;
    this.limits = new Limits({ senses, ends, held, hips, lifts: this.lifts }, frames, time.frameTime);
    this.atRest = resting && new AtRest(resting, time.frameTime);
    const rests = past?.landed ?? legs.map(() => 0);
    this.displaced = {
      senses,
      ends,
      held,
      hips,
      resting: this.atRest?.shares,
      air,
      bends: bendsIn(time.breaks, air),
      rests,
      wanted: this.wanted,
      still: this.still,
      limits: this.limits,
      stretch,
      ...time,
    };
  }

  settle(): Settled {
    const { ends, hips, start, from } = this;
    this.hold();
    if (!start) {
      for (let again = 0; again < ROUNDS; again++) {
        this.sense();
        if (!this.yields(outOfReach(hips))) break;
      }
      ends.forEach((end, k) => fillCurve(end, 3, withPast(this.held[k], from), END, this.rate.time));
    } else this.level();
    this.look();
    let room = this.find(from > 0 ? new Uint8Array(this.frames).fill(1) : undefined);
    if (!start) this.level();
    for (let round = 1; round < MOST_ROUNDS; round++) {
      this.look(room.asked);
      if (!start && round < ROUNDS) this.yieldsAgain(outOfReach(hips));
      let asked = this.felt();
      if (!start && !asked.includes(1)) {
        // The hips have risen as far as they do.
        this.yieldsAgain(tooNear);
        asked = this.felt();
      }
      if (!asked.includes(1)) break;
      room = this.find(asked, room);
    }
    this.raise();
    return this;
  }

  /** Hips that a person wants higher are no displacement that anything has to make up for. */
  private raise(): void {
    const { root, hips } = this;
    const { rise } = this.rate;
    root.set(hips);
    if (rise) for (let f = 0; f < this.frames; f++) root[f * 3 + 1] += rise[f];
  }

  /** @param asked 1 in frames in which something may have changed; undefined for all */
  private sense(asked?: Uint8Array): void {
    const { senses, ends, root } = this;
    const { softReach, stretch } = this.given;
    this.raise();
    this.rate.holds.forEach(({ leg }, k) => senseOf(senses[k], leg, { ends: ends[k], root, softReach, stretch, asked }));
  }

  /** Makes the limits of frames anew. */
  private look(asked?: Uint8Array): void {
    const { holds, unders } = this.rate;
    this.sense(asked);
    holds.forEach((one, k) => liftsNeeded(one, this.lifts[k], this.ends[k], unders[k], asked));
    this.limits.renew(asked);
    this.letGo();
  }

  /** Holds hips less that have left where the body rests. */
  private letGo(): void {
    const { atRest, hips, from, frames } = this;
    const { mistakes } = this.limits;
    if (!atRest) return;
    for (let f = from; f < frames; f++) mistakes[f] = Math.max(mistakes[f], atRest.renew(f, hips));
  }

  private hold(): void {
    this.rate.holds.forEach((one, k) => {
      holdEnd(one, this.ends[k], this.given.follow[k], this.from);
      this.wanted[k].set(this.ends[k]);
    });
  }

  private level(): void {
    const { holds, unders, time } = this.rate;
    if (!this.given.isOwn) holds.forEach((one, k) => levelSwing(one, this.ends[k], unders[k], time, this.from));
  }

  /** Finds displacements anew. @param asked 1 in frames that are found; undefined for all @param before the sums of the last round */
  private find(asked: Uint8Array | undefined, before?: Displacements): Displacements {
    const { hips, ends, from } = this;
    this.limits.mistakes.fill(0);
    const known = { hips, ends, held: this.still, shown: from, asked: asked?.fill(0, 0, from) };
    const room = new Displacements(this.frames, this.rate.time.frameTime, known, before);
    displace(room, this.displaced);
    return room;
  }

  /** 1 in frames in which what has changed is felt. */
  private felt(): Uint8Array {
    return feltIn(this.limits.mistakes, FELT, FADES / this.rate.time.frameTime);
  }

  /** Moves stances that miss their places. @returns false where none does */
  private yields(misses: Misses): boolean {
    if (!giveWay(this.rate.holds, this.senses, misses, this.from)) return false;
    this.given.lay();
    this.hold();
    return true;
  }

  /** The same between two rounds. */
  private yieldsAgain(misses: Misses): void {
    const { ends, limits } = this;
    const before = ends.map((end) => end.slice());
    if (!this.yields(misses)) return;
    this.look();
    ends.forEach((end, k) => markChanges(limits.mistakes, end, before[k]));
  }
}

/** Adds what has moved between two rounds. */
function markChanges(changed: Float64Array, now: Float64Array, before: Float64Array): void {
  for (let f = 0; f < changed.length; f++) changed[f] = Math.max(changed[f], distance(now, f * 3, before, f * 3));
}
