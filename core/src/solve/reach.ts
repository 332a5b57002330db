import type { FootPath } from './footPath';
import type { LimbTrack } from './limbTrack';

/** Shortest distance that a limb of two bones can fold to, with a margin: thigh and shin of unlike length never meet. */
export function foldOf(upper: number, lower: number): number {
  return Math.abs(upper - lower) * 1.02 + 2e-4 * (upper + lower);
}

/** out = the way from a leg's hip joint to where its ankle shall be. */
export function wayToTarget(out: Float64Array, { data, stride, at }: LimbTrack, { ankle }: FootPath, f: number): void {
  const o = f * stride;
  for (let c = 0; c < 3; c++) out[c] = ankle[f * 3 + c] - data[o + at.top + c];
}
