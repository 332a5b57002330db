import { BandSystem } from '../../math/band';
import { dot, outer } from '../../math/vec';
import { bendsOf, stiffnessOf, type Time } from '../../math/leastCurve';
import type { LimbTrack } from '../limbTrack';
import type { Sense } from './sense';

/** How slowly the hips' own displacement bends, and a foot's, seconds. */
const HIPS = 0.25;
export const END = 0.12;
/** Cost of a displacement of the hips over the floor and upright: with these they follow within some 0.06 s. */
const COST = [300, 100, 300] as const;
/** Cost of a displacement of a foot: with this a free foot is back on its copied path within some 0.07 s, and does not swing past where it is to stand. */
const END_COST = 10;
/** How much more it costs where limbs may be drawn out instead, by the share of their length. */
const SPARED = 200;
/** Cost of a displacement, level or downwards, beyond the farthest that the hips may come. */
const BOUND = 1e5;
/** In the air hips bend by so much less, and a displacement costs only this share: what is thrown flies on as it was thrown. */
const THROWN = 100;
const FLIES = 0.01;
/** What a displacement of a body that rests on the floor costs more. */
const RESTING = 1e5;
/** Weight of a knee's acceleration beside the hips', and of its turn itself. */
const ACCELERATION = 0.06;
const TURN = 0.2;
/** Weight of the square of a metre that a limb is too short by. */
const REACH = 1e4;

/** A hold's last frames that say how it ends, and its first how it begins, seconds. */
const EDGE = 0.06;

/** Displacements that change by less than this from one round to the next are found, metres. */
export const SETTLED = 1e-3;

/** Curves: the hips and two ends, three each. */
const CURVES = 9;

/** What is known of the curves before they are found. */
interface Known {
  /** Displacement of the hips and of each leg's end as they were last found; 3 per frame. */
  readonly hips: Float64Array;
  readonly ends: readonly Float64Array[];
  /** 1 in frames in which an end is held where it is. */
  readonly held: readonly Uint8Array[];
  /** 1 in frames that are to be found; undefined for all. */
  readonly asked: Uint8Array | undefined;
  /** Frames that are final. */
  readonly shown: number;
}

/** The sums of a take, used again in every round: an end that is held is no unknown, and sums reach no farther than what there is to find. */
export class Displacements {
  readonly system: BandSystem;
  /** Place of each value among the unknowns, −1 for one that is known; frames × curves. */
  readonly index: Int32Array;
  readonly values: Float64Array;
  /** 1 in frames in which a displacement has changed by more than what is taken for found. */
  readonly restless: Uint8Array;

  /** Frames of a hold that tell how it ends. */
  private readonly edge: number;

  /** @param before sums that are done with: their memory is used again */
  constructor(
    readonly frames: number,
    frameTime: number,
    private readonly known: Known,
    before?: Displacements,
  ) {
    this.edge = Math.round(EDGE / frameTime) + 1;
    this.index = before?.index ?? new Int32Array(frames * CURVES);
    this.values = before?.values ?? new Float64Array(frames * CURVES);
    this.restless = before?.restless ?? new Uint8Array(frames);
    // How many unknowns there are up to each frame.
    const until = new Int32Array(frames);
    let count = 0;
    for (let f = 0; f < frames; f++) {
      if (known.asked && !known.asked[f]) this.index.fill(-1, f * CURVES, (f + 1) * CURVES);
      else for (let c = 0; c < CURVES; c++) this.index[f * CURVES + c] = Number.isNaN(this.knownAt(f, c)) ? count++ : -1;
      until[f] = count;
    }
    const last = new Int32Array(count);
    for (let f = 0; f < frames; f++) {
      const end = until[Math.min(frames - 1, f + 2)] - 1;
      for (let c = f * CURVES; c < (f + 1) * CURVES; c++) if (this.index[c] >= 0) last[this.index[c]] = end;
    }
    this.system = new BandSystem(last);
  }

  /** 1 in frames that are found; undefined for all. */
  get asked(): Uint8Array | undefined {
    return this.known.asked;
  }

  /** False for a frame whose neighbours, up to so many away, are not to be found either. */
  isAsked(f: number, away: number): boolean {
    const { asked } = this.known;
    if (asked === undefined) return true;
    for (let i = -away; i <= away; i++) if (asked[f + i] === 1) return true;
    return false;
  }

  /** Takes over what is known, as it is now, and begins the sums anew. */
  begin(): void {
    const { index, values, frames, known } = this;
    for (let f = 0; f < frames; f++) {
      if (!this.isAsked(f, 2)) continue;
      for (let c = 0; c < CURVES; c++) if (index[f * CURVES + c] < 0) values[f * CURVES + c] = this.knownAt(f, c);
    }
    known.held.forEach((held, k) => this.calmEdges(held, k));
  }

