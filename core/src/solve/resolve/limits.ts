import { dot } from '../../math/vec';
import { COST, END, END_COST, HIPS } from './costs';
import { CURVES, type Displacements } from './sums';
import type { Sense } from './sense';

/**
 * Weight of the square of a metre by which a limit is broken; by which the hips go beyond the farthest, wherever limbs would have them; and by which a
 * leg is folded or turned too far, which the hips come away from in time, or its knee would brake at once.
 */
const WEIGHT = 1e4;
const BOUND = 1e5;
const GENTLE = 1e3;

/** Share of a leg's length by which a foot that is held comes higher towards the hips than copied, before they rise: the leg is turned for it. */
const HIGHER = 0.1;

/** A limit of a frame: its unit direction, or zero where it is kept, how far what it bounds may come along it, and its weight. */
const RECORD = 5;
/** Limits of a frame: how far the hips come; for each leg the floor under its end; for each its reach; for each how high its end comes towards the hips. */
const SLOTS = 7;

/** What limits are made from. */
export interface Limited {
  readonly hips: Float64Array;
  readonly ends: readonly Float64Array[];
  /** 1 in frames in which an end is held where it is. */
  readonly held: readonly Uint8Array[];
  /** How each leg takes it, as it was displaced in the last round. */
  readonly senses: readonly Sense[];
  /** Height of the displacement from which on each end is out of the floor, one a frame; −∞ where it is held. */
  readonly lifts: readonly Float64Array[];
}

/**
 * Limits that hips and ends have broken: half-spaces, charged by the square of what they were left by, and made anew in every round. The sums are
 * exact but for them, so that a frame is found as soon as its limits stay as they are.
 */
export class Limits {
  private readonly records: Float64Array;
  /** 1 in frames that break any. */
  private readonly broken: Uint8Array;
  /** Metres by which each frame would still move, as its limits have changed since they were last charged. */
  readonly mistakes: Float64Array;
  /** Metres by which each limb was drawn out when the sums were made, 2 a frame: it turned the less for it. */
  private readonly drawn: Float64Array;
  private readonly now = new Float64Array(SLOTS * RECORD);
  /** Metres that hips, and free ends, move for a force in one frame alone, by its size. */
  private readonly gives: { readonly hips: number; readonly end: number };

  constructor(
    private readonly given: Limited,
    private readonly frames: number,
    frameTime: number,
  ) {
    this.records = new Float64Array(frames * SLOTS * RECORD);
    this.drawn = new Float64Array(frames * 2);
    this.broken = new Uint8Array(frames);
    this.mistakes = new Float64Array(frames);
    this.gives = { hips: giveOf(COST[1], HIPS, frameTime), end: giveOf(END_COST, END, frameTime) };
  }

  /** Makes the limits of some frames anew, and adds to their mistakes. @param asked 1 in those; undefined for all */
  renew(asked: Uint8Array | undefined): void {
    const { mistakes, now, records } = this;
    const { senses } = this.given;
    for (let f = 0; f < this.frames; f++) {
      if (asked && asked[f] === 0) continue;
      for (let k = 0; k < senses.length; k++) {
        mistakes[f] = Math.max(mistakes[f], Math.abs(senses[k].drawn[f] - this.drawn[f * 2 + k]));
        this.drawn[f * 2 + k] = senses[k].drawn[f];
      }
      const isBroken = this.isBroken(f);
      if (!isBroken && this.broken[f] === 0) continue;
      this.broken[f] = isBroken ? 1 : 0;
      this.find(f);
      for (let slot = 0; slot < SLOTS; slot++) mistakes[f] = Math.max(mistakes[f], this.mistake(f, slot));
      for (let i = 0; i < now.length; i++) records[f * now.length + i] = now[i];
    }
  }

  /** Adds what a frame's limits are broken by to the sums. */
  add(room: Displacements, f: number): void {
    if (this.broken[f] === 0) return;
    const { records } = this;
    const o = f * CURVES;
    for (let slot = 0; slot < SLOTS; slot++) {
      const at = (f * SLOTS + slot) * RECORD;
      if (!isDirection(records, at)) continue;
      if (slot === 0) keepWithin(room, o, records, at);
      else if (slot < 3) room.pushAlong(o + slot, -1, records, at, records[at + 4]);
      else room.pushAlong(o, o + endOf(slot), records, at, records[at + 4]);
    }
  }

  private isBroken(f: number): boolean {
    const { hips, ends, senses, lifts } = this.given;
    const x = hips[f * 3];
    const y = Math.min(0, hips[f * 3 + 1]);
    const z = hips[f * 3 + 2];
    if (x * x + y * y + z * z > senses[0].most[f] * senses[0].most[f]) return true;
    for (let k = 0; k < senses.length; k++)
      if (senses[k].far[f] > 0 || this.nearer(f, k) > 0 || ends[k][f * 3 + 1] < lifts[k][f] || this.higher(f, k) > 0) return true;
    return false;
  }

