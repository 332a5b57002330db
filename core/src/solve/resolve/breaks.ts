import type { LimbTrack } from '../limbTrack';

/** Nothing of a body goes faster over the floor than this, metres a second: where it does the take jumps. */
const FASTEST = 20;

/** 1 in frames to which the take jumps: no curve is bent there. */
export function breaksOf(legs: readonly LimbTrack[], frameTime: number): Uint8Array {
  const out = new Uint8Array(legs[0].frames);
  const most = FASTEST * frameTime * FASTEST * frameTime;
  for (const { data, stride, at, frames } of legs) {
    for (let f = 1; f < frames; f++) {
      for (const place of [at.top, at.end]) {
        let square = 0;
        for (let c = 0; c < 3; c++) {
          const step = data[f * stride + place + c] - data[(f - 1) * stride + place + c];
          square += step * step;
        }
        if (square > most) out[f] = 1;
      }
    }
  }
  return out;
}
