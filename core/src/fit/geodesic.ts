import type { Bone } from './bones';
import { neighboursOf, type Neighbour } from './cells';
import type { Voxels } from './voxels';

/** For each cell of a body the nearest joints by ways inside it. */
export interface Nearest {
  /** Number of each cell of the grid among those inside, −1 outside. */
  readonly inside: Int32Array;
  /** Joints of each inside cell, KEPT a cell, nearest first; −1 for none. */
  readonly joints: Int16Array;
  /** How far they are, in the thickness of each joint's own limb. */
  readonly ways: Float32Array;
}

/** Nearest joints that are kept for a cell: one more than move a point, so that evening out has a choice. */
export const KEPT = 5;

/**
 * The nearest joints of every cell by ways inside the body (Dijkstra over 26 neighbours, the way of each joint in units of its own
 * scale; a cell is passed on by the joints it keeps alone). Ways inside are what Dionne and de Lasa 2013 bind skins by.
 * @param scale metres that count as one, by joint
 * @param report called with the share that is done
 */
export function nearestJoints(
  voxels: Voxels,
  bones: readonly Bone[],
  scale: Float64Array,
  kept = KEPT,
  report: (share: number) => void = () => undefined,
): Nearest {
  const { size, depth, cell } = voxels;
  const boneCells = bones.map((bone) => cellsOf(voxels, bone));
  // A bone that leaves the body is in it all the same.
  for (const cells of boneCells) for (const at of cells) depth[at] = Math.max(1, depth[at]);
  const inside = new Int32Array(depth.length).fill(-1);
  const grid: number[] = [];
  for (let i = 0; i < depth.length; i++) if (depth[i] > 0) inside[i] = grid.push(i) - 1;
  const count = grid.length;
  const neighbours = neighboursOf(size);
  const [by, far] = [Int32Array.from(neighbours, (one) => one.by), Float64Array.from(neighbours, (one) => one.far)];
  const ahead = aheadOf(neighbours);
  const joints = new Int16Array(count * kept).fill(-1);
  const ways = new Float32Array(count * kept).fill(Infinity);
  /** Of each cell the farthest way that it keeps: an offer that is no shorter is none. */
  const most = new Float32Array(count).fill(Infinity);
  const isDone = new Uint8Array(count * kept);
  /** By which neighbour's step a way came. */
  const came = new Uint8Array(count * kept).fill(neighbours.length);
  const steps = Float64Array.from(scale, (metres) => cell / metres);
  // Buckets a good deal finer than the shortest step.
  const width = 0.5 * steps.reduce((least, step) => Math.min(least, step), Infinity);
  const buckets: (number[] | undefined)[] = [];
  /** A way that is shorter than the farthest that a cell keeps. */
  const offer = (to: number, joint: number, way: number, step: number): void => {
    const first = to * kept;
    let worst = first;
    for (let k = first; k < first + kept; k++) {
      if (joints[k] === joint) {
        if (ways[k] <= way || isDone[k]) return;
        worst = k;
        break;
      }
      if (ways[k] > ways[worst]) worst = k;
    }
    if (isDone[worst] || ways[worst] <= way) return;
    joints[worst] = joint;
    ways[worst] = way;
    came[worst] = step;
    let farthest = 0;
    for (let k = first; k < first + kept; k++) if (ways[k] > farthest) farthest = ways[k];
    most[to] = farthest;
    (buckets[Math.floor(way / width)] ??= []).push(worst);
  };
  bones.forEach(({ joint }, b) => {
    for (const at of boneCells[b]) offer(inside[at], joint, 0, neighbours.length);
  });
  let settled = 0;
  for (let b = 0; b < buckets.length; b++) {
    const bucket = buckets[b];
    if (!bucket) continue;
    buckets[b] = undefined;
    for (const slot of bucket) {
      if (isDone[slot] || Math.floor(ways[slot] / width) !== b) continue;
      isDone[slot] = 1;
      if (++settled % 100_000 === 0) report(settled / (count * kept));
      const joint = joints[slot];
      const at = grid[Math.floor(slot / kept)];
      const step = steps[joint];
      const way = ways[slot];
      const goesOn = ahead[came[slot]];
      for (let i = 0; i < goesOn.length; i++) {
        const n = goesOn[i];
        const next = inside[at + by[n]];
        // Rounded as it is kept: equal ways by other cells are no shorter.
        const there = Math.fround(way + far[n] * step);
        if (next >= 0 && most[next] > there) offer(next, joint, there, n);
      }
    }
  }
  return { inside, joints, ways };
}

/**
 * By the step that a way came by, the steps by which it can go on: what is next to the cell that it came from was offered a way from there that is
 * no longer. Last, all steps, for a way that begins.
 */
function aheadOf(steps: readonly Neighbour[]): Uint8Array[] {
  const all = steps.map((_, n) => n);
  return [
    ...steps.map(({ cells }) => Uint8Array.from(all.filter((n) => steps[n].cells.some((x, c) => Math.abs(x + cells[c]) > 1)))),
    Uint8Array.from(all),
  ];
}

/** Cells that a bone goes through. */
function cellsOf({ origin, cell, size }: Voxels, { from, to }: Bone): Set<number> {
  const far = Math.sqrt([0, 1, 2].reduce((sum, c) => sum + (to[c] - from[c]) * (to[c] - from[c]), 0));
  const count = Math.max(1, Math.ceil((2 * far) / cell));
  const cells = new Set<number>();
  for (let i = 0; i <= count; i++) {
    let at = 0;
    let step = 1;
    for (let c = 0; c < 3; c++) {
      const index = Math.floor((from[c] + (i / count) * (to[c] - from[c]) - origin[c]) / cell);
      // The outermost cells stay empty, so that a neighbour is always in the grid.
      at += step * Math.min(size[c] - 2, Math.max(1, index));
      step *= size[c];
    }
    cells.add(at);
  }
  return cells;
}
