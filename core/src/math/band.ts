/**
 * For unknowns in a row, the last that each has to do with when all have to do with so many to their right.
 * @param together so many that stand side by side, as those of one frame, reach equally far
 */
export function bandOf(size: number, width: number, together = 1): Int32Array {
  return Int32Array.from({ length: size }, (_, i) => Math.min(size - 1, i - (i % together) + together - 1 + width));
}

/** Numbers of a block: row by row. */
const BLOCK = 9;

/** Blocks of a system that has been solved, for the next: memory that is new costs more than what is done in it. */
let spare: Float64Array | undefined;
/** No more numbers than these are kept. */
const KEPT = 4e6;

/**
 * Least squares over vectors of three in a row, each of which has to do with its neighbours only: a symmetric band matrix of blocks whose width may
 * change along it, solved by LDLᵀ without pivoting (Golub and Van Loan, Matrix Computations, sections 4.3 and 4.5), in a time that grows with
 * size × width².
 */
export class BandSystem {
  /** Blocks from the diagonal rightwards, row after row: block (i, i + k) stands at 9 (start[i] + k). */
  private readonly blocks: Float64Array;
  private readonly start: Int32Array;
  private readonly right: Float64Array;
  /** A row times the inverse of its pivot. */
  private readonly ahead: Float64Array;
  readonly size: number;

  /**
   * @param last for each unknown the last to its right that it has to do with, never falling (`bandOf`)
   */
  constructor(private readonly last: Int32Array) {
    this.size = last.length;
    this.start = new Int32Array(this.size + 1);
    let widest = 0;
    for (let i = 0; i < this.size; i++) {
      this.start[i + 1] = this.start[i] + last[i] - i + 1;
      widest = Math.max(widest, last[i] - i);
    }
    const count = this.start[this.size] * BLOCK;
    this.blocks = spare && spare.length >= count ? spare.fill(0, 0, count) : new Float64Array(count);
    spare = undefined;
    this.ahead = new Float64Array((widest + 1) * BLOCK);
    this.right = new Float64Array(this.size * 3);
  }

  /** Adds weight × (one component of an unknown − target)². */
  near(i: number, c: number, target: number, weight: number): void {
    this.blocks[this.start[i] * BLOCK + c * 4] += weight;
    this.right[i * 3 + c] += weight * target;
  }

  /** Adds weight × (a component of the unknown j − that of i, which stands before it, − target)². */
  apart(i: number, j: number, c: number, target: number, weight: number): void {
    const { blocks, start } = this;
    this.near(j, c, target, weight);
    this.near(i, c, -target, weight);
    blocks[(start[i] + j - i) * BLOCK + c * 4] -= weight;
  }

  /**
   * Adds 2 × weight × xᵀBy for an unknown x and another y that does not stand before it, or weight × xᵀBx, with a symmetric B, where they are one.
   * @param block nine numbers, row by row
   */
  couple(i: number, j: number, block: Float64Array, weight: number): void {
    const { blocks } = this;
    const o = (this.start[i] + j - i) * BLOCK;
    for (let n = 0; n < BLOCK; n++) blocks[o + n] += weight * block[n];
  }

  /** Adds −2 × weight × (a component of an unknown). */
  push(i: number, c: number, weight: number): void {
    this.right[i * 3 + c] += weight;
  }

  /** Makes an unknown what it is given as; nothing may be added to it afterwards. */
  fix(i: number, values: Float64Array, at: number): void {
    const { blocks, right, start, last } = this;
    for (let k = 1; i + k <= last[i]; k++) {
      const o = (start[i] + k) * BLOCK;
      for (let c = 0; c < 3; c++) for (let d = 0; d < 3; d++) right[(i + k) * 3 + d] -= blocks[o + c * 3 + d] * values[at + c];
      blocks.fill(0, o, o + BLOCK);
    }
    for (let k = 1; i - k >= 0 && last[i - k] >= i; k++) {
      const o = (start[i - k] + k) * BLOCK;
      for (let c = 0; c < 3; c++) for (let d = 0; d < 3; d++) right[(i - k) * 3 + c] -= blocks[o + c * 3 + d] * values[at + d];
      blocks.fill(0, o, o + BLOCK);
    }
    const o = start[i] * BLOCK;
    blocks.fill(0, o, o + BLOCK);
    for (let c = 0; c < 3; c++) {
      blocks[o + c * 4] = 1;
      right[i * 3 + c] = values[at + c];
    }
  }