  /**
   * Lets a free end begin where a parabola through the frames of the hold next to it says, and end so: by the last frame alone, a
   * capture's noise would throw it off with a speed that nothing has.
   */
  private calmEdges(held: Uint8Array, k: number): void {
    const { values, frames, edge } = this;
    const { shown } = this.known;
    for (let f = 0; f < frames; f++) {
      if (held[f] === 0) continue;
      const first = f;
      while (f + 1 < frames && held[f + 1] === 1) f++;
      const count = Math.min(edge, f - first + 1);
      if (count < 4) continue;
      for (let c = 0; c < 3; c++) {
        const o = 3 + 3 * k + c;
        const [from, to] = [first * CURVES + o, f * CURVES + o];
        const [begins, ends] = [rise(values, from, CURVES, count), rise(values, to, -CURVES, count)];
        if (first >= shown) values[from + CURVES] = values[from] + begins;
        if (f - 1 >= shown) values[to - CURVES] = values[to] + ends;
      }
    }
  }

  /** NaN for what is to be found. */
  private knownAt(f: number, c: number): number {
    const { hips, ends, held, asked } = this.known;
    const isAsked = asked === undefined || asked[f] === 1;
    if (c < 3) return isAsked ? NaN : hips[f * 3 + c];
    const k = c < 6 ? 0 : 1;
    if (!isAsked || held[k][f] === 1) return ends[k][f * 3 + (c % 3)];
    return NaN;
  }

  /**
   * Adds 2 × weight × xᵀBy for two displacements, or weight × xᵀBx for one; what is known goes to the other side.
   * @param p the first values of the displacements, the second of which does not stand before the first
   * @param block nine numbers, row by row
   */
  coupleThree(p: number, q: number, block: Float64Array, weight: number): void {
    const { index, values, system } = this;
    const i = index[p];
    const j = index[q];
    if (i >= 0 && j >= 0) system.coupleThree(i, j, block, weight);
    else if (i >= 0) {
      for (let a = 0; a < 3; a++) {
        system.push(i + a, -weight * (block[a * 3] * values[q] + block[a * 3 + 1] * values[q + 1] + block[a * 3 + 2] * values[q + 2]));
      }
    } else if (j >= 0) {
      for (let b = 0; b < 3; b++) {
        system.push(j + b, -weight * (block[b] * values[p] + block[3 + b] * values[p + 1] + block[6 + b] * values[p + 2]));
      }
    }
  }

  /** Adds −2 × weight × (a value). */
  push(p: number, weight: number): void {
    const i = this.index[p];
    if (i >= 0) this.system.push(i, weight);
  }

  /** Adds weight × (a value − target)². */
  near(p: number, target: number, weight: number): void {
    const i = this.index[p];
    if (i >= 0) this.system.near(i, target, weight);
  }
}

/**
 * Rise at its beginning, from one value to the next, of the parabola of least squares through some values (in the first three orthogonal
 * polynomials over whole numbers: Abramowitz and Stegun, 22.17).
 */
function rise(values: Float64Array, at: number, step: number, count: number): number {
  const middle = (count - 1) / 2;
  const spread = (count * count - 1) / 12;
  let line = 0;
  let bow = 0;
  for (let i = 0; i < count; i++) {
    const value = values[at + i * step];
    line += (i - middle) * value;
    bow += ((i - middle) * (i - middle) - spread) * value;
  }
  line /= count * spread;
  bow /= (count * spread * (count * count - 4)) / 15;
  return line + (1 - 2 * middle) * bow;
}

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

interface Displaced extends Time, Omit<Known, 'asked' | 'shown'> {
  /** How each leg takes it, as it was displaced in the last round. */
  readonly senses: readonly Sense[];
  /** 1 in frames in which the body itself rests, which then stays; smooth, one a frame. */
  readonly resting: Float64Array | undefined;
  /** How far the body is in the air, from 0 to 1, one a frame. */
  readonly air: Float64Array | undefined;
  readonly bends: Bends;
  /** Height of its displacement that each free end goes back to, metres. */
  readonly rests: readonly number[];
  /** Height of the displacement from which on each end is out of the floor, one a frame; −∞ where it is held. */
  readonly lifts: readonly Float64Array[];
  /** Share of their length by which limbs may be drawn out. */
  readonly stretch: number;
}

/**
 * Finds the displacements of hips and ends from the copied motion together: smooth, as it is held, and as little as knees and reach ask
 * for (one step of Gauss and Newton from the last round's). Writes `ends` and `hips`.
 * @returns metres by which the farthest of them has changed since they were last found
 */
