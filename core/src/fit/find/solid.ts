import { neighboursOf } from '../cells';
import type { Voxels } from '../voxels';

/** Cells of a body in which its two sides are one: the left half, with what is there on both sides. */
export interface Solid {
  readonly voxels: Voxels;
  /** Cells between the first and the middle of the body, in halves: mirrored, cell x is cell `twice - x`. */
  readonly twice: number;
  /** The middle of the body, metres. */
  readonly middle: number;
  /** As `Voxels.depth`, both sides joined: only what both have. */
  readonly depth: Uint8Array;
  /** Share of the body that both sides have. */
  readonly likeness: number;
}

/** Finds the plane that parts a body in like halves, and joins them. */
export function solidOf(voxels: Voxels): Solid {
  const { size, depth, origin, cell } = voxels;
  const [nx, ny, nz] = size;
  // By rows: how much of each row of cells across is filled, seen from the front.
  const seen = new Float64Array(nx * ny);
  for (let z = 0, i = 0; z < nz; z++) for (let k = 0; k < nx * ny; k++, i++) if (depth[i] > 0) seen[k]++;
  let [twice, best] = [nx - 1, -1];
  for (let t = Math.floor(nx * 0.5); t < nx * 1.5; t++) {
    let sum = 0;
    for (let y = 0; y < ny; y++) {
      for (let x = Math.max(0, t - nx + 1); x <= t && x < nx; x++) sum += Math.min(seen[y * nx + x], seen[y * nx + t - x]);
    }
    if (sum > best) [twice, best] = [t, sum];
  }
  const joined = new Uint8Array(depth.length);
  let [both, all] = [0, 0];
  for (let i = 0; i < depth.length; i++) {
    const x = i % nx;
    const other = twice - x;
    const mirrored = other >= 0 && other < nx ? depth[i - x + other] : 0;
    joined[i] = Math.min(depth[i], mirrored);
    if (depth[i] > 0) all++;
    if (joined[i] > 0) both++;
  }
  return { voxels, twice, middle: origin[0] + (twice / 2 + 0.5) * cell, depth: joined, likeness: both / Math.max(1, all) };
}

/** A solid whose left half is one side of the body as it is; the right half is what that mirrors. */
export function oneSided(solid: Solid, side: 'left' | 'right'): Solid {
  const { voxels, twice } = solid;
  const [nx] = voxels.size;
  const depth = new Uint8Array(voxels.depth.length);
  for (let i = 0; i < depth.length; i++) {
    const x = i % nx;
    // Left is towards +X.
    const from = x * 2 >= twice === (side === 'left') ? x : twice - x;
    if (from >= 0 && from < nx) depth[i] = voxels.depth[i - x + from];
  }
  return { ...solid, depth };
}

/** The middle of a cell along an axis, metres. */
export function middleOf({ origin, cell }: Voxels, axis: number, index: number): number {
  return origin[axis] + (index + 0.5) * cell;
}

/** For each cell about how many cells it lies inside, 1 at the surface (chamfer distances, Borgefors 1986); 0 outside. */
export function inwards({ voxels, depth }: Solid): Float32Array {
  const [nx, ny, nz] = voxels.size;
  const out = new Float32Array(depth.length);
  // Typed, for a pass over millions of cells.
  const before = neighboursOf(voxels.size).slice(0, 13);
  const by = Int32Array.from(before, (one) => one.by);
  const far = Float64Array.from(before, (one) => one.far);
  const most = nx + ny + nz;
  const first = nx * ny + nx + 1;
  for (let i = first; i < out.length - first; i++) {
    if (depth[i] === 0) continue;
    let least = most;
    for (let k = 0; k < by.length; k++) {
      const way = out[i + by[k]] + far[k];
      if (way < least) least = way;
    }
    out[i] = least;
  }
  for (let i = out.length - first - 1; i >= first; i--) {
    let least = out[i];
    if (least === 0) continue;
    for (let k = 0; k < by.length; k++) {
      const way = out[i - by[k]] + far[k];
      if (way < least) least = way;
    }
    out[i] = least;
  }
  return out;
}
