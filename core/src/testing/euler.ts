/** Euler angles for test files: X first, then Y, then Z about fixed axes, in degrees. */
import { fromAxisAngle, invMul, mul } from '../math/quat';
import type { Random } from '../math/random';

const RAD = Math.PI / 180;

/** Axes drawn at random, as angles and as a rotation. */
export function randomAxes(rng: Random): { degrees: number[]; q: Float64Array } {
  const degrees = [rng.range(-80, 80), rng.range(-80, 80), rng.range(-80, 80)].map((d) => Math.round(d * 1000) / 1000);
  const q = Float64Array.of(0, 0, 0, 1);
  const turn = new Float64Array(4);
  degrees.forEach((d, i) => {
    fromAxisAngle(turn, 0, i === 0 ? 1 : 0, i === 1 ? 1 : 0, i === 2 ? 1 : 0, d * RAD);
    mul(q, 0, turn, 0, q, 0);
  });
  return { degrees, q };
}

/** C⁻¹·q·C: a turn as seen from axes C. */
export function conjugateBy(q: Float64Array, axes: Float64Array): Float64Array {
  const out = new Float64Array(4);
  invMul(out, 0, axes, 0, q, 0);
  mul(out, 0, out, 0, axes, 0);
  return out;
}

/** The angles of a rotation R = Rz·Ry·Rx. */
export function eulerXyz([x, y, z, w]: ArrayLike<number> & Iterable<number>): number[] {
  const sinY = Math.max(-1, Math.min(1, 2 * (w * y - x * z)));
  return [
    Math.atan2(2 * (w * x + y * z), 1 - 2 * (x * x + y * y)) / RAD,
    Math.asin(sinY) / RAD,
    Math.atan2(2 * (w * z + x * y), 1 - 2 * (y * y + z * z)) / RAD,
  ];
}
