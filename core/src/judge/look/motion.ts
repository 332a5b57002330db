import { invMul } from '../../math/quat';
import { square } from '../../math/numbers';

/** out = rotation of a joint seen from another, or in the world. */
export function relative(out: Float64Array, oo: number, rotations: Float64Array, joint: number, above: number): void {
  if (above < 0) for (let c = 0; c < 4; c++) out[oo + c] = rotations[joint * 4 + c];
  else invMul(out, oo, rotations, above * 4, rotations, joint * 4);
}

/** Angle between two near rotations, radians: the chord, which for steps from frame to frame is as good as the arc. */
export function stepOf(p: Float64Array, q: Float64Array, o: number): number {
  const d = Math.abs(p[o] * q[o] + p[o + 1] * q[o + 1] + p[o + 2] * q[o + 2] + p[o + 3] * q[o + 3]);
  return 2 * Math.sqrt(Math.max(0, 2 - 2 * d));
}

const STEP = new Float64Array(4);

/** How much a joint's spin has changed since the frame before, radians a frame; the spin is kept in `past`. */
export function spinJerk(p: Float64Array, q: Float64Array, o: number, past: Float64Array, at: number): number {
  invMul(STEP, 0, p, o, q, o);
  const k = STEP[3] < 0 ? -2 : 2;
  let sum = 0;
  for (let c = 0; c < 3; c++) {
    const spin = STEP[c] * k;
    sum += square(spin - past[at + c]);
    past[at + c] = spin;
  }
  return Math.sqrt(sum);
}

/** out = unit way from one joint's place to another's. */
export function direction(out: Float64Array, p: Float64Array, from: number, to: number): void {
  const x = p[to * 3] - p[from * 3];
  const y = p[to * 3 + 1] - p[from * 3 + 1];
  const z = p[to * 3 + 2] - p[from * 3 + 2];
  const n = Math.sqrt(x * x + y * y + z * z) || 1;
  out[0] = x / n;
  out[1] = y / n;
  out[2] = z / n;
}

/** The level axes of a body: to its left, up, and ahead, from its hip joints. */
export function bodyFrame(out: Float64Array, p: Float64Array, hips: readonly number[]): void {
  const left = hips[0];
  const right = hips[1];
  const x = p[left] - p[right];
  const z = p[left + 2] - p[right + 2];
  const n = Math.sqrt(x * x + z * z) || 1;
  out[0] = x / n;
  out[1] = 0;
  out[2] = z / n;
  out[6] = -z / n;
  out[7] = 0;
  out[8] = x / n;
}

/** Turns a way into a body's own axes, in place. */
export function inFrame(v: Float64Array, frame: Float64Array): void {
  const x = v[0] * frame[0] + v[2] * frame[2];
  const z = v[0] * frame[6] + v[2] * frame[8];
  v[0] = x;
  v[2] = z;
}
