import { gaussian } from '../math/filter';

/** Beyond so many frames a bell is built of boxes: as good, and no slower the wider it is. */
const BROAD = 4;
const BOXES = 3;

/**
 * Smooths a series by a bell of some standard deviation, without delay, mirrored at its ends. A broad one is three running means in a row, which have
 * the same variance and nearly its shape (Wells 1986).
 * @param values frames × stride
 * @param sigma frames
 */
export function blurred(values: Float64Array, stride: number, sigma: number): Float64Array {
  if (sigma <= BROAD) return gaussian(values, stride, sigma);
  const frames = values.length / stride;
  const radius = Math.min(frames - 1, Math.round((Math.sqrt((12 * sigma * sigma) / BOXES + 1) - 1) / 2));
  let from = values;
  for (let pass = 0; pass < BOXES; pass++) from = meanOver(from, stride, radius);
  return from;
}

function meanOver(values: Float64Array, stride: number, radius: number): Float64Array {
  const last = values.length / stride - 1;
  const row = (f: number): number => stride * (f < 0 ? -f : f > last ? 2 * last - f : f);
  const out = new Float64Array(values.length);
  const sum = new Float64Array(stride);
  const add = (o: number, sign: number): void => {
    for (let c = 0; c < stride; c++) sum[c] += sign * values[o + c];
  };
  for (let f = -radius; f <= radius; f++) add(row(f), 1);
  const share = 1 / (2 * radius + 1);
  for (let f = 0; f <= last; f++) {
    const o = f * stride;
    for (let c = 0; c < stride; c++) out[o + c] = share * sum[c];
    add(row(f - radius), -1);
    add(row(f + radius + 1 > 2 * last ? last : f + radius + 1), 1);
  }
  return out;
}
