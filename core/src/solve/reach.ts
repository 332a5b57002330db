import { cos, DEG } from '../math/trig';
import type { FootPath } from './footPath';
import type { LimbTrack } from './limbTrack';

/** Cosine of the sharpest angle between the two bones of a folded limb, 15°: flesh is in the way, and a joint near it turns the more for each millimetre. */
const FOLDED = cos(15 * DEG);

/** Shortest distance that a limb of two bones folds to, metres. */
export function foldOf(upper: number, lower: number): number {
  return Math.sqrt(upper * upper + lower * lower - 2 * FOLDED * upper * lower);
}

/** out = the way from a leg's hip joint to where its ankle shall be. */
export function wayToTarget(out: Float64Array, { data, stride, at }: LimbTrack, { ankle }: FootPath, f: number): void {
  const o = f * stride;
  for (let c = 0; c < 3; c++) out[c] = ankle[f * 3 + c] - data[o + at.top + c];
}
