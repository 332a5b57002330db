/** Carrying a correction over the frames where nothing prescribes it. */
import { smootherstep } from '../math/filter';

/** Longest reach, in seconds, of a correction's speed beyond the frames that prescribe it. */
const SLOPE_REACH = 0.25;
/** Seconds in which a correction dies out where nothing follows it: about a step. */
const FADE = 0.7;

/**
 * Fills the frames between prescribed ones, in place, so that the whole is continuous with its first and second derivative: each
 * end's value and speed die out within a step, and where the next prescribed frame comes sooner the one value goes over into the
 * other. Before the first and behind the last prescribed frame the correction dies out likewise.
 * @param values `frames × stride`; frames with `given` 0 are written
 */
export function carryOver(values: Float64Array, stride: number, given: Uint8Array, frameTime: number): void {
  const frames = given.length;
  let before = -1;
  for (let f = 0; f <= frames; f++) {
    if (f < frames && !given[f]) continue;
    if (f - before > 1) fill(before, f);
    before = f;
  }

  function fill(a: number, b: number): void {
    const hasA = a >= 0;
    const hasB = b < frames;
    const gap = hasA && hasB ? b - a : Infinity;
    const width = Math.min(gap, FADE / frameTime);
    const reach = Math.min(SLOPE_REACH / frameTime, gap / 2);
    for (let c = 0; c < stride; c++) {
      const v0 = hasA ? values[a * stride + c] : 0;
      const v1 = hasB ? values[b * stride + c] : 0;
      // Speeds of the prescribed stretches where they meet the gap.
      const s0 = a >= 1 && given[a - 1] ? v0 - values[(a - 1) * stride + c] : 0;
      const s1 = b + 1 < frames && given[b + 1] ? values[(b + 1) * stride + c] - v1 : 0;
      for (let f = a + 1; f < b; f++) {
        let v = 0;
        if (hasA) v += v0 * (1 - smootherstep((f - a) / width)) + s0 * dying(f - a, reach);
        if (hasB) v += v1 * (1 - smootherstep((b - f) / width)) - s1 * dying(b - f, reach);
        values[f * stride + c] = v;
      }
    }
  }
}

/** t·(1 + 3t/T)(1 − t/T)³: slope 1 and no curvature at 0; value, slope and curvature 0 from T on. */
function dying(t: number, reach: number): number {
  if (t >= reach) return 0;
  const x = t / reach;
  const u = 1 - x;
  return t * (1 + 3 * x) * u * u * u;
}
