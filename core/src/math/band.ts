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

  /** The unknowns, until the next `clear`; the system is used up by it. The matrix must be positive definite. */
  solve(): Float64Array {
    const { rows, right, size, width } = this;
    const stride = width + 1;
    for (let i = 0; i < size; i++) {
      const row = i * stride;
      const pivot = rows[row];
      const most = Math.min(width, size - 1 - i);
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
      const most = Math.min(width, size - 1 - i);
      let value = right[i];
      for (let k = 1; k <= most; k++) value -= rows[row + k] * right[i + k];
      right[i] = value;
    }
    return right;
  }
}
