import { quat, type Turns } from '@hollow-stride/core';
import type { MatchBody } from '../body/messages';

/** The three planes in which two bodies are laid over each other. */
export const PLANES = ['front', 'side', 'top'] as const;
export type Plane = (typeof PLANES)[number];

/** A place in a plane: to the right and up, as drawn. */
export interface Spot {
  readonly x: number;
  readonly y: number;
}

/** The parts of a vector to the body's left, up and ahead. */
export function partsOf(v: readonly number[], { left, forward }: Pick<MatchBody, 'left' | 'forward'>): [number, number, number] {
  const dot = (a: readonly number[]): number => v[0] * a[0] + v[1] * a[1] + v[2] * a[2];
  return [dot(left), v[1], dot(forward)];
}

/**
 * A vector as a plane shows it. The front is seen from before the body, so its left is drawn right; the side from its left,
 * looking ahead is drawn left; the top from above, ahead is drawn up.
 */
export function project([left, up, ahead]: readonly [number, number, number], plane: Plane): Spot {
  if (plane === 'front') return { x: left, y: up };
  if (plane === 'side') return { x: -ahead, y: up };
  return { x: -left, y: ahead };
}

const DEGREES = Math.PI / 180;

/**
 * A turn by hand with a turn in a plane laid over it.
 * @param angle degrees, counter-clockwise as drawn
 */
export function turnInPlane(before: Turns[string] | undefined, plane: Plane, angle: number): Turns[string] {
  // About left, up and ahead: the axis that points at who looks on.
  const axis: [number, number, number] = plane === 'front' ? [0, 0, 1] : plane === 'side' ? [1, 0, 0] : [0, 1, 0];
  const a = new Float64Array(4);
  const b = new Float64Array(4);
  const v = axis.map((c) => c * angle * DEGREES);
  quat.exp(a, 0, v[0], v[1], v[2]);
  const [x, y, z] = (before ?? [0, 0, 0]).map((c) => c * DEGREES);
  quat.exp(b, 0, x, y, z);
  quat.mul(a, 0, a, 0, b, 0);
  const out = new Float64Array(3);
  quat.log(out, 0, a, 0);
  return [out[0] / DEGREES, out[1] / DEGREES, out[2] / DEGREES];
}
