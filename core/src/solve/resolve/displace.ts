import { BandSystem } from '../../math/band';
import { BEND, stiffnessOf, type Time } from '../../math/leastCurve';
import type { LimbTrack } from '../limbTrack';
import type { Sense } from './sense';

/** How slowly the hips' own displacement bends, and a foot's, seconds. */
const HIPS = 0.25;
export const END = 0.12;
/** Cost of a displacement of the hips over the floor and upright: with these they follow within some 0.06 s. */
const COST = [300, 100, 300] as const;
/** Cost of a displacement of a foot: with this a free foot is back on its copied path within some 0.06 s. */
const END_COST = 20;
/** How much more it costs where limbs may be drawn out instead, by the share of their length. */
const SPARED = 200;
/** Cost of a displacement, level or downwards, beyond the farthest that the hips may come. */
const BOUND = 1e5;
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
  /** Heights that an end's displacement has where it would be lower; NaN for none. */
  readonly lows: readonly (Float64Array | undefined)[];
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
    this.system = new BandSystem(last, before?.system);
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
    this.system.clear();
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
    const { hips, ends, held, lows, asked } = this.known;
    const isAsked = asked === undefined || asked[f] === 1;
    if (c < 3) return isAsked ? NaN : hips[f * 3 + c];
    const k = c < 6 ? 0 : 1;
    if (!isAsked || held[k][f] === 1) return ends[k][f * 3 + (c % 3)];
    return c % 3 === 1 ? (lows[k]?.[f] ?? NaN) : NaN;
  }

  /** Adds weight × (Σ factors × values − target)², what is known on the other side. @param at places of the values, rising */
  add(at: Int32Array, factors: Float64Array, count: number, target: number, weight: number): void {
    const { index, values, system } = this;
    let left = target;
    let n = 0;
    for (let a = 0; a < count; a++) {
      const i = index[at[a]];
      if (i < 0) left -= factors[a] * values[at[a]];
      else {
        unknown[n] = i;
        share[n++] = factors[a];
      }
    }
    if (n > 0) system.add(unknown, share, n, left, weight);
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

const unknown = new Int32Array(18);
const share = new Float64Array(18);

interface Displaced extends Time, Omit<Known, 'lows' | 'asked' | 'shown'> {
  /** How each leg takes it, as it was displaced in the last round. */
  readonly senses: readonly Sense[];
  /** 1 in frames in which the body itself rests, which then stays; smooth, one a frame. */
  readonly resting: Float64Array | undefined;
  /** Height of its displacement that each free end goes back to, metres. */
  readonly rests: readonly number[];
  /** Share of their length by which limbs may be drawn out. */
  readonly stretch: number;
}

/**
 * Finds the displacements of hips and ends from the copied motion together: smooth, as it is held, and as little as knees and reach ask
 * for (one step of Gauss and Newton from the last round's). Writes `ends` and `hips`.
 * @returns metres by which the farthest of them has changed since they were last found
 */
export function displace(room: Displacements, given: Displaced): number {
  const { ends, hips, senses } = given;
  const { system, index, values, frames } = room;
  room.begin();
  addCosts(room, given);
  senses.forEach((_, k) => addKnee(room, given, k));
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

const at = new Int32Array(18);
const factors = new Float64Array(18);

/** Charges displacements and their bends, and hips that come farther than they may. */
function addCosts(room: Displacements, { senses, rests, hips, resting, stretch, breaks, frameTime }: Displaced): void {
  const { frames, system, index } = room;
  const [slow, quick] = [stiffnessOf(HIPS, frameTime), stiffnessOf(END, frameTime)];
  for (let f = 0; f < frames; f++) {
    if (!room.isAsked(f, 1)) continue;
    const rest = resting ? RESTING * resting[f] : 0;
    const isBent = f > 0 && f + 1 < frames && !breaks[f] && !breaks[f + 1];
    for (let c = 0; c < CURVES; c++) {
      const o = f * CURVES + c;
      if (index[o] >= 0)
        system.near(index[o], c === 4 ? rests[0] : c === 7 ? rests[1] : 0, c < 3 ? COST[c] * (1 + SPARED * stretch) + rest : END_COST);
      if (!isBent) continue;
      for (let n = 0; n < 3; n++) at[n] = o + (n - 1) * CURVES;
      room.add(at, BEND, 3, 0, c < 3 ? slow : quick);
    }
    // Aside and down; they rise as far as a folded leg asks for.
    let size = 0;
    for (let c = 0; c < 3; c++) if (c !== 1 || hips[f * 3 + 1] < 0) size += hips[f * 3 + c] * hips[f * 3 + c];
    const most = senses[0].most[f];
    if (size <= most * most || index[f * CURVES] < 0) continue;
    const part = most / Math.sqrt(size);
    for (let c = 0; c < 3; c++) {
      if (c !== 1 || hips[f * 3 + 1] < 0) system.near(index[f * CURVES + c], hips[f * 3 + c] * part, BOUND);
    }
  }
}

/** Puts the values of one frame in a row: an end's less the hips', along a direction. */
function put(n: number, f: number, k: number, direction: Float64Array, by: number): void {
  for (let c = 0; c < 3; c++) {
    at[n + c] = f * CURVES + c;
    factors[n + c] = -by * direction[f * 3 + c];
    at[n + 3 + c] = f * CURVES + 3 + 3 * k + c;
    factors[n + 3 + c] = by * direction[f * 3 + c];
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

/**
 * Charges what one knee feels of the difference between its end's displacement and the hips': its turn, and the acceleration of that; and
 * the reach that was missing in the last round.
 */
function addKnee(room: Displacements, { senses, ends, held, hips, breaks, frameTime }: Displaced, k: number): void {
  const { turn, out, far, near, most } = senses[k];
  const acceleration = ACCELERATION * stiffnessOf(HIPS, frameTime);
  for (let f = 0; f < room.frames; f++) {
    if (!room.isAsked(f, 1)) continue;
    put(0, f, k, turn, 1);
    room.add(at, factors, 6, 0, TURN);
    if (f > 0 && f + 1 < room.frames && !breaks[f] && !breaks[f + 1]) {
      for (let n = 0; n < 3; n++) put(n * 6, f - 1 + n, k, turn, BEND[n]);
      room.add(at, factors, 18, 0, acceleration);
    }
    const over = far[f] > 0 ? missing(senses, held, f, k) : -Math.max(0, near[f]);
    if (over === 0) continue;
    let come = 0;
    let gone = 0;
    for (let c = 0; c < 3; c++) {
      come += out[f * 3 + c] * hips[f * 3 + c];
      gone += out[f * 3 + c] * ends[k][f * 3 + c];
    }
    put(0, f, k, out, -1);
    // After an end that is held the hips come as far as they may.
    room.add(at, factors, 6, (held[k][f] ? Math.min(come + over, most[f]) : come + over) - gone, REACH);
  }
}

/** Writes how far the end of a limb was from its copied place in frames that are final. */
export function displacedTo(ends: Float64Array, { data, stride, at }: LimbTrack, places: Float64Array, from: number): void {
  for (let f = 0; f < from; f++) for (let c = 0; c < 3; c++) ends[f * 3 + c] = places[f * 3 + c] - data[f * stride + at.end + c];
}
