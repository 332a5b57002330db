import { smootherstep, smoothstep } from '../math/filter';
import type { TouchUp } from '../recipe';

/**
 * The amount of a touch-up at a moment, before strength and mask: its constant, or between its keys.
 * @param t the take's own second
 */
export function amountAt({ value, keys, ease }: Pick<TouchUp, 'value' | 'keys' | 'ease'>, t: number): number {
  if (keys.length === 0) return value;
  let low = 0;
  let high = keys.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (keys[middle].at <= t) low = middle + 1;
    else high = middle;
  }
  // `low` is the first key behind the moment.
  if (low === 0) return keys[0].value;
  const a = keys[low - 1];
  if (low === keys.length || ease === 'step') return a.value;
  const b = keys[low];
  const share = (t - a.at) / (b.at - a.at);
  return a.value + (b.value - a.value) * (ease === 'even' ? share : smootherstep(share));
}

/**
 * The amounts of a touch-up frame by frame: its keys or its constant, times its strength, inside its mask.
 * @param timeOf the take's own second of a frame
 */
export function curveOf(touchUp: TouchUp, frames: number, timeOf: (frame: number) => number): Float64Array {
  const sorted = { ...touchUp, keys: [...touchUp.keys].sort((a, b) => a.at - b.at) };
  const out = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const t = timeOf(f);
    out[f] = touchUp.strength * maskAt(touchUp.mask, t) * amountAt(sorted, t);
  }
  return out;
}

/** A frame's own second is a rounded one: so near to a mask, seconds, it is inside. */
const ROUNDED = 1e-6;

/** 1 inside a mask, 0 outside, with a soft edge that lies outside. @param t the take's own second */
export function maskAt(mask: TouchUp['mask'], t: number): number {
  if (!mask) return 1;
  const away = Math.max(mask.from - t, t - mask.to, 0);
  return away <= ROUNDED ? 1 : mask.fade > 0 ? 1 - smoothstep(away / mask.fade) : 0;
}
