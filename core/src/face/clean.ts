import type { FaceTrack } from '../formats';
import type { TakeFace } from '../recipe';
import { lowPassSection, zeroPhase } from '../take';
import { columnOf, fullOf, spikesOf } from './faults';

/**
 * A recording as a person set it: at its rate, holes bridged on straight lines, spikes taken out, smoothed; percents become
 * shares of 1.
 */
export function cleanFace(track: FaceTrack, { rate, spikes, smooth }: Pick<TakeFace, 'rate' | 'spikes' | 'smooth'>): FaceTrack {
  const { frames, channels } = track;
  const frameTime = rate === null ? track.frameTime : 1 / rate;
  const full = fullOf(track);
  const values = new Float32Array(track.values.length);
  const section = smooth === null ? undefined : lowPassSection(smooth, 1 / frameTime);
  const padding = smooth === null ? 0 : Math.ceil(3 / (smooth * frameTime));
  const scratch = new Float64Array(frames + 2 * Math.min(padding, frames - 1));
  for (let c = 0; c < channels.length; c++) {
    const column = columnOf(track, c);
    for (const f of spikes ? spikesOf(column, full) : []) column[f] = (column[f - 1] + column[f + 1]) / 2;
    bridge(column);
    if (section) zeroPhase(column, section, padding, scratch);
    for (let f = 0; f < frames; f++) values[f * channels.length + c] = column[f] / full;
  }
  return { ...track, frameTime, values };
}

/** Fills holes on straight lines; those at either end with the nearest value, a channel of nothing but holes with 0. */
function bridge(column: Float64Array): void {
  let last = -1;
  for (let f = 0; f < column.length; f++) {
    if (!Number.isFinite(column[f])) continue;
    const from = last < 0 ? column[f] : column[last];
    for (let g = last + 1; g < f; g++) column[g] = from + ((column[f] - from) * (g - last)) / (f - last);
    last = f;
  }
  column.fill(last < 0 ? 0 : column[last], last + 1);
}
