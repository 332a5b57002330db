/** The stretch of time over which a moment is judged: what is off for less is a flicker, seconds. */
const STRETCH = 0.25;

/** The quarter of a second in which a series is highest, in the mean. */
export interface Stretch {
  readonly value: number;
  /** Its middle frame; −1 for none. */
  readonly frame: number;
}

/** @param left 1 for frames that are left out: the take's known faults */
export function worstStretch(series: Float64Array, left: Uint8Array, frameTime: number): Stretch {
  const width = Math.max(1, Math.round(STRETCH / frameTime));
  let worst: Stretch = { value: -Infinity, frame: -1 };
  let sum = 0;
  let out = 0;
  for (let f = 0; f < series.length; f++) {
    sum += series[f];
    out += left[f];
    if (f >= width) {
      sum -= series[f - width];
      out -= left[f - width];
    }
    if (f < width - 1 || out > 0) continue;
    if (sum / width > worst.value) worst = { value: sum / width, frame: f - (width >> 1) };
  }
  return worst;
}
