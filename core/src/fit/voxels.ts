import type { MeshBody } from './body';

/** A body as cells of one size. */
export interface Voxels {
  /** Corner of the first cell. */
  readonly origin: Float64Array;
  /** Length of a cell, metres. */
  readonly cell: number;
  readonly size: readonly [x: number, y: number, z: number];
  /** How many shells a cell lies in; 0 outside. Cells that the surface goes through count as inside. */
  readonly depth: Uint8Array;
}

/** Most cells: memory for the distances in them stays under half a gigabyte. */
const MOST_CELLS = 12_000_000;
/** Empty cells about the body, so that what is outside hangs together. */
const MARGIN = 2;
/** Rays go through cells off their middle, by odd shares, so that they meet no edge of a regular mesh. */
const ASIDE: readonly [number, number] = [0.5 + 0.0137, 0.5 - 0.0171];

/**
 * Fills a body with cells. Rays along the three axes count the shells that they enter and leave, once from either end; a cell is as
 * deep as the middle one of the six counts says, so that holes mislead only the rays that go through them. (Counting along rays from several
 * sides: Nooruddin and Turk 2003.)
 * @param across cells along the height; fewer where there would be too many
 */
export function voxelsOf(body: MeshBody, across: number): Voxels {
  const { low, high } = body;
  const spans = [0, 1, 2].map((c) => high[c] - low[c]);
  let cell = body.height / across;
  const cells = (): number => spans.reduce((product, span) => product * (Math.ceil(span / cell) + 2 * MARGIN), 1);
  while (cells() > MOST_CELLS) cell *= 1.05;
  const size = spans.map((span) => Math.ceil(span / cell) + 2 * MARGIN) as [number, number, number];
  const origin = Float64Array.from(low, (v, c) => v - 0.5 * (size[c] * cell - spans[c]));
  const total = size[0] * size[1] * size[2];
  const steps = [1, size[0], size[0] * size[1]];
  const votes = new Int8Array(total * 6);
  const depth = new Uint8Array(total);
  for (let axis = 0; axis < 3; axis++) castRays(body, axis, { origin, cell, size, steps, votes, touched: depth });
  for (let i = 0; i < total; i++) depth[i] = Math.max(depth[i], thirdOf(votes, i * 6));
  return { origin, cell, size, depth };
}

/** The third least of six votes, 0 where it is below: four of six agree on at least so many shells. */
function thirdOf(votes: Int8Array, at: number): number {
  let least = 127;
  let second = 127;
  let third = 127;
  for (let i = at; i < at + 6; i++) {
    const vote = votes[i];
    if (vote >= third) continue;
    if (vote >= second) third = vote;
    else {
      third = second;
      if (vote >= least) second = vote;
      else {
        second = least;
        least = vote;
      }
    }
    // Most cells are outside.
    if (third <= 0) return 0;
  }
  return third;
}

interface Casting {
  readonly origin: Float64Array;
  readonly cell: number;
  readonly size: readonly [number, number, number];
  readonly steps: readonly number[];
  readonly votes: Int8Array;
  readonly touched: Uint8Array;
}

/** Rays along one axis through the middle of every column of cells. */
function castRays({ positions: p, triangles, shells }: MeshBody, axis: number, grid: Casting): void {
  const { origin, cell, size, steps, votes, touched } = grid;
  const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
  const columns = size[u] * size[v];
  // Twice over the triangles: how many each column meets, then what.
  const starts = new Int32Array(columns + 1);
  eachCrossing((column) => starts[column + 1]++);
  for (let i = 0; i < columns; i++) starts[i + 1] += starts[i];
  const places = new Float64Array(starts[columns]);
  const signs = new Int8Array(starts[columns]);
  const next = starts.slice(0, columns);
  eachCrossing((column, place, sign) => {
    // Sorted as they come: columns meet few triangles.
    let at = next[column]++;
    for (; at > starts[column] && places[at - 1] > place; at--) {
      places[at] = places[at - 1];
      signs[at] = signs[at - 1];
    }
    places[at] = place;
    signs[at] = sign;
  });
  for (let column = 0; column < columns; column++) {
    const base = (column % size[u]) * steps[u] + Math.floor(column / size[u]) * steps[v];
    const [first, end] = [starts[column], starts[column + 1]];
    if (first === end) continue;
    let whole = 0;
    for (let k = first; k < end; k++) {
      whole += signs[k];
      const at = Math.floor((places[k] - origin[axis]) / cell);
      if (at >= 0 && at < size[axis]) touched[base + at * steps[axis]] = 1;
    }
    let passed = 0;
    let k = first;
    for (let i = 0; i < size[axis]; i++) {
      const middle = origin[axis] + (i + 0.5) * cell;
      for (; k < end && places[k] <= middle; k++) passed += signs[k];
      const o = (base + i * steps[axis]) * 6 + axis * 2;
      // Entered from below, and, counted from the far end, from above.
      votes[o] = clampVote(passed);
      votes[o + 1] = clampVote(passed - whole);
    }
  }

  function eachCrossing(met: (column: number, place: number, sign: number) => void): void {
    for (let i = 0; i < triangles.length; i += 3) {
      const [a, b, c] = [triangles[i] * 3, triangles[i + 1] * 3, triangles[i + 2] * 3];
      const [au, av] = [(p[a + u] - origin[u]) / cell - ASIDE[0], (p[a + v] - origin[v]) / cell - ASIDE[1]];
      const [bu, bv] = [(p[b + u] - origin[u]) / cell - ASIDE[0], (p[b + v] - origin[v]) / cell - ASIDE[1]];
      const [cu, cv] = [(p[c + u] - origin[u]) / cell - ASIDE[0], (p[c + v] - origin[v]) / cell - ASIDE[1]];
      const area = (bu - au) * (cv - av) - (bv - av) * (cu - au);
      if (area === 0) continue;
      const facing = shells.facing[shells.shell[shells.welded[triangles[i]]]];
      // A triangle that faces back along the ray is where the ray goes in.
      const sign = area < 0 === facing > 0 ? 1 : -1;
      const [u0, u1] = [Math.max(0, Math.ceil(Math.min(au, bu, cu))), Math.min(size[u] - 1, Math.floor(Math.max(au, bu, cu)))];
      const [v0, v1] = [Math.max(0, Math.ceil(Math.min(av, bv, cv))), Math.min(size[v] - 1, Math.floor(Math.max(av, bv, cv)))];
      for (let y = v0; y <= v1; y++) {
        for (let x = u0; x <= u1; x++) {
          const wa = ((bu - x) * (cv - y) - (bv - y) * (cu - x)) / area;
          const wb = ((cu - x) * (av - y) - (cv - y) * (au - x)) / area;
          const wc = 1 - wa - wb;
          if (wa < 0 || wb < 0 || wc < 0) continue;
          met(y * size[u] + x, wa * p[a + axis] + wb * p[b + axis] + wc * p[c + axis], sign);
        }
      }
    }
  }
}

const clampVote = (count: number): number => (count > 100 ? 100 : count < -100 ? -100 : count);
