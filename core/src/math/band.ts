/** For unknowns in a row, the last that each has to do with when all have to do with so many to their right. */
export function bandOf(size: number, width: number): Int32Array {
  return Int32Array.from({ length: size }, (_, i) => Math.min(size - 1, i + width));
}

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
   * @param before a system that is done with: its memory is used where it is large enough
   */
  constructor(
    private readonly last: Int32Array,
    before?: BandSystem,
  ) {
    this.size = last.length;
    this.start = new Int32Array(this.size + 1);
    for (let i = 0; i < this.size; i++) this.start[i + 1] = this.start[i] + last[i] - i + 1;
    const count = this.start[this.size];
    this.rows = before && before.rows.length >= count ? before.rows.subarray(0, count).fill(0) : new Float64Array(count);
    this.right = new Float64Array(this.size);
  }

  /** Begins anew. */
  clear(): void {
    this.rows.fill(0);
    this.right.fill(0);
  }

  /** Adds weight × (x − target)². */
  near(i: number, target: number, weight: number): void {
    this.rows[this.start[i]] += weight;
    this.right[i] += weight * target;
  }

  /**
   * Adds weight × (Σ factors × x − target)².
   * @param at first of the unknowns, which stand `step` apart
   * @param count of factors
   */
  sum(at: number, step: number, factors: Float64Array, count: number, target: number, weight: number): void {
    const { rows, right, start } = this;
    for (let a = 0; a < count; a++) {
      const i = at + a * step;
      const wa = weight * factors[a];
      right[i] += wa * target;
      const row = start[i];
      for (let b = a; b < count; b++) rows[row + (b - a) * step] += wa * factors[b];
    }
  }

  /**
   * Adds weight × (Σ factors × x − target)² over unknowns anywhere within the width of each other.
   * @param at the unknowns, rising
   * @param count of them
   */
  add(at: Int32Array, factors: Float64Array, count: number, target: number, weight: number): void {
    const { rows, right, start } = this;
    for (let a = 0; a < count; a++) {
      const i = at[a];
      const wa = weight * factors[a];
      if (wa === 0) continue;
      right[i] += wa * target;
      // Entry (i, j) stands at start[i] + j − i.
      const row = start[i] - i;
      for (let b = a; b < count; b++) rows[row + at[b]] += wa * factors[b];
    }
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

  /** The unknowns, until the next `clear`; the system is used up by it. The matrix must be positive definite. */
  solve(): Float64Array {
    const { rows, right, start, last, size } = this;
    for (let i = 0; i < size; i++) {
      const row = start[i];
      const pivot = rows[row];
      const most = last[i] - i;
      for (let k = 1; k <= most; k++) {
        const value = rows[row + k];
        if (value === 0) continue;
        const factor = value / pivot;
        const below = start[i + k] - k;
        for (let m = k; m <= most; m++) rows[below + m] -= factor * rows[row + m];
        rows[row + k] = factor;
        right[i + k] -= factor * right[i];
      }
      right[i] /= pivot;
    }
    for (let i = size - 1; i >= 0; i--) {
      const row = start[i];
      const most = last[i] - i;
      let value = right[i];
      for (let k = 1; k <= most; k++) value -= rows[row + k] * right[i + k];
      right[i] = value;
    }
    return right;
  }
}
