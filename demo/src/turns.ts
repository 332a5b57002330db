import { quat } from '@hollow-stride/core';
import type { V3 } from './vectors';

/** Rotations for the generator, in degrees. */
export type Turn = Float64Array;

const RAD = Math.PI / 180;

export function turn(axis: 'x' | 'y' | 'z', degrees: number): Turn {
  const q = new Float64Array(4);
  quat.fromAxisAngle(q, 0, axis === 'x' ? 1 : 0, axis === 'y' ? 1 : 0, axis === 'z' ? 1 : 0, degrees * RAD);
  return q;
}

/** Applies the last first, as in a product. */
export function compose(...turns: readonly Turn[]): Turn {
  const q = Float64Array.of(0, 0, 0, 1);
  for (const t of turns) quat.mul(q, 0, q, 0, t, 0);
  return q;
}

export function apply(q: Turn, v: V3): V3 {
  const out = Float64Array.from(v);
  quat.rotate(out, 0, q, 0, out, 0);
  return [out[0], out[1], out[2]];
}

/** The rotation that takes the frame (a, b) to the frame (c, d): a onto c exactly, b as near to d as that allows. */
export function frameTurn(a: V3, b: V3, c: V3, d: V3): Turn {
  const from = new Float64Array(4);
  const to = new Float64Array(4);
  quat.fromFrame(from, 0, Float64Array.from(a), 0, Float64Array.from(b), 0);
  quat.fromFrame(to, 0, Float64Array.from(c), 0, Float64Array.from(d), 0);
  const q = new Float64Array(4);
  quat.mulInv(q, 0, to, 0, from, 0);
  return q;
}

/** The shortest turn that takes one direction to another. */
export function arcBetween(a: V3, b: V3): Turn {
  const q = new Float64Array(4);
  quat.between(q, 0, Float64Array.from(a), 0, Float64Array.from(b), 0);
  return q;
}
