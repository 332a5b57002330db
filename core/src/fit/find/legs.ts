import { middleOf, type Solid } from './solid';

/** A level cut through one leg. */
export interface LegCut {
  /** Row of cells. */
  readonly row: number;
  readonly y: number;
  readonly x: number;
  readonly z: number;
  readonly back: number;
  readonly front: number;
  /** Cells that are farthest back and ahead. */
  readonly rear: number;
  readonly fore: number;
  /** Half the width across. */
  readonly half: number;
  readonly cells: readonly number[];
}

/** The left leg, cut by cut from the floor up, and how it ends. */
export interface Leg {
  readonly cuts: readonly LegCut[];
  /** It goes on inside other clothes, up to its own end; else it ends where the legs meet. */
  readonly isOwn: boolean;
}

/**
 * Follows the left leg from the floor up, as long as it is apart from the other: as long as cells beside the middle lie deeper in shells
 * than those in the middle. So a leg is followed under a coat, too.
 */
export function followLeg(solid: Solid): Leg {
  const [, ny] = solid.voxels.size;
  const cuts: LegCut[] = [];
  let isOwn = false;
  for (let row = 0; row < ny; row++) {
    const before = cuts.at(-1);
    // The hem of a coat, or a strap, lies across one row and another.
    if (before && row - before.row > Math.max(2, ny * HEM)) break;
    const { depth, cells } = apartAt(solid, row, before);
    if (cells.length === 0) continue;
    isOwn = depth > 1;
    cuts.push(cutOf(solid, row, cells));
  }
  return { cuts, isOwn };
}

/** Height of a hem, share of the body's. */
const HEM = 0.025;

/** Cells of a row, on the left, that lie deeper than the middle and hang together with those of the row below. */
function apartAt({ voxels, twice, depth }: Solid, row: number, last: LegCut | undefined): { depth: number; cells: number[] } {
  const [nx, , nz] = voxels.size;
  const base = row * nx;
  const plane = nx * voxels.size[1];
  const centre = twice >> 1;
  const before = last && new Set(last.cells);
  // Most of what is between the legs, ahead and behind: thighs that touch have air before and behind where they do.
  const between: number[] = [];
  for (let z = last?.rear ?? 0; z <= (last?.fore ?? nz - 1); z++) {
    between.push(Math.min(depth[z * plane + base + centre], depth[z * plane + base + twice - centre]));
  }
  between.sort((a, b) => a - b);
  const middle = last ? between[between.length >> 1] : 0;
  const isApart = (cell: number): boolean => depth[(cell - (cell % nx)) * voxels.size[1] + base + (cell % nx)] > middle;
  // A cell of a row is z · nx + x.
  const seen = new Set<number>();
  let best: number[] = [];
  for (let z = 0; z < nz; z++) {
    for (let x = centre + 1; x < nx; x++) {
      const start = z * nx + x;
      if (seen.has(start) || !isApart(start)) continue;
      const found = [start];
      seen.add(start);
      for (let k = 0; k < found.length; k++) {
        const cell = found[k];
        for (const next of [cell - 1, cell + 1, cell - nx, cell + nx]) {
          if (next < 0 || next >= nx * nz || next % nx <= centre || seen.has(next) || !isApart(next)) continue;
          seen.add(next);
          found.push(next);
        }
      }
      if (before && !found.some((cell) => before.has(cell))) continue;
      if (found.length > best.length) best = found;
    }
  }
  return { depth: middle + (best.length > 0 ? 1 : 0), cells: best };
}

function cutOf({ voxels }: Solid, row: number, cells: readonly number[]): LegCut {
  const [nx] = voxels.size;
  let [x, z, left, right, back, front] = [0, 0, Infinity, -Infinity, Infinity, -Infinity];
  for (const cell of cells) {
    const [cx, cz] = [cell % nx, Math.floor(cell / nx)];
    x += cx / cells.length;
    z += cz / cells.length;
    left = Math.min(left, cx);
    right = Math.max(right, cx);
    back = Math.min(back, cz);
    front = Math.max(front, cz);
  }
  const { cell } = voxels;
  return {
    row,
    y: middleOf(voxels, 1, row),
    x: middleOf(voxels, 0, x),
    z: middleOf(voxels, 2, z),
    rear: back,
    fore: front,
    back: middleOf(voxels, 2, back),
    front: middleOf(voxels, 2, front),
    half: ((right - left + 1) * cell) / 2,
    cells,
  };
}
