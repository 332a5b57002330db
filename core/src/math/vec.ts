/** Vectors of three inside flat arrays, addressed by offset. Nothing here allocates but `vec`. */
import type { Numbers } from './quat';
import { acos, cos, sin } from './trig';

/** A new vector. */
export function vec(x = 0, y = 0, z = 0): Float64Array {
  return Float64Array.of(x, y, z);
}

/** out = a − b. */
export function sub(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number): void {
  out[oo] = a[ao] - b[bo];
  out[oo + 1] = a[ao + 1] - b[bo + 1];
  out[oo + 2] = a[ao + 2] - b[bo + 2];
}

/** out = a × b; out must be neither. */
export function cross(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number): void {
  const ax = a[ao],
    ay = a[ao + 1],
    az = a[ao + 2];
  const bx = b[bo],
    by = b[bo + 1],
    bz = b[bo + 2];
  out[oo] = ay * bz - az * by;
  out[oo + 1] = az * bx - ax * bz;
  out[oo + 2] = ax * by - ay * bx;
}

export function dot(a: Numbers, ao: number, b: Numbers, bo: number): number {
  return a[ao] * b[bo] + a[ao + 1] * b[bo + 1] + a[ao + 2] * b[bo + 2];
}

export function length(a: Numbers, ao: number): number {
  return Math.sqrt(a[ao] * a[ao] + a[ao + 1] * a[ao + 1] + a[ao + 2] * a[ao + 2]);
}

export function distance(a: ArrayLike<number>, ao: number, b: ArrayLike<number>, bo: number): number {
  const x = a[ao] - b[bo],
    y = a[ao + 1] - b[bo + 1],
    z = a[ao + 2] - b[bo + 2];
  return Math.sqrt(x * x + y * y + z * z);
}

/** Scales to unit length and returns the former length; a zero vector stays zero. */
export function normalize(a: Numbers, ao: number): number {
  const n = length(a, ao);
  if (n > 1e-12) {
    a[ao] /= n;
    a[ao + 1] /= n;
    a[ao + 2] /= n;
  }
  return n;
}

/** Angle between two directions in radians, 0 when either is zero. */
export function angleBetween(a: Numbers, ao: number, b: Numbers, bo: number): number {
  const n = length(a, ao) * length(b, bo);
  return n < 1e-18 ? 0 : acos(dot(a, ao, b, bo) / n);
}

/** Turns a vector about the vertical (+Y) to the left, seen from above: +Z towards +X. @param angle radians */
export function turnLeft(v: Numbers, o: number, angle: number): void {
  const c = cos(angle);
  const s = sin(angle);
  const x = v[o] * c + v[o + 2] * s;
  v[o + 2] = v[o + 2] * c - v[o] * s;
  v[o] = x;
}

/** Writes weight × abᵀ, row by row. */
export function outer(out: Float64Array, a: Float64Array, ao: number, b: Float64Array, bo: number, weight: number): void {
  for (let n = 0; n < 3; n++) {
    const part = weight * a[ao + n];
    for (let m = 0; m < 3; m++) out[n * 3 + m] = part * b[bo + m];
  }
}
