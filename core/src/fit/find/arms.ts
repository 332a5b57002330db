import { percentile } from '../../math/filter';
import { square } from '../../math/numbers';
import { distance } from '../../math/vec';
import { neighboursOf } from '../cells';
import { inwards, middleOf, type Solid } from './solid';
import type { Leg } from './legs';
import type { Line } from './bends';

/** The left arm as a line of middles from the fingertips to the shoulder, and how thick it is at each. */
export interface Arm {
  readonly line: Line;
  /** Area of the section at each point, square metres. */
  readonly areas: readonly number[];
  readonly fingertip: readonly [number, number, number];
}

/** Thickness of a layer of cells at the same distance from the fingertips, in cells. */
const LAYER = 2;
/** Where a section is so many times as large as the arm's middle one, the trunk has begun. */
const TRUNK = 2.6;
/** An arm is at least so long, share of the height. */
const SHORTEST = 0.18;
/** Fingertips are at least so far from the middle, share of the height. */
const ASIDE = 0.07;

/**
 * Follows the left arm: its fingertips are the point of the left half that is farthest from the breast by ways inside the body, legs and
 * head left out; from there layers of cells at equal distance are the arm's sections, until the trunk makes them large.
 * @param breast height of the breast, metres
 * @param ceiling height above which nothing is an arm's end
 */
export function followArm(solid: Solid, leg: Leg, breast: number, height: number, ceiling: number): Arm | undefined {
  const { voxels, twice, depth } = solid;
  const [nx, ny, nz] = voxels.size;
  const plane = nx * ny;
  const open = new Uint8Array(depth.length);
  for (let i = 0; i < depth.length; i++) if (depth[i] > 0) open[i] = 1;
  for (const { row, cells } of leg.cuts) {
    for (const cell of cells) open[Math.floor(cell / nx) * plane + row * nx + (cell % nx)] = 0;
  }
  const row = Math.round((breast - voxels.origin[1]) / voxels.cell - 0.5);
  // A breast may be hollow: the filled cells of the row that are nearest to the middle.
  const starts: number[] = [];
  for (let x = twice >> 1; x < nx && starts.length === 0; x++) {
    for (let z = 0; z < nz; z++) if (open[z * plane + row * nx + x]) starts.push(z * plane + row * nx + x);
  }
  if (starts.length === 0) return undefined;
  const fromBreast = walk(solid, open, [starts[starts.length >> 1]]);
  // Hems and tails are far from the breast, too, but not so far aside.
  let [tip, best] = [-1, 0];
  const aside = twice / 2 + (ASIDE * height) / voxels.cell;
  const roof = Math.floor((ceiling - voxels.origin[1]) / voxels.cell);
  for (let i = 0; i < depth.length; i++) {
    const x = i % nx;
    if (fromBreast[i] <= 0 || x <= aside || Math.floor(i / nx) % ny >= roof) continue;
    const score = fromBreast[i] * (x - twice / 2);
    if (score > best) [tip, best] = [i, score];
  }
  if (tip < 0) return undefined;
  const fromTip = walk(solid, open, [tip]);
  const thick = inwards(solid);
  const layers: { count: number; weight: number; sum: [number, number, number] }[] = [];
  for (let i = 0; i < fromTip.length; i++) {
    if (fromTip[i] < 0) continue;
    const k = Math.floor(fromTip[i] / LAYER);
    while (layers.length <= k) layers.push({ count: 0, weight: 0, sum: [0, 0, 0] });
    const layer = layers[k];
    // The middle is where the limb is thick: sleeves that hang down, and feathers, are thin.
    const weight = square(thick[i]);
    layer.count++;
    layer.weight += weight;
    layer.sum[0] += weight * (i % nx);
    layer.sum[1] += weight * (Math.floor(i / nx) % ny);
    layer.sum[2] += weight * Math.floor(i / plane);
  }
  const line: [number, number, number][] = [];
  const areas: number[] = [];
  const { cell } = voxels;
  const shortest = SHORTEST * height;
  for (const { count, weight, sum } of layers) {
    if (count === 0) break;
    const area = (count / LAYER) * cell * cell;
    const point = [0, 1, 2].map((c) => middleOf(voxels, c, sum[c] / weight)) as [number, number, number];
    if (line.length > 2 && distance(line[0], 0, point, 0) > shortest && area > TRUNK * percentile(areas.slice(areas.length >> 1), 0.5))
      break;
    line.push(point);
    areas.push(area);
  }
  smooth(line, areas);
  const places = [tip % nx, Math.floor(tip / nx) % ny, Math.floor(tip / plane)];
  return { line, areas, fingertip: places.map((index, c) => middleOf(voxels, c, index)) as [number, number, number] };
}

/** Evens out a line of middles; thin layers, a thumb's end among them, count little. */
function smooth(line: [number, number, number][], areas: readonly number[]): void {
  const given = line.map((point) => [...point]);
  for (let i = 1; i + 1 < line.length; i++) {
    const weights = [areas[i - 1], 2 * areas[i], areas[i + 1]];
    const sum = weights[0] + weights[1] + weights[2];
    for (let c = 0; c < 3; c++) line[i][c] = (weights[0] * given[i - 1][c] + weights[1] * given[i][c] + weights[2] * given[i + 1][c]) / sum;
  }
}

/** Distances in cells from some cells by ways through open ones (Dijkstra over 26 neighbours with buckets); −1 where none leads. */
function walk({ voxels }: Solid, open: Uint8Array, starts: readonly number[]): Float32Array {
  const out = new Float32Array(open.length).fill(-1);
  const neighbours = neighboursOf(voxels.size);
  // Buckets of half a cell: no step is shorter than that.
  const buckets: number[][] = [[...starts]];
  const done = new Uint8Array(open.length);
  for (const start of starts) out[start] = 0;
  for (let b = 0; b < buckets.length; b++) {
    const bucket = buckets[b] as number[] | undefined;
    if (!bucket) continue;
    for (const at of bucket) {
      if (done[at]) continue;
      done[at] = 1;
      for (const { by, far } of neighbours) {
        const next = at + by;
        if (!open[next] || done[next]) continue;
        const way = out[at] + far;
        if (out[next] >= 0 && out[next] <= way) continue;
        out[next] = way;
        (buckets[Math.floor(way * 2)] ??= []).push(next);
      }
    }
  }
  return out;
}
