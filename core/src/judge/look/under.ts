import { percentile } from '../../math/filter';
import type { Standing } from './holding';
import type { Look } from './look';

/** Height of the floor under the performer: where the lowest of its feet's rests are; the lowest it comes where none rests. */
export function floorUnder(seen: Look, rests: readonly Standing[]): number {
  const count = seen.points.length;
  const feet = rests.filter(({ kind }) => kind === 'feet');
  if (feet.length > 0) {
    return percentile(
      feet.map(({ theirs }) => theirs[1]),
      0.1,
    );
  }
  const lowest = new Float64Array(seen.frames).fill(Infinity);
  seen.points.forEach(({ kind }, i) => {
    if (kind === 'feet') for (let f = 0; f < seen.frames; f++) lowest[f] = Math.min(lowest[f], seen.theirs[(f * count + i) * 3 + 1]);
  });
  return percentile(lowest, 0.03);
}
