import type { Voxels } from './voxels';

/** A neighbour of a cell: how many cells away along each axis, where it stands in the grid from there, and how far its middle is, cells. */
export interface Neighbour {
  readonly cells: readonly [number, number, number];
  readonly by: number;
  readonly far: number;
}

/**
 * The 26 neighbours of a cell, those that come before it in the grid first. A body's cells have empty ones about them, so that all of a filled
 * cell's neighbours are in the grid.
 */
export function neighboursOf([nx, ny]: Voxels['size']): Neighbour[] {
  const out: Neighbour[] = [];
  for (let z = -1; z <= 1; z++) {
    for (let y = -1; y <= 1; y++) {
      for (let x = -1; x <= 1; x++) {
        const far = Math.sqrt(x * x + y * y + z * z);
        if (far > 0) out.push({ cells: [x, y, z], by: (z * ny + y) * nx + x, far });
      }
    }
  }
  return out;
}
