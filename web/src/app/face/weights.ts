import type { FaceWeights } from '@hollow-stride/core';

/** The weights of all shapes at a second of the clip. */
export function weightsAt({ times, shapes, values }: FaceWeights, seconds: number): number[] {
  let key = 0;
  while (key + 2 < times.length && times[key + 1] <= seconds) key++;
  const next = Math.min(key + 1, times.length - 1);
  const span = times[next] - times[key];
  const share = span > 0 ? Math.min(1, Math.max(0, (seconds - times[key]) / span)) : 0;
  return shapes.map((_, s) => values[key * shapes.length + s] * (1 - share) + values[next * shapes.length + s] * share);
}
