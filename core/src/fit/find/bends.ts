import { square } from '../../math/numbers';
import { distance } from '../../math/vec';

/** A line of middles: 3 numbers a point, from one end of a limb to the other. */
export type Line = readonly (readonly [number, number, number])[];

/** Middles of neighbouring cuts err together: so many of them say as much as one. */
const AS_ONE = 6;

/**
 * Where a limb bends: the point of its line of middles at which two straight bones fit the line best, weighed against where bodies
 * have that joint. On a straight limb the second alone decides.
 * @param usual share of the limb's length, from its beginning
 * @param spread how far bodies are from that, as a deviation
 * @param grain how far middles are off, metres
 * @returns index of the point
 */
export function bendOf(line: Line, usual: number, spread: number, grain: number): number {
  const end = line.length - 1;
  const along = lengthsOf(line);
  let [best, least] = [1, Infinity];
  for (let k = 1; k < end; k++) {
    let misfit = 0;
    for (let i = 1; i < end; i++) misfit += i <= k ? offLine(line[i], line[0], line[k]) : offLine(line[i], line[k], line[end]);
    const cost = misfit / (square(grain) * AS_ONE) + square((along[k] / along[end] - usual) / spread);
    if (cost < least) [best, least] = [k, cost];
  }
  return best;
}

/** Length of a line up to each of its points. */
export function lengthsOf(line: Line): number[] {
  const out = [0];
  for (let i = 1; i < line.length; i++) out.push(out[i - 1] + distance(line[i - 1], 0, line[i], 0));
  return out;
}

/** The point of a line at a length along it. */
export function pointAlong(line: Line, along: readonly number[], length: number): [number, number, number] {
  let i = 1;
  while (i + 1 < line.length && along[i] < length) i++;
  const span = along[i] - along[i - 1];
  const t = span > 0 ? Math.min(1, Math.max(0, (length - along[i - 1]) / span)) : 0;
  const [a, b] = [line[i - 1], line[i]];
  return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])];
}

/** Square of the distance of a point from the line through two others. */
function offLine(p: Line[number], a: Line[number], b: Line[number]): number {
  const [x, y, z] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const [u, v, w] = [p[0] - a[0], p[1] - a[1], p[2] - a[2]];
  const n = x * x + y * y + z * z;
  const t = n > 0 ? (u * x + v * y + w * z) / n : 0;
  return square(u - t * x) + square(v - t * y) + square(w - t * z);
}

/** A line with points at about equal distances. */
export function evenly(line: Line, step: number): Line {
  const along = lengthsOf(line);
  const total = along[along.length - 1];
  const count = Math.max(4, Math.round(total / step));
  return Array.from({ length: count + 1 }, (_, i) => pointAlong(line, along, (i / count) * total));
}