  /** The unknowns, 3 each; the system is used up by it. The matrix must be positive definite. */
  solve(): Float64Array {
    const { blocks, right, start, last, size } = this;
    for (let i = 0; i < size; i++) this.takeOut(i);
    for (let i = size - 1; i >= 0; i--) {
      let x = right[i * 3];
      let y = right[i * 3 + 1];
      let z = right[i * 3 + 2];
      let o = start[i] * BLOCK;
      for (let j = i + 1; j <= last[i]; j++) {
        o += BLOCK;
        const u = right[j * 3];
        const v = right[j * 3 + 1];
        const w = right[j * 3 + 2];
        x -= blocks[o] * u + blocks[o + 1] * v + blocks[o + 2] * w;
        y -= blocks[o + 3] * u + blocks[o + 4] * v + blocks[o + 5] * w;
        z -= blocks[o + 6] * u + blocks[o + 7] * v + blocks[o + 8] * w;
      }
      right[i * 3] = x;
      right[i * 3 + 1] = y;
      right[i * 3 + 2] = z;
    }
    if (blocks.length <= KEPT) spare = blocks;
    return right;
  }

  /** Takes an unknown out of the rows below it: from each what both have to do with each other, Aᵀ D⁻¹ A. */
  private takeOut(i: number): void {
    const { blocks, right, start, last, ahead } = this;
    const row = start[i] * BLOCK;
    const most = last[i] - i;
    // The inverse of the pivot, which is symmetric, by its cofactors.
    const a = blocks[row];
    const b = blocks[row + 1];
    const c = blocks[row + 2];
    const d = blocks[row + 4];
    const e = blocks[row + 5];
    const f = blocks[row + 8];
    const whole = 1 / (a * (d * f - e * e) + b * (c * e - b * f) + c * (b * e - c * d));
    const p = (d * f - e * e) * whole;
    const q = (c * e - b * f) * whole;
    const r = (b * e - c * d) * whole;
    const s = (a * f - c * c) * whole;
    const t = (b * c - a * e) * whole;
    const u = (a * d - b * b) * whole;
    for (let m = BLOCK; m <= most * BLOCK; m += BLOCK) {
      for (let n = 0; n < 3; n++) {
        const x = blocks[row + m + n];
        const y = blocks[row + m + n + 3];
        const z = blocks[row + m + n + 6];
        ahead[m + n] = p * x + q * y + r * z;
        ahead[m + n + 3] = q * x + s * y + t * z;
        ahead[m + n + 6] = r * x + t * y + u * z;
      }
    }
    const rx = right[i * 3];
    const ry = right[i * 3 + 1];
    const rz = right[i * 3 + 2];
    for (let k = 1; k <= most; k++) {
      const o = row + k * BLOCK;
      const a0 = blocks[o];
      const a1 = blocks[o + 1];
      const a2 = blocks[o + 2];
      const a3 = blocks[o + 3];
      const a4 = blocks[o + 4];
      const a5 = blocks[o + 5];
      const a6 = blocks[o + 6];
      const a7 = blocks[o + 7];
      const a8 = blocks[o + 8];
      let below = start[i + k] * BLOCK;
      for (let m = k * BLOCK; m <= most * BLOCK; m += BLOCK, below += BLOCK) {
        for (let n = 0; n < 3; n++) {
          const x = ahead[m + n];
          const y = ahead[m + n + 3];
          const z = ahead[m + n + 6];
          blocks[below + n] -= a0 * x + a3 * y + a6 * z;
          blocks[below + n + 3] -= a1 * x + a4 * y + a7 * z;
          blocks[below + n + 6] -= a2 * x + a5 * y + a8 * z;
        }
      }
      for (let n = 0; n < 3; n++) {
        right[(i + k) * 3 + n] -= ahead[k * BLOCK + n] * rx + ahead[k * BLOCK + n + 3] * ry + ahead[k * BLOCK + n + 6] * rz;
      }
      for (let n = 0; n < BLOCK; n++) blocks[o + n] = ahead[k * BLOCK + n];
    }
    right[i * 3] = p * rx + q * ry + r * rz;
    right[i * 3 + 1] = q * rx + s * ry + t * rz;
    right[i * 3 + 2] = r * rx + t * ry + u * rz;
  }
}
