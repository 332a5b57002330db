import { neighboursOf } from './cells';
import type { Voxels } from './voxels';

/**
 * Joins pieces of a body that do not touch: where hair, buttons or a head float free, the shortest ways between them are filled, as
 * many as make one piece of all (a least spanning tree over the pieces, by waves from all of them at once).
 */
export function bridge({ size, depth }: Voxels): void {
  const [nx, ny, nz] = size;
  const piece = piecesOf(size, depth);
  const pieces = piece.reduce((most, p) => Math.max(most, p), 0);
  if (pieces < 2) return;
  // Waves through what is empty: whose wave came first, and from which cell.
  const owner = piece.slice();
  const from = new Int32Array(depth.length).fill(-1);
  const far = new Uint16Array(depth.length);
  let wave: number[] = [];
  for (let i = 0; i < owner.length; i++) if (owner[i] > 0) wave.push(i);
  const meetings: { a: number; b: number; length: number }[] = [];
  while (wave.length > 0) {
    const next: number[] = [];
    for (const at of wave) {
      const [x, y, z] = [at % nx, Math.floor(at / nx) % ny, Math.floor(at / (nx * ny))];
      for (const [step, isIn] of [
        [-1, x > 0],
        [1, x + 1 < nx],
        [-nx, y > 0],
        [nx, y + 1 < ny],
        [-nx * ny, z > 0],
        [nx * ny, z + 1 < nz],
      ] as const) {
        if (!isIn) continue;
        const to = at + step;
        if (owner[to] === 0) {
          owner[to] = owner[at];
          from[to] = at;
          far[to] = far[at] + 1;
          next.push(to);
        } else if (owner[to] !== owner[at] && at < to) meetings.push({ a: at, b: to, length: far[at] + far[to] });
      }
    }
    wave = next;
  }
  meetings.sort((a, b) => a.length - b.length || a.a - b.a);
  const parent = Int32Array.from({ length: pieces + 1 }, (_, i) => i);
  const root = (i: number): number => {
    let r = i;
    while (parent[r] !== r) r = parent[r] = parent[parent[r]];
    return r;
  };
  for (const { a, b } of meetings) {
    const [p, q] = [root(owner[a]), root(owner[b])];
    if (p === q) continue;
    parent[p] = q;
    for (const end of [a, b]) for (let at = end; at >= 0 && depth[at] === 0; at = from[at]) depth[at] = 1;
  }
}

/** Which piece each cell belongs to, from 1; 0 outside. Cells hang together by their sides, edges and corners. */
function piecesOf(size: Voxels['size'], depth: Uint8Array): Int32Array {
  const piece = new Int32Array(depth.length);
  const neighbours = neighboursOf(size);
  let count = 0;
  const stack: number[] = [];
  for (let start = 0; start < depth.length; start++) {
    if (depth[start] === 0 || piece[start] > 0) continue;
    piece[start] = ++count;
    stack.push(start);
    for (let at = stack.pop(); at !== undefined; at = stack.pop()) {
      for (const { by } of neighbours) {
        const to = at + by;
        if (depth[to] === 0 || piece[to] > 0) continue;
        piece[to] = count;
        stack.push(to);
      }
    }
  }
  return piece;
}
