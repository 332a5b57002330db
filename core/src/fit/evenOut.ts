import type { MeshBody } from './body';
import { KEPT } from './geodesic';
import { largest, setWeights, type WeldedWeights } from './welded';

/** How far a point goes towards its neighbours in one round. */
const TOWARDS = 0.5;

/**
 * Evens weights out once over the surface: every point goes part of the way to the mean of its neighbours.
 * @param amount by welded point, 0 to 1; all of them fully where nothing is said
 */
export function evenOut(body: MeshBody, weights: WeldedWeights, amount?: Float32Array): void {
  const { starts, others } = neighbours(body);
  const before = { joints: weights.joints.slice(), values: weights.values.slice() };
  const sum = new Map<number, number>();
  for (let w = 0; w < body.shells.points; w++) {
    const towards = TOWARDS * (amount ? amount[w] : 1);
    const degree = starts[w + 1] - starts[w];
    if (towards === 0 || degree === 0) continue;
    sum.clear();
    add(w, 1 - towards);
    for (let k = starts[w]; k < starts[w + 1]; k++) add(others[k], towards / degree);
    setWeights(weights, w, largest(sum));
  }

  function add(w: number, weight: number): void {
    for (let k = w * KEPT; k < (w + 1) * KEPT && before.joints[k] >= 0; k++) {
      sum.set(before.joints[k], (sum.get(before.joints[k]) ?? 0) + weight * before.values[k]);
    }
  }
}

interface Neighbours {
  readonly starts: Int32Array;
  readonly others: Int32Array;
}
const known = new WeakMap<MeshBody, Neighbours>();

/** The welded points that edges join to each: row by row, each neighbour as often as triangles name it. */
function neighbours(body: MeshBody): Neighbours {
  const found = known.get(body);
  if (found) return found;
  const { triangles, shells } = body;
  const starts = new Int32Array(shells.points + 1);
  for (const point of triangles) starts[shells.welded[point] + 1] += 2;
  for (let w = 0; w < shells.points; w++) starts[w + 1] += starts[w];
  const next = starts.slice(0, shells.points);
  const others = new Int32Array(triangles.length * 2);
  for (let i = 0; i < triangles.length; i++) {
    const base = i - (i % 3);
    const w = shells.welded[triangles[i]];
    others[next[w]++] = shells.welded[triangles[base + ((i + 1) % 3)]];
    others[next[w]++] = shells.welded[triangles[base + ((i + 2) % 3)]];
  }
  const out = { starts, others };
  known.set(body, out);
  return out;
}
