import { smootherstep } from '../math/filter';
import { exp } from '../math/trig';

/** How many frames each frame is away from the nearest held one. */
export function framesToHeld(held: Uint8Array): Float64Array {
  const frames = held.length;
  const out = new Float64Array(frames);
  let last = -1e9;
  for (let f = 0; f < frames; f++) {
    if (held[f]) last = f;
    out[f] = f - last;
  }
  last = 1e9;
  for (let f = frames - 1; f >= 0; f--) {
    if (held[f]) last = f;
    out[f] = Math.min(out[f], last - f);
  }
  return out;
}

/** Numbers that say how near a frame is to held ones: 1 there, 0 from so many frames on. */
export function nearHeld(held: Uint8Array, width: number): Float64Array {
  return framesToHeld(held).map((distance) => 1 - smootherstep(distance / width));
}

/**
 * Marks frames in which changes are felt that die out with the distance as e to the power of −frames / length.
 * @param changes sizes, one a frame
 * @param least what is smaller is not felt
 */
export function feltIn(changes: Float64Array, least: number, length: number): Uint8Array {
  const frames = changes.length;
  const out = new Uint8Array(frames);
  const fades = exp(-1 / length);
  let size = 0;
  for (let f = 0; f < frames; f++) {
    size = Math.max(size * fades, changes[f]);
    if (size > least) out[f] = 1;
  }
  size = 0;
  for (let f = frames - 1; f >= 0; f--) {
    size = Math.max(size * fades, changes[f]);
    if (size > least) out[f] = 1;
  }
  return out;
}
