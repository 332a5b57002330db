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

/** The middle of a cell along an axis, metres. */
export function middleOf({ origin, cell }: Voxels, axis: number, index: number): number {
  return origin[axis] + (index + 0.5) * cell;
}

/** For each cell about how many cells it lies inside, 1 at the surface (chamfer distances, Borgefors 1986); 0 outside. */
export function inwards({ voxels, depth }: Solid): Float32Array {
  const [nx, ny, nz] = voxels.size;
  const out = new Float32Array(depth.length);
  // Neighbours that come before a cell in the order of the cells, and how far they are.
  const before: [by: number, far: number][] = [];
  for (let z = -1; z <= 0; z++) {
    for (let y = -1; y <= 1; y++) {
      for (let x = -1; x <= 1; x++) {
        const by = (z * ny + y) * nx + x;
        if (by < 0) before.push([by, Math.sqrt(x * x + y * y + z * z)]);
      }
    }
  }
  const far = nx + ny + nz;
  for (let i = 0; i < out.length; i++) {
    if (depth[i] === 0) continue;
    let least = far;
    for (const [by, step] of before) least = Math.min(least, (out[i + by] ?? 0) + step);
    out[i] = least;
  }
  for (let i = out.length - 1; i >= 0; i--) for (const [by, step] of before) out[i] = Math.min(out[i], (out[i - by] ?? 0) + step);
  return out;
}
