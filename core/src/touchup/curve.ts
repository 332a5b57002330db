import { smootherstep, smoothstep } from '../math/filter';
import type { TouchUp } from '../recipe';

/**
 * The amounts of a touch-up frame by frame: its keys or its constant, times its strength, inside its mask.
 * @param timeOf the take's own second of a frame
 */
export function curveOf(touchUp: TouchUp, frames: number, timeOf: (frame: number) => number): Float64Array {
  const { value, strength, ease, mask } = touchUp;
  const keys = [...touchUp.keys].sort((a, b) => a.at - b.at);
  const out = new Float64Array(frames);
  let next = 0;
  for (let f = 0; f < frames; f++) {
    const t = timeOf(f);
    while (next < keys.length && keys[next].at <= t) next++;
    out[f] = strength * maskAt(mask, t) * (keys.length === 0 ? value : between(next - 1, t));
  }
  return out;

  function between(at: number, t: number): number {
    if (at < 0) return keys[0].value;
    const a = keys[at];
    if (at + 1 >= keys.length || ease === 'step') return a.value;
    const b = keys[at + 1];
    const share = (t - a.at) / (b.at - a.at);
    return a.value + (b.value - a.value) * (ease === 'even' ? share : smootherstep(share));
  }
}

/** 1 inside a mask, 0 outside, with a soft edge that lies outside. */
function maskAt(mask: TouchUp['mask'], t: number): number {
  if (!mask) return 1;
  const away = Math.max(mask.from - t, t - mask.to, 0);
  return away === 0 ? 1 : mask.fade > 0 ? 1 - smoothstep(away / mask.fade) : 0;
}
