import type { FootPath } from './footPath';
import type { LimbTrack } from './limbTrack';

/** Shortest distance that a leg can fold to, with a margin: thigh and shin of unlike length never meet. */
export function legFold({ data, stride, at }: LimbTrack, f: number): number {
  const o = f * stride;
  const upper = span(data, o + at.top, o + at.mid);
  const lower = span(data, o + at.mid, o + at.end);
  return Math.abs(upper - lower) * 1.02 + 2e-4 * (upper + lower);
}

function span(data: Float64Array, a: number, b: number): number {
  const x = data[a] - data[b],
    y = data[a + 1] - data[b + 1],
    z = data[a + 2] - data[b + 2];
  return Math.sqrt(x * x + y * y + z * z);
}

/** out = the way from a leg's hip joint to where its ankle shall be. */
export function wayToTarget(out: Float64Array, { data, stride, at }: LimbTrack, { ankle }: FootPath, f: number): void {
  const o = f * stride;
  for (let c = 0; c < 3; c++) out[c] = ankle[f * 3 + c] - data[o + at.top + c];
}
