/** Affine matrices of 4 × 4 as glTF has them: column by column, 16 numbers. */

/** a · b, column-major 4 × 4. */
export function multiply(a: ArrayLike<number>, b: ArrayLike<number>): Float64Array {
  const out = new Float64Array(16);
  for (let c = 0; c < 4; c++) {
    for (let r = 0; r < 4; r++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += a[k * 4 + r] * b[c * 4 + k];
      out[c * 4 + r] = sum;
    }
  }
  return out;
}

/** The inverse of an affine matrix, by its cofactors; all zeros where it has none. */
export function inverted(m: ArrayLike<number>): Float64Array {
  const out = new Float64Array(16);
  // Element of row r and column c of the part that turns and scales; rows and columns go round.
  const at = (r: number, c: number): number => m[(c % 3) * 4 + (r % 3)];
  const cofactor = (r: number, c: number): number => at(r + 1, c + 1) * at(r + 2, c + 2) - at(r + 1, c + 2) * at(r + 2, c + 1);
  const determinant = at(0, 0) * cofactor(0, 0) + at(0, 1) * cofactor(0, 1) + at(0, 2) * cofactor(0, 2);
  if (!(Math.abs(determinant) > 0)) return out;
  for (let r = 0; r < 3; r++) {
    for (let c = 0; c < 3; c++) {
      out[c * 4 + r] = cofactor(c, r) / determinant;
      out[12 + r] -= (cofactor(c, r) / determinant) * m[12 + c];
    }
  }
  out[15] = 1;
  return out;
}

/** The matrix of a place, a turn and one scale. @param q unit quaternion */
export function placeMatrix(q: ArrayLike<number>, at: ArrayLike<number>, scale = 1): Float64Array {
  const [x, y, z, w] = [q[0], q[1], q[2], q[3]];
  const turn = [
    ...[1 - 2 * (y * y + z * z), 2 * (x * y + w * z), 2 * (x * z - w * y), 0],
    ...[2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x), 0],
    ...[2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y), 0],
  ];
  return Float64Array.of(...turn.map((v) => v * scale), at[0], at[1], at[2], 1);
}
