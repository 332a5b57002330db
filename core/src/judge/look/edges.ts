import { distance } from '../../math/vec';
import type { SkinPoints } from '../../formats';
import type { Rig } from '../../rig';
import { hypot } from '../../math/numbers';

/** Edges of a mesh that several joints move, those that may be drawn out farthest first. */
export interface Edges {
  /** Pairs of points. */
  readonly ends: Int32Array;
  /** Lengths at rest, metres. */
  readonly lengths: Float64Array;
  /** Metres by which no pose can draw an edge out farther; falling. */
  readonly bounds: Float64Array;
}

/** Weights that differ by less are alike. */
const ALIKE = 1e-3;

/**
 * All edges whose ends are not moved alike. With a joint m of theirs as the reference, an edge grows by no more than
 * Σ |Δw_k| (|b − o_k| + path from o_k to o_m + |b − o_m|) over its joints k: the difference of the weights times the farthest that the
 * other end can come from where m alone would move it. A search for the longest edge may so pass over those that cannot be it.
 */
export function edgesOf({ skeleton, restPose }: Rig, { edges, influences, weights, positions, locals }: SkinPoints, metres: number): Edges {
  const { parents } = skeleton;
  const depths = new Float64Array(parents.length);
  for (let j = 0; j < parents.length; j++) if (parents[j] >= 0) depths[j] = depths[parents[j]] + apart(restPose.positions, j, parents[j]);
  const path = pathsOf(parents, depths);
  const difference = new Map<number, number>();
  const shared: number[] = [];
  const bounds = new Float64Array(edges.length >> 1);
  for (let e = 0; e < bounds.length; e++) {
    const [a, b] = [edges[e * 2], edges[e * 2 + 1]];
    difference.clear();
    for (let k = 0; k < 4; k++) {
      const [i, j] = [influences[a * 4 + k], influences[b * 4 + k]];
      if (i >= 0) difference.set(i, (difference.get(i) ?? 0) + weights[a * 4 + k]);
      if (j >= 0) difference.set(j, (difference.get(j) ?? 0) - weights[b * 4 + k]);
    }
    const reference = influences[b * 4];
    const arm = metres * hypot(locals[b * 12], locals[b * 12 + 1], locals[b * 12 + 2]);
    for (const [joint, by] of difference) {
      if (joint !== reference && Math.abs(by) > ALIKE) bounds[e] += 2 * Math.abs(by) * (path(joint, reference) + arm);
    }
    if (bounds[e] > 0) shared.push(e);
  }
  const order = Uint32Array.from(shared).sort((a, b) => bounds[b] - bounds[a]);
  return {
    ends: Int32Array.from({ length: order.length * 2 }, (_, i) => edges[order[i >> 1] * 2 + (i & 1)]),
    lengths: Float64Array.from(order, (e) => metres * apart(positions, edges[e * 2], edges[e * 2 + 1])),
    bounds: Float64Array.from(order, (e) => bounds[e]),
  };
}

function apart(positions: Float64Array | Float32Array, a: number, b: number): number {
  return distance(positions, a * 3, positions, b * 3);
}

/** Lengths of the ways along the bones from joint to joint. */
function pathsOf(parents: ArrayLike<number>, depths: Float64Array): (a: number, b: number) => number {
  const known = new Map<number, number>();
  return (a, b) => {
    const key = a * parents.length + b;
    const before = known.get(key);
    if (before !== undefined) return before;
    const above = new Set<number>();
    for (let j = a; j >= 0; j = parents[j]) above.add(j);
    let shared = b;
    while (shared >= 0 && !above.has(shared)) shared = parents[shared];
    const length = depths[a] + depths[b] - 2 * (shared < 0 ? 0 : depths[shared]);
    known.set(key, length);
    return length;
  };
}
