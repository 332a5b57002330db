import { hermite } from '../math/filter';
import type { Layer, LayerKey } from '../recipe';
import { maskAt } from '../touchup';

/**
 * The three amounts of a track at a moment: a cubic through its keys with the slope that each key's tangent gives (a smooth one that of
 * the parabola through it and its neighbours, by differences of unlike steps), level before the first and behind the last.
 * @param keys in order of time
 * @param t the take's own second
 */
export function valueAt(out: Float64Array, keys: readonly LayerKey[], t: number): void {
  // The first key behind the moment.
  let next = 0;
  for (let high = keys.length; next < high;) {
    const middle = (next + high) >> 1;
    if (keys[middle].at <= t) next = middle + 1;
    else high = middle;
  }
  if (keys.length === 0) out.fill(0);
  else if (next === 0 || next === keys.length || keys[next - 1].tangent === 'step') out.set(keys[Math.max(0, next - 1)].value);
  else {
    const [a, b] = [keys[next - 1], keys[next]];
    const width = b.at - a.at;
    for (let c = 0; c < 3; c++) {
      const chord = (b.value[c] - a.value[c]) / width;
      out[c] = hermite(a.value[c], slopeOf(keys, next - 1, c, chord), b.value[c], slopeOf(keys, next, c, chord), width, (t - a.at) / width);
    }
  }
}

/** @param chord the straight way's slope on the side that is asked for */
function slopeOf(keys: readonly LayerKey[], i: number, c: number, chord: number): number {
  const { tangent, slope, at, value } = keys[i];
  if (slope) return slope[c];
  if (tangent === 'even') return chord;
  if (tangent === 'flat' || tangent === 'step' || i === 0 || i === keys.length - 1) return 0;
  const [before, after] = [keys[i - 1], keys[i + 1]];
  const [left, right] = [at - before.at, after.at - at];
  return ((value[c] - before.value[c]) * (right / left) + (after.value[c] - value[c]) * (left / right)) / (left + right);
}

/** How much of a layer there is in each frame: its strength inside its mask, 0 outside, with a soft edge that lies outside. */
export function weightsOf(
  { strength, mask }: Pick<Layer, 'strength' | 'mask'>,
  frames: number,
  timeOf: (frame: number) => number,
): Float64Array {
  return Float64Array.from({ length: frames }, (_, f) => strength * maskAt(mask, timeOf(f)));
}
