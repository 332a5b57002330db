/**
 * Least squares over unknowns in a row, each of which has to do with its neighbours only: a symmetric band matrix, solved by LDLᵀ
 * without pivoting (Golub and Van Loan, Matrix Computations, section 4.3), in a time that grows with size × width².
 */
export class BandSystem {
  /** Row i from its diagonal rightwards: entry (i, i + k) stands at i × (width + 1) + k. */
  private readonly rows: Float64Array;
  private readonly right: Float64Array;

  /** @param width how many unknowns to the right an unknown has to do with */
  constructor(
    readonly size: number,
    readonly width: number,
  ) {
    this.rows = new Float64Array(size * (width + 1));
    this.right = new Float64Array(size);
  }

  /** Begins anew. */
  clear(): void {
    this.rows.fill(0);
    this.right.fill(0);
  }

  /** Adds weight × (x − target)². */
  near(i: number, target: number, weight: number): void {
    this.rows[i * (this.width + 1)] += weight;
    this.right[i] += weight * target;
  }

  /**
   * Adds weight × (Σ factors × x − target)².
   * @param at first of the unknowns, which stand `step` apart
   * @param count of factors
   */
  sum(at: number, step: number, factors: Float64Array, count: number, target: number, weight: number): void {
    const { rows, right } = this;
    const stride = this.width + 1;
    for (let a = 0; a < count; a++) {
      const i = at + a * step;
      const wa = weight * factors[a];
      right[i] += wa * target;
      const row = i * stride;
      for (let b = a; b < count; b++) rows[row + (b - a) * step] += wa * factors[b];
    }
  }

  /**
   * Adds weight × (Σ factors × x − target)² over unknowns anywhere within the width of each other.
   * @param at the unknowns, rising
   * @param count of them
   */
  add(at: Int32Array, factors: Float64Array, count: number, target: number, weight: number): void {
    const { rows, right, width } = this;
    for (let a = 0; a < count; a++) {
      const i = at[a];
      const wa = weight * factors[a];
      if (wa === 0) continue;
      right[i] += wa * target;
      const row = i * width;
      // Entry (i, j) stands at i × (width + 1) + j − i.
      for (let b = a; b < count; b++) rows[row + at[b]] += wa * factors[b];
    }
  }

  /** Makes an unknown a given number; nothing may be added to it afterwards. */
  fix(i: number, value: number): void {
    const { rows, right, size, width } = this;
    const stride = width + 1;
    for (let k = 1; k <= width; k++) {
      if (i + k < size) {
        right[i + k] -= rows[i * stride + k] * value;
        rows[i * stride + k] = 0;
      }
      if (i - k >= 0) {
        right[i - k] -= rows[(i - k) * stride + k] * value;
        rows[(i - k) * stride + k] = 0;
      }
    }
    rows[i * stride] = 1;
    right[i] = value;
  }

  /**
   * The unknowns, until the next `clear`; the system is used up by it. The matrix must be positive definite.
   * @param size how many of the unknowns are asked for, from the first on; none of them has to do with those behind
   * @param last for each of these the last that it has to do with, never falling: what lies beyond is passed over
   */
  solve(size = this.size, last?: Int32Array): Float64Array {
    const { rows, right, width } = this;
    const stride = width + 1;
    for (let i = 0; i < size; i++) {
      const row = i * stride;
      const pivot = rows[row];
      const most = (last ? last[i] : Math.min(i + width, size - 1)) - i;
      for (let k = 1; k <= most; k++) {
        const value = rows[row + k];
        if (value === 0) continue;
        const factor = value / pivot;
        const below = (i + k) * stride - k;
        for (let m = k; m <= most; m++) rows[below + m] -= factor * rows[row + m];
        rows[row + k] = factor;
        right[i + k] -= factor * right[i];
      }
      right[i] /= pivot;
    }
    for (let i = size - 1; i >= 0; i--) {
      const row = i * stride;
      const most = (last ? last[i] : Math.min(i + width, size - 1)) - i;
      let value = right[i];
      for (let k = 1; k <= most; k++) value -= rows[row + k] * right[i + k];
      right[i] = value;
    }
    return right;
  }
}
