import type { LimbTrack } from '../limbTrack';
import { square } from '../../math/numbers';

/** Nothing of a body goes faster over the floor than this, metres a second: where it does the take jumps. */
const FASTEST = 20;
/** Nor does anything start and stop again from one frame to the next faster than this, metres a second squared. */
const HARDEST = 600;
/** What is elsewhere by less than this, metres, is a flick of the capture: curves that are bent over it take it in, while one that is not may go anywhere. */
const NEAREST = 0.05;
/** Speed before and behind a step is the mean over so many seconds: a capture that stands for a frame and catches up in the next does not jump. */
const AROUND = 0.05;

/** 1 in frames to which the take jumps: no curve is bent there. */
export function breaksOf(limbs: readonly LimbTrack[], frameTime: number): Uint8Array {
  const out = new Uint8Array(limbs[0].frames);
  const farthest = Math.max(NEAREST, FASTEST * frameTime);
  const hardest = Math.max(NEAREST, HARDEST * frameTime * frameTime);
  const around = Math.max(1, Math.round(AROUND / frameTime));
  for (const { data, stride, at, frames } of limbs) {
    for (let f = 1; f < frames; f++) {
      const [back, on] = [Math.min(around, f - 1), Math.min(around, frames - 1 - f)];
      for (const place of [at.top, at.end]) {
        let step = 0;
        let start = 0;
        let stop = 0;
        for (let c = 0; c < 3; c++) {
          const o = f * stride + place + c;
          const now = data[o] - data[o - stride];
          const before = back > 0 ? (data[o - stride] - data[o - (1 + back) * stride]) / back : 0;
          const after = on > 0 ? (data[o + on * stride] - data[o]) / on : 0;
          step += square(now);
          start += square(now - before);
          stop += square(after - now);
        }
        if (step > square(farthest) || Math.min(start, stop) > square(hardest)) out[f] = 1;
      }
    }
  }
  return out;
}
