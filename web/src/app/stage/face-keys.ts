import type { FaceWeights } from '@hollow-stride/core';

/** The weights of all shapes at a second of the clip: on straight lines between keys, held beyond them. */
export function weightsAt({ times, shapes, values }: FaceWeights, seconds: number): number[] {
  let [key, high] = [0, times.length - 1];
  while (key < high) {
    const middle = (key + high + 1) >> 1;
    if (times[middle] <= seconds) key = middle;
    else high = middle - 1;
  }
  const next = Math.min(key + 1, times.length - 1);
  const span = times[next] - times[key];
  const share = span > 0 ? Math.min(1, Math.max(0, (seconds - times[key]) / span)) : 0;
  return shapes.map((_, s) => values[key * shapes.length + s] * (1 - share) + values[next * shapes.length + s] * share);
}
