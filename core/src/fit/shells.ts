/** The pieces of a surface that hang together, and its points with those that lie in the same place taken for one. */
export interface Shells {
  /** For each point of the surface, the welded point it is. */
  readonly welded: Int32Array;
  readonly points: number;
  /** For each welded point, its shell. */
  readonly shell: Int32Array;
  readonly count: number;
  /** +1 where a shell's triangles face outwards, −1 where inwards. */
  readonly facing: Int8Array;
}

/** Points nearer than this share of the size are one: that is how far numbers of 32 bits are rounded. */
const SAME = 1e-6;

/** Finds what hangs together: points in one place are one, points of a triangle are in one shell. */
export function shellsOf(positions: Float32Array, triangles: Uint32Array): Shells {
  const welded = weld(positions);
  const points = welded.reduce((most, w) => Math.max(most, w + 1), 0);
  const parent = Int32Array.from({ length: points }, (_, i) => i);
  const find = (i: number): number => {
    let root = i;
    while (parent[root] !== root) root = parent[root];
    for (let at = i; parent[at] !== root;) [at, parent[at]] = [parent[at], root];
    return root;
  };
  for (let i = 0; i < triangles.length; i += 3) {
    const root = find(welded[triangles[i]]);
    parent[find(welded[triangles[i + 1]])] = root;
    parent[find(welded[triangles[i + 2]])] = root;
  }
  const shell = new Int32Array(points);
  const numbers = new Map<number, number>();
  for (let w = 0; w < points; w++) {
    const root = find(w);
    let number = numbers.get(root);
    if (number === undefined) numbers.set(root, (number = numbers.size));
    shell[w] = number;
  }
  return { welded, points, shell, count: numbers.size, facing: facingOf(positions, triangles, welded, shell, numbers.size) };
}

function weld(positions: Float32Array): Int32Array {
  let size = 0;
  for (const value of positions) size = Math.max(size, Math.abs(value));
  const grain = Math.max(size * SAME, 1e-12);
  const places = new Map<string, number>();
  const out = new Int32Array(positions.length / 3);
  for (let i = 0; i < out.length; i++) {
    const key = `${Math.round(positions[i * 3] / grain)},${Math.round(positions[i * 3 + 1] / grain)},${Math.round(positions[i * 3 + 2] / grain)}`;
    let place = places.get(key);
    if (place === undefined) places.set(key, (place = places.size));
    out[i] = place;
  }
  return out;
}

/** Which way shells face: by the sign of the room that they enclose, counted from a point of their own. */
function facingOf(p: Float32Array, triangles: Uint32Array, welded: Int32Array, shell: Int32Array, count: number): Int8Array {
  const room = new Float64Array(count);
  const from = new Float64Array(count * 3);
  const corners = new Float64Array(count);
  for (const point of triangles) {
    const s = shell[welded[point]];
    corners[s]++;
    for (let c = 0; c < 3; c++) from[s * 3 + c] += p[point * 3 + c];
  }
  for (let s = 0; s < count; s++) for (let c = 0; c < 3; c++) from[s * 3 + c] /= Math.max(1, corners[s]);
  for (let i = 0; i < triangles.length; i += 3) {
    const s = shell[welded[triangles[i]]] * 3;
    const v = (k: number, c: number): number => p[triangles[i + k] * 3 + c] - from[s + c];
    room[s / 3] +=
      v(0, 0) * (v(1, 1) * v(2, 2) - v(1, 2) * v(2, 1)) +
      v(0, 1) * (v(1, 2) * v(2, 0) - v(1, 0) * v(2, 2)) +
      v(0, 2) * (v(1, 0) * v(2, 1) - v(1, 1) * v(2, 0));
  }
  return Int8Array.from(room, (value) => (value < 0 ? -1 : 1));
}
