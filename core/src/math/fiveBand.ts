/**
 * Least squares over a curve's values in a row, each of which has to do with its two neighbours on either side: a symmetric matrix of five
 * diagonals, factored once (LDLᵀ, Golub and Van Loan, Matrix Computations, section 4.3) for as many right sides as are asked for.
 */
export class FiveBand {
  /** The diagonal, and what stands one and two to its right; then D and the two bands of L. */
  private readonly main: Float64Array;
  private readonly next: Float64Array;
  private readonly after: Float64Array;

  constructor(readonly size: number) {
    this.main = new Float64Array(size);
    this.next = new Float64Array(size);
    this.after = new Float64Array(size);
  }

  /** Begins anew: Σ v² + stiffness × Σ v″², but for bends at breaks. @param breaks 1 in frames to which a curve jumps */
  begin(stiffness: number, breaks: Uint8Array): void {
    const { main, next, after, size } = this;
    main.fill(1);
    next.fill(0);
    after.fill(0);
    for (let i = 1; i + 1 < size; i++) {
      if (breaks[i] || breaks[i + 1]) continue;
      main[i - 1] += stiffness;
      main[i] += 4 * stiffness;
      main[i + 1] += stiffness;
      next[i - 1] -= 2 * stiffness;
      next[i] -= 2 * stiffness;
      after[i - 1] += stiffness;
    }
  }

  /**
   * Prepares right sides of nothing but given values: writes into `right` what they make of the others' sums, and themselves.
   * Right sides come before the matrix is fixed.
   * @param given 1 for values that stand
   */
  rightOf(values: Float64Array, at: number, stride: number, given: Uint8Array, right: Float64Array): void {
    const { next, after, size } = this;
    right.fill(0);
    for (let i = 0; i < size; i++) {
      if (!given[i]) continue;
      const value = values[i * stride + at];
      if (i > 0) right[i - 1] -= next[i - 1] * value;
      if (i > 1) right[i - 2] -= after[i - 2] * value;
      if (i + 1 < size) right[i + 1] -= next[i] * value;
      if (i + 2 < size) right[i + 2] -= after[i] * value;
    }
    for (let i = 0; i < size; i++) if (given[i]) right[i] = values[i * stride + at];
  }

  /** Makes given values no unknowns, and factors the matrix; nothing else may be asked of it but to solve, until it begins anew. */
  factor(given: Uint8Array): void {
    const { main, next, after, size } = this;
    for (let i = 0; i < size; i++) {
      if (!given[i]) continue;
      main[i] = 1;
      next[i] = after[i] = 0;
      if (i > 0) next[i - 1] = 0;
      if (i > 1) after[i - 2] = 0;
    }
    for (let i = 0; i < size; i++) {
      const pivot = main[i];
      const [a, b] = [next[i] / pivot, after[i] / pivot];
      if (i + 1 < size) {
        main[i + 1] -= a * next[i];
        next[i + 1] -= a * after[i];
      }
      if (i + 2 < size) main[i + 2] -= b * after[i];
      next[i] = a;
      after[i] = b;
    }
  }

  /** Solves for a right side, in place. */
  solve(right: Float64Array): void {
    const { main, next, after, size } = this;
    for (let i = 0; i < size; i++) {
      if (i > 0) right[i] -= next[i - 1] * right[i - 1];
      if (i > 1) right[i] -= after[i - 2] * right[i - 2];
    }
    for (let i = size - 1; i >= 0; i--) {
      right[i] /= main[i];
      if (i + 1 < size) right[i] -= next[i] * right[i + 1];
      if (i + 2 < size) right[i] -= after[i] * right[i + 2];
    }
  }
}
