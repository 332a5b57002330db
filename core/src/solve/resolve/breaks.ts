import type { LimbTrack } from '../limbTrack';
import { square } from '../../math/numbers';

/** Nothing of a body goes faster over the floor than this, metres a second: where it does the take jumps. */
const FASTEST = 20;
/** Nor does anything start and stop again from one frame to the next faster than this, metres a second squared. */
const HARDEST = 600;

/** 1 in frames to which the take jumps: no curve is bent there. */
export function breaksOf(legs: readonly LimbTrack[], frameTime: number): Uint8Array {
  const out = new Uint8Array(legs[0].frames);
  const farthest = FASTEST * frameTime;
  const hardest = HARDEST * frameTime * frameTime;
  for (const { data, stride, at, frames } of legs) {
    for (let f = 1; f < frames; f++) {
      for (const place of [at.top, at.end]) {
        let step = 0;
        let start = 0;
        let stop = 0;
        for (let c = 0; c < 3; c++) {
          const o = f * stride + place + c;
          const now = data[o] - data[o - stride];
          const before = f > 1 ? data[o - stride] - data[o - 2 * stride] : 0;
          const after = f + 1 < frames ? data[o + stride] - data[o] : 0;
          step += now * now;
          start += square(now - before);
          stop += square(after - now);
        }
        if (step > farthest * farthest || Math.min(start, stop) > hardest * hardest) out[f] = 1;
      }
    }
  }
  return out;
}