  /** Writes the limits that a frame breaks. */
  private find(f: number): void {
    const { now } = this;
    const { hips, ends, held, senses, lifts } = this.given;
    now.fill(0);
    // Aside and down; hips rise as far as a folded leg asks for.
    for (let c = 0; c < 3; c++) now[c] = c === 1 ? Math.min(0, hips[f * 3 + c]) : hips[f * 3 + c];
    const size = Math.sqrt(dot(now, 0, now, 0));
    const farthest = senses[0].most[f];
    if (size > farthest) {
      for (let c = 0; c < 3; c++) now[c] /= size;
      now[3] = farthest;
      now[4] = BOUND;
    } else now.fill(0);
    for (let k = 0; k < senses.length; k++) {
      const floor = (1 + k) * RECORD;
      if (ends[k][f * 3 + 1] < lifts[k][f]) {
        now[floor + 1] = 1;
        now[floor + 3] = lifts[k][f];
        now[floor + 4] = WEIGHT;
      }
      const up = (5 + k) * RECORD;
      if (this.higher(f, k) > 0) {
        now[up + 1] = 1;
        now[up + 3] = -this.highest(f, k);
        now[up + 4] = GENTLE;
      }
      const { far, short } = senses[k];
      const near = this.nearer(f, k);
      if (far[f] > 0) this.bound(f, k, missing(senses, held, f, k), WEIGHT);
      else if (near > 0) {
        // So near that it would stay short of its place, an end is as firm a limit as one out of reach, beside the gentle one: the sum of both squares.
        const firm = short[f] > 0 ? WEIGHT : 0;
        this.bound(f, k, -(GENTLE * near + firm * short[f]) / (GENTLE + firm), GENTLE + firm);
      }
    }
  }

  /** Writes the limit of a leg's reach: the hips, or its end, are to come so many metres along it; below zero to go. */
  private bound(f: number, k: number, by: number, weight: number): void {
    const { now } = this;
    const { hips, ends, held, senses } = this.given;
    const { out, most } = senses[k];
    const reach = (3 + k) * RECORD;
    for (let c = 0; c < 3; c++) now[reach + c] = out[f * 3 + c];
    const come = dot(out, f * 3, hips, f * 3) + by;
    // After an end that is held the hips come as far as they may.
    now[reach + 3] = (held[k][f] ? Math.min(come, most[f]) : come) - dot(out, f * 3, ends[k], f * 3);
    now[reach + 4] = weight;
  }

  /** Metres that an end is too near: of one that is held, nearer than its leg takes with ease; of a free one, nearer than its leg reaches it. */
  private nearer(f: number, k: number): number {
    const { held, senses } = this.given;
    return held[k][f] ? senses[k].near[f] : senses[k].short[f];
  }

  /** Metres that a held end may be higher towards the hips than copied. */
  private highest(f: number, k: number): number {
    const { lengths } = this.given.senses[k];
    return HIGHER * (lengths[f * 3] + lengths[f * 3 + 1]);
  }

  /** Metres by which it is higher than that. */
  private higher(f: number, k: number): number {
    const { hips, ends, held } = this.given;
    return held[k][f] ? ends[k][f * 3 + 1] - hips[f * 3 + 1] - this.highest(f, k) : 0;
  }

  /** How much farther along a limit's direction what it bounds is than it may be, metres; the direction times that is the force. */
  private left(f: number, slot: number, limits: Float64Array, at: number): number {
    const { hips, ends } = this.given;
    if (!isDirection(limits, at)) return 0;
    const along = slot === 0 || slot > 2 ? dot(limits, at, hips, f * 3) : 0;
    const end = slot === 0 ? 0 : dot(limits, at, ends[endOf(slot) - 1], f * 3);
    return (slot > 2 ? along - end : along + end) - limits[at + 3];
  }

  /** Metres that a frame would move by what has changed of a limit. */
  private mistake(f: number, slot: number): number {
    const { records, now, given, gives } = this;
    const before = (f * SLOTS + slot) * RECORD;
    const at = slot * RECORD;
    if (!isDirection(now, at) && !isDirection(records, before)) return 0;
    const was = this.left(f, slot, records, before);
    const is = this.left(f, slot, now, at);
    let size = 0;
    for (let c = 0; c < 3; c++) {
      const force = is * now[at + c] - was * records[before + c];
      size += force * force;
    }
    size = Math.sqrt(size);
    // What a limit takes back is no farther than it is broken; what it lets go moves as far as that gives.
    if (isDirection(now, at)) return size;
    const isHips = slot === 0 || given.held[endOf(slot) - 1][f] === 1;
    return size * records[before + 4] * (isHips ? gives.hips : gives.end);
  }
}

/** Which end a limit that is not the hips' alone is about, counted from 1. */
function endOf(slot: number): number {
  return 1 + ((slot - 1) % 2);
}

/** Holds hips that have come to their farthest where they are: along its edge as well, or they would slide to the ground, round by round. */
function keepWithin(room: Displacements, o: number, limits: Float64Array, at: number): void {
  for (let c = 0; c < 3; c++) if (c !== 1 || limits[at + 1] !== 0) room.near(o, c, limits[at + c] * limits[at + 3], limits[at + 4]);
}

/** False where a record is empty. */
function isDirection(limits: Float64Array, at: number): boolean {
  return limits[at] !== 0 || limits[at + 1] !== 0 || limits[at + 2] !== 0;
}

/** How far a curve of least b |v|² + τ⁴ |v″|² gives way to a force in one frame (a beam on an elastic foundation: Hetényi 1946). */
function giveOf(cost: number, tau: number, frameTime: number): number {
  return (Math.sqrt(Math.sqrt(cost / 4)) / tau) * (frameTime / (2 * cost));
}

/**
 * Metres that the hips have to come along a leg that is too short: what that leg misses, or as far as they come along it anyway when they
 * come after another. Two legs that stand side by side and miss unlike lengths would else send the hips far aside.
 */
function missing(senses: readonly Sense[], held: readonly Uint8Array[], f: number, k: number): number {
  const { out, far } = senses[k];
  let most = far[f];
  if (held[k][f] === 0) return most;
  for (let j = 0; j < senses.length; j++) {
    const other = senses[j];
    if (j === k || held[j][f] === 0 || other.far[f] <= most) continue;
    most = Math.max(most, dot(out, f * 3, other.out, f * 3) * other.far[f]);
  }
  return most;
}
