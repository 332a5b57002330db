/** Least squares over a few unknowns, each of which may have to do with any other: what sums over bands are held against. */
export class Dense {
  private readonly rows: Float64Array[];
  private readonly fixed: (number | undefined)[];

  constructor(readonly size: number) {
    this.rows = Array.from({ length: size }, () => new Float64Array(size + 1));
    this.fixed = new Array<number | undefined>(size).fill(undefined);
  }

  /** Adds weight × (Σ factors × x − target)². */
  add(at: ArrayLike<number>, factors: ArrayLike<number>, target: number, weight: number): void {
    for (let a = 0; a < at.length; a++) {
      this.rows[at[a]][this.size] += weight * factors[a] * target;
      for (let b = 0; b < at.length; b++) this.rows[at[a]][at[b]] += weight * factors[a] * factors[b];
    }
  }

  /** Makes an unknown a given number. */
  fix(i: number, value: number): void {
    this.fixed[i] = value;
  }

  /** The unknowns, by elimination with pivots. */
  solve(): Float64Array {
    const { size } = this;
    const rows = this.rows.map((row, i) => {
      const value = this.fixed[i];
      return value === undefined ? row.slice() : Float64Array.from({ length: size + 1 }, (_, j) => (j === i ? 1 : j === size ? value : 0));
    });
    for (let i = 0; i < size; i++) {
      let best = i;
      for (let j = i + 1; j < size; j++) if (Math.abs(rows[j][i]) > Math.abs(rows[best][i])) best = j;
      [rows[i], rows[best]] = [rows[best], rows[i]];
      for (let j = 0; j < size; j++) {
        if (j === i) continue;
        const factor = rows[j][i] / rows[i][i];
        for (let k = i; k <= size; k++) rows[j][k] -= factor * rows[i][k];
      }
    }
    return Float64Array.from(rows, (row, i) => row[size] / row[i]);
  }
}
