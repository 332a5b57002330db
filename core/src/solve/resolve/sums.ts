import { BandSystem } from '../../math/band';
import { outer } from '../../math/vec';

/** A hold's last frames that say how it ends, and its first how it begins, seconds. */
const EDGE = 0.06;

/** Curves: the hips and two ends. */
export const CURVES = 3;
/** Numbers of a frame: three to a curve. */
const NUMBERS = 9;

/** What is known of the curves before they are found. */
export interface Known {
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

const block = new Float64Array(9);

/** The sums of a take, used again in every round: an end that is held is no unknown, and sums reach no farther than what there is to find. */
export class Displacements {
  readonly system: BandSystem;
  /** Place of each displacement among the unknowns, −1 for one that is known; frames × curves. */
  private readonly index: Int32Array;
  /** Frames × curves × 3. */
  readonly values: Float64Array;

  /** Frames of a hold that tell how it ends. */
  private readonly edge: number;

  /** @param before sums that are done with: their memory is used again */
  constructor(
    readonly frames: number,
    frameTime: number,
    private readonly known: Known,
    before?: Displacements,
  ) {
    this.edge = Math.max(4, Math.round(EDGE / frameTime) + 1);
    this.index = before?.index ?? new Int32Array(frames * CURVES);
    this.values = before?.values ?? new Float64Array(frames * NUMBERS);
    // How many unknowns there are up to each frame.
    const until = new Int32Array(frames);
    let count = 0;
    for (let f = 0; f < frames; f++) {
      for (let curve = 0; curve < CURVES; curve++) this.index[f * CURVES + curve] = this.isKnown(f, curve) ? -1 : count++;
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
      for (let curve = 0; curve < CURVES; curve++) {
        if (index[f * CURVES + curve] >= 0) continue;
        const from = curve === 0 ? known.hips : known.ends[curve - 1];
        for (let c = 0; c < 3; c++) values[f * NUMBERS + curve * 3 + c] = from[f * 3 + c];
      }
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
        const [from, to] = [first * NUMBERS + o, f * NUMBERS + o];
        const [begins, ends] = [rise(values, from, NUMBERS, count), rise(values, to, -NUMBERS, count)];
        if (first >= shown) values[from + NUMBERS] = values[from] + begins;
        if (f - 1 >= shown) values[to - NUMBERS] = values[to] + ends;
      }
    }
  }

  private isKnown(f: number, curve: number): boolean {
    const { held, asked } = this.known;
    return (asked !== undefined && asked[f] === 0) || (curve > 0 && held[curve - 1][f] === 1);
  }

  /** Writes what has been found to where it is known from. */
  end(found: Float64Array): void {
    const { index, values, known, frames } = this;
    for (let f = 0; f < frames; f++) {
      for (let curve = 0; curve < CURVES; curve++) {
        const i = index[f * CURVES + curve];
        if (i < 0) continue;
        const to = curve === 0 ? known.hips : known.ends[curve - 1];
        for (let c = 0; c < 3; c++) to[f * 3 + c] = values[f * NUMBERS + curve * 3 + c] = found[i * 3 + c];
      }
    }
  }

  /**
   * Adds 2 × weight × xᵀBy for two displacements, or weight × xᵀBx for one; what is known goes to the other side.
   * @param p frame × curves + curve of one, which does not stand behind the other
   * @param block nine numbers, row by row
   */
  couple(p: number, q: number, block: Float64Array, weight: number): void {
    const { index, values, system } = this;
    const i = index[p];
    const j = index[q];
    if (i >= 0 && j >= 0) system.couple(i, j, block, weight);
    else if (i >= 0) {
      const o = q * 3;
      for (let a = 0; a < 3; a++) {
        system.push(i, a, -weight * (block[a * 3] * values[o] + block[a * 3 + 1] * values[o + 1] + block[a * 3 + 2] * values[o + 2]));
      }
    } else if (j >= 0) {
      const o = p * 3;
      for (let b = 0; b < 3; b++) {
        system.push(j, b, -weight * (block[b] * values[o] + block[3 + b] * values[o + 1] + block[6 + b] * values[o + 2]));
      }
    }
  }

  /** Adds weight × (a component of a displacement − target)². */
  near(p: number, c: number, target: number, weight: number): void {
    const i = this.index[p];
    if (i >= 0) this.system.near(i, c, target, weight);
  }

  /** Adds −2 × weight × (a component of a displacement). */
  push(p: number, c: number, weight: number): void {
    const i = this.index[p];
    if (i >= 0) this.system.push(i, c, weight);
  }

  /**
   * Adds weight × (n · (x − y) − target)² for one displacement x, or its difference to another.
   * @param q of y; −1 for none
   * @param limit n, and behind it the target
   */
  pushAlong(p: number, q: number, limit: Float64Array, at: number, weight: number): void {
    const target = limit[at + 3];
    outer(block, limit, at, limit, at, weight);
    this.couple(p, p, block, 1);
    for (let c = 0; c < 3; c++) this.push(p, c, weight * target * limit[at + c]);
    if (q < 0) return;
    this.couple(p, q, block, -1);
    this.couple(q, q, block, 1);
    for (let c = 0; c < 3; c++) this.push(q, c, -weight * target * limit[at + c]);
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
