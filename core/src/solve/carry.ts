/** Carrying a correction over the frames where nothing prescribes it. */

/** Longest reach, in seconds, of a correction's speed beyond the frames that prescribe it. */
const SLOPE_REACH = 0.25;

/**
 * Fills the frames between prescribed ones, in place, so that the whole is continuous with its first derivative:
 * a smoothstep from the last value to the next, plus each end's speed dying out within a quarter of a second. Before the
 * first and behind the last prescribed frame the value is held once its speed has died out.
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
    if (a < 0 && b >= frames) {
      values.fill(0);
      return;
    }
    const from = Math.max(a + 1, 0);
    const to = Math.min(b, frames);
    const width = a < 0 || b >= frames ? to - from + 1 : b - a;
    const reach = Math.min(SLOPE_REACH / frameTime, a < 0 || b >= frames ? width : width / 2);
    for (let c = 0; c < stride; c++) {
      const v0 = a >= 0 ? values[a * stride + c] : 0;
      const v1 = b < frames ? values[b * stride + c] : 0;
      // Speeds of the prescribed stretches where they meet the gap.
      const s0 = a >= 1 && given[a - 1] ? v0 - values[(a - 1) * stride + c] : 0;
      const s1 = b + 1 < frames && given[b + 1] ? values[(b + 1) * stride + c] - v1 : 0;
      for (let f = from; f < to; f++) {
        let v: number;
        if (a < 0) v = v1;
        else if (b >= frames) v = v0;
        else {
          const t = (f - a) / width;
          v = v0 + (v1 - v0) * t * t * (3 - 2 * t);
        }
        if (a >= 0) v += s0 * dying(f - a, reach);
        if (b < frames) v -= s1 * dying(b - f, reach);
        values[f * stride + c] = v;
      }
    }
  }
}

/** t·(1 − t/T)²: slope 1 at 0, value and slope 0 from T on. */
function dying(t: number, reach: number): number {
  if (t >= reach) return 0;
  const u = 1 - t / reach;
  return t * u * u;
}