export function displace(room: Displacements, given: Displaced): number {
  const { ends, hips } = given;
  const { system, index, values, frames } = room;
  room.begin();
  for (let f = 0; f < frames; f++) {
    if (!room.isAsked(f, 2)) continue;
    addBends(room, given, f);
    addLimits(room, given, f);
  }
  const found = system.solve();
  let most = 0;
  for (let f = 0; f < frames; f++) {
    room.restless[f] = 0;
    if (!room.isAsked(f, 0)) continue;
    for (let c = 0; c < CURVES; c++) {
      const o = f * CURVES + c;
      if (index[o] < 0) continue;
      const to = c < 3 ? hips : ends[c < 6 ? 0 : 1];
      const i = f * 3 + (c % 3);
      const now = found[index[o]];
      const by = now > to[i] ? now - to[i] : to[i] - now;
      if (by > most) most = by;
      if (by > SETTLED) room.restless[f] = 1;
      to[i] = values[o] = now;
    }
  }
  return most;
}

const block = new Float64Array(9);
const sum = new Float64Array(9);

/**
 * Charges displacements and their bends, and what knees feel of the difference between their ends' displacements and the hips': their turns, and the
 * accelerations of these.
 */
function addBends(
  room: Displacements,
  { senses, resting, air, bends: { bends, thrown }, rests, stretch, frameTime }: Displaced,
  f: number,
): void {
  const [slow, quick] = [stiffnessOf(HIPS, frameTime), stiffnessOf(END, frameTime)];
  const o = f * CURVES;
  const cost = (1 - (1 - FLIES) * (air?.[f] ?? 0)) * (1 + SPARED * stretch);
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
      const end = 3 + 3 * k;
      outer(block, turn, f * 3, turn, (f + d) * 3, (d === 0 ? TURN : 0) + ACCELERATION * slow * bend);
      for (let i = 0; i < 9; i++) sum[i] += block[i];
      room.coupleThree(o, later + end, block, -1);
      if (d > 0) room.coupleThree(o + end, later, block, -1);
      for (let c = 0; c < 3; c++) block[c * 4] += quick * bend + (d === 0 ? END_COST : 0);
      room.coupleThree(o + end, later + end, block, 1);
    }
    room.coupleThree(o, later, sum, 1);
  }
  for (let k = 0; k < senses.length; k++) room.push(o + 4 + 3 * k, END_COST * rests[k]);
}

/** Charges hips that come farther than they may, and what was missing in the last round of reach, and of the floor. */
function addLimits(room: Displacements, { senses, ends, held, hips, lifts }: Displaced, f: number): void {
  const o = f * CURVES;
  // Aside and down; they rise as far as a folded leg asks for.
  let size = 0;
  for (let c = 0; c < 3; c++) if (c !== 1 || hips[f * 3 + 1] < 0) size += hips[f * 3 + c] * hips[f * 3 + c];
  const farthest = senses[0].most[f];
  if (size > farthest * farthest) {
    const part = farthest / Math.sqrt(size);
    for (let c = 0; c < 3; c++) {
      if (c === 1 && hips[f * 3 + 1] >= 0) continue;
      room.near(o + c, hips[f * 3 + c] * part, BOUND);
    }
  }
  for (let k = 0; k < senses.length; k++) {
    if (ends[k][f * 3 + 1] < lifts[k][f]) room.near(o + 4 + 3 * k, lifts[k][f], REACH);
    const { out, far, near, most } = senses[k];
    const over = far[f] > 0 ? missing(senses, held, f, k) : -Math.max(0, near[f]);
    if (over === 0) continue;
    const end = o + 3 + 3 * k;
    outer(block, out, f * 3, out, f * 3, REACH);
    room.coupleThree(o, o, block, 1);
    room.coupleThree(o, end, block, -1);
    room.coupleThree(end, end, block, 1);
    const come = dot(out, f * 3, hips, f * 3);
    // After an end that is held the hips come as far as they may.
    const target = (held[k][f] ? Math.min(come + over, most[f]) : come + over) - dot(out, f * 3, ends[k], f * 3);
    for (let c = 0; c < 3; c++) {
      room.push(o + c, REACH * target * out[f * 3 + c]);
      room.push(end + c, -REACH * target * out[f * 3 + c]);
    }
  }
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
    let along = 0;
    for (let c = 0; c < 3; c++) along += out[f * 3 + c] * other.out[f * 3 + c];
    most = Math.max(most, along * other.far[f]);
  }
  return most;
}

/** Writes how far the end of a limb was from its copied place in frames that are final. */
export function displacedTo(ends: Float64Array, { data, stride, at }: LimbTrack, places: Float64Array, from: number): void {
  for (let f = 0; f < from; f++) for (let c = 0; c < 3; c++) ends[f * 3 + c] = places[f * 3 + c] - data[f * stride + at.end + c];
}
