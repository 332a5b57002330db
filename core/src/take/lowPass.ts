import { cos, PI, sin } from '../math/trig';

/** Coefficients of a second-order section: y = b0·x + b1·x₁ + b2·x₂ − a1·y₁ − a2·y₂. */
export interface Section {
  readonly b0: number;
  readonly b1: number;
  readonly b2: number;
  readonly a1: number;
  readonly a2: number;
}

/**
 * A second-order Butterworth low-pass by the bilinear transform, its cut-off moved so that two passes together are 3 dB
 * down at the frequency asked for (Winter, Biomechanics and Motor Control of Human Movement, section 2.2.4.4).
 * @param cutoff Hz
 * @param rate frames per second
 * @returns undefined where the cut-off is at or above half the rate and nothing is to be filtered
 */
export function lowPassSection(cutoff: number, rate: number): Section | undefined {
  const corrected = cutoff / 0.802;
  if (!(corrected < 0.499 * rate)) return undefined;
  const angle = (PI * corrected) / rate;
  const k = sin(angle) / cos(angle);
  const norm = 1 / (1 + Math.SQRT2 * k + k * k);
  const b0 = k * k * norm;
  return { b0, b1: 2 * b0, b2: b0, a1: 2 * (k * k - 1) * norm, a2: (1 - Math.SQRT2 * k + k * k) * norm };
}

/**
 * Filters one channel forwards and backwards, so that nothing is shifted in time; the ends are continued by point
 * reflection, so that a series that starts with a slope keeps it. Works in place.
 * @param scratch at least `length + 2 · padding` numbers, `padding = min(length − 1, 3 periods)`
 */
export function zeroPhase(values: Float64Array, { b0, b1, b2, a1, a2 }: Section, padding: number, scratch: Float64Array): void {
  const n = values.length;
  const pad = Math.min(padding, n - 1);
  const total = n + 2 * pad;
  for (let i = 0; i < pad; i++) {
    scratch[i] = 2 * values[0] - values[pad - i];
    scratch[pad + n + i] = 2 * values[n - 1] - values[n - 2 - i];
  }
  for (let i = 0; i < n; i++) scratch[pad + i] = values[i];
  for (let pass = 0; pass < 2; pass++) {
    const start = pass === 0 ? 0 : total - 1;
    const step = pass === 0 ? 1 : -1;
    // As if the series had stood at its first value for ever.
    let x1 = scratch[start];
    let x2 = x1;
    let y1 = x1;
    let y2 = x1;
    for (let k = 0, i = start; k < total; k++, i += step) {
      const x = scratch[i];
      const y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
      x2 = x1;
      x1 = x;
      y2 = y1;
      y1 = y;
      scratch[i] = y;
    }
  }
  for (let i = 0; i < n; i++) values[i] = scratch[pad + i];
}
