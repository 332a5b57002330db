/**
 * For unknowns in a row, the last that each has to do with when all have to do with so many to their right.
 * @param together so many that stand side by side, as those of one frame, reach equally far
 */
export function bandOf(size: number, width: number, together = 1): Int32Array {
  return Int32Array.from({ length: size }, (_, i) => Math.min(size - 1, i - (i % together) + together - 1 + width));
}

/** Rows of a system that has been solved, for the next: memory that is new costs more than what is done in it. */
let spare: Float64Array | undefined;
/** Rows of more numbers than this are not kept. */
const KEPT = 4e6;

/**
 * Least squares over unknowns in a row, each of which has to do with its neighbours only: a symmetric band matrix whose width may change
 * along it, solved by LDLᵀ without pivoting (Golub and Van Loan, Matrix Computations, section 4.3), in a time that grows with size × width².
 */
export class BandSystem {
  /** Rows from the diagonal rightwards, one after the other: entry (i, i + k) stands at start[i] + k. */
  private readonly rows: Float64Array;
  private readonly start: Int32Array;
  private readonly right: Float64Array;
  readonly size: number;

  /**
   * @param last for each unknown the last to its right that it has to do with, never falling (`bandOf`)
   */
  constructor(private readonly last: Int32Array) {
    this.size = last.length;
    this.start = new Int32Array(this.size + 1);
    for (let i = 0; i < this.size; i++) this.start[i + 1] = this.start[i] + last[i] - i + 1;
    const count = this.start[this.size];
    this.rows = spare && spare.length >= count ? spare.fill(0, 0, count) : new Float64Array(count);
    spare = undefined;
    this.right = new Float64Array(this.size);
  }

  /** Adds weight × (x − target)². */
  near(i: number, target: number, weight: number): void {
    this.rows[this.start[i]] += weight;
    this.right[i] += weight * target;
  }

  /**
   * Adds weight × (Σ factors × x − target)².
   * @param at the unknowns, rising, within the width of each other
   */
  sum(at: ArrayLike<number>, factors: ArrayLike<number>, target: number, weight: number): void {
    for (let a = 0; a < at.length; a++) {
      this.push(at[a], weight * factors[a] * target);
      for (let b = a; b < at.length; b++) this.couple(at[a], at[b], weight * factors[a] * factors[b]);
    }
  }

  /** Adds 2 × weight × (one unknown) × (another that does not stand before it), or weight × its square where they are one. */
  couple(i: number, j: number, weight: number): void {
    this.rows[this.start[i] + j - i] += weight;
  }

  /**
   * Adds 2 × weight × xᵀBy for three unknowns x in a row and three others y that do not stand before them, or weight × xᵀBx, with a symmetric B, where
   * they are one.
   * @param block nine numbers, row by row
   */
  coupleThree(i: number, j: number, block: Float64Array, weight: number): void {
    const { rows, start } = this;
    const a = start[i] + j - i;
    rows[a] += weight * block[0];
    rows[a + 1] += weight * block[1];
    rows[a + 2] += weight * block[2];
    const b = start[i + 1] + j - i - 1;
    if (i !== j) rows[b] += weight * block[3];
    rows[b + 1] += weight * block[4];
    rows[b + 2] += weight * block[5];
    const c = start[i + 2] + j - i - 2;
    if (i !== j) {
      rows[c] += weight * block[6];
      rows[c + 1] += weight * block[7];
    }
    rows[c + 2] += weight * block[8];
  }

  /** Adds −2 × weight × (an unknown). */
  push(i: number, weight: number): void {
    this.right[i] += weight;
  }

  /** Makes an unknown a given number; nothing may be added to it afterwards. */
  fix(i: number, value: number): void {
    const { rows, right, start, last } = this;
    for (let k = 1; i + k <= last[i]; k++) {
      right[i + k] -= rows[start[i] + k] * value;
      rows[start[i] + k] = 0;
    }
    for (let k = 1; i - k >= 0 && last[i - k] >= i; k++) {
      right[i - k] -= rows[start[i - k] + k] * value;
      rows[start[i - k] + k] = 0;
    }
    rows[start[i]] = 1;
    right[i] = value;
  }

  /** The unknowns; the system is used up by it. The matrix must be positive definite. */
  solve(): Float64Array {
    const { rows, right, start, last, size } = this;
    for (let i = 0; i < size;) i += i + 2 < size && last[i] === last[i + 2] && last[i] > i + 2 ? this.takeThree(i) : this.takeOne(i);
    for (let i = size - 1; i >= 0; i--) {
      const row = start[i];
      const most = last[i] - i;
      let value = right[i];
      for (let k = 1; k <= most; k++) value -= rows[row + k] * right[i + k];
      right[i] = value;
    }
    if (rows.length <= KEPT) spare = rows;
    return right;
  }

  /** Takes an unknown out of the rows below it. @returns how many were taken */
  private takeOne(i: number): 1 {
    const { rows, right, start, last } = this;
    const row = start[i];
    const pivot = rows[row];
    const most = last[i] - i;
    const own = right[i];
    for (let k = 1; k <= most; k++) {
      const value = rows[row + k];
      if (value === 0) continue;
      const factor = value / pivot;
      const below = start[i + k] - k;
      for (let m = k; m <= most; m++) rows[below + m] -= factor * rows[row + m];
      rows[row + k] = factor;
      right[i + k] -= factor * own;
    }
    right[i] = own / pivot;
    return 1;
  }

  /** Takes three unknowns out of the rows below them that all have to do with the same: each of those is then gone through once, not three times. */
  private takeThree(i: number): 3 {
    const { rows, right, start, last } = this;
    const most = last[i] - i;
    // So that what stands in column i + m is at + m in each.
    const a = start[i];
    const b = start[i + 1] - 1;
    const c = start[i + 2] - 2;
    const pa = rows[a];
    const ra = right[i];
    const ab = rows[a + 1] / pa;
    const ac = rows[a + 2] / pa;
    for (let m = 1; m <= most; m++) rows[b + m] -= ab * rows[a + m];
    for (let m = 2; m <= most; m++) rows[c + m] -= ac * rows[a + m];
    const pb = rows[b + 1];
    const rb = right[i + 1] - ab * ra;
    const bc = rows[b + 2] / pb;
    for (let m = 2; m <= most; m++) rows[c + m] -= bc * rows[b + m];
    const pc = rows[c + 2];
    const rc = right[i + 2] - ac * ra - bc * rb;
    rows[a + 1] = ab;
    rows[a + 2] = ac;
    rows[b + 2] = bc;
    for (let k = 3; k <= most; k++) {
      const fa = rows[a + k] / pa;
      const fb = rows[b + k] / pb;
      const fc = rows[c + k] / pc;
      if (fa === 0 && fb === 0 && fc === 0) continue;
      const below = start[i + k] - k;
      for (let m = k; m <= most; m++) rows[below + m] = rows[below + m] - fa * rows[a + m] - fb * rows[b + m] - fc * rows[c + m];
      rows[a + k] = fa;
      rows[b + k] = fb;
      rows[c + k] = fc;
      right[i + k] = right[i + k] - fa * ra - fb * rb - fc * rc;
    }
    right[i] = ra / pa;
    right[i + 1] = rb / pb;
    right[i + 2] = rc / pc;
    return 3;
  }
}
