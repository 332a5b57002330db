import { distance } from './vec';

/** Rounds in which the middle is found; each brings it nearer by a share, and by the last it is nearer than any capture's grain. */
const ROUNDS = 24;
/** Places no farther from the middle than this are at it, metres. */
const AT = 1e-7;

/**
 * The middle of some places: the point to which the sum of their distances is least. As long as more than half of them lie together it is
 * there, wherever the others are; and it turns with them, as a median of each coordinate does not (Weiszfeld 1937; Vardi and Zhang 2000).
 * @param places 3 numbers each
 * @param first of those looked at, every `step`-th, `count` of them
 */
export function middleOf(out: Float64Array, places: Float64Array, first: number, step: number, count: number): void {
  out.fill(0);
  for (let i = 0, o = first * 3; i < count; i++, o += step * 3) for (let c = 0; c < 3; c++) out[c] += places[o + c] / count;
  for (let round = 0; round < ROUNDS; round++) {
    let [x, y, z, sum] = [0, 0, 0, 0];
    for (let i = 0, o = first * 3; i < count; i++, o += step * 3) {
      const weight = 1 / Math.max(AT, distance(places, o, out, 0));
      x += weight * places[o];
      y += weight * places[o + 1];
      z += weight * places[o + 2];
      sum += weight;
    }
    if (sum === 0) return;
    const moved = Math.max(Math.abs(x / sum - out[0]), Math.abs(y / sum - out[1]), Math.abs(z / sum - out[2]));
    out[0] = x / sum;
    out[1] = y / sum;
    out[2] = z / sum;
    if (moved < AT) return;
  }
}
