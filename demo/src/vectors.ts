/** Small vector helpers for the generator, where clearness counts and speed does not. */
export type V3 = readonly [number, number, number];

export const add = (a: V3, b: V3): V3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scale = (a: V3, s: number): V3 => [a[0] * s, a[1] * s, a[2] * s];
export const dot = (a: V3, b: V3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const length = (a: V3): number => Math.sqrt(dot(a, a));
export const unit = (a: V3): V3 => {
  const n = length(a);
  return n < 1e-12 ? [0, 1, 0] : scale(a, 1 / n);
};
export const mix = (a: V3, b: V3, t: number): V3 => add(scale(a, 1 - t), scale(b, t));
/** A unit vector square to a direction, the nearer to `hint` the better. */
export const square = (axis: V3, hint: V3): V3 => {
  const s = sub(hint, scale(axis, dot(hint, axis)));
  return length(s) < 1e-6 ? unit(cross(axis, [0.3, 0.9, 0.2])) : unit(s);
};
