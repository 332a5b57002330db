import { square } from '../math/numbers';
import type { FittedSkeleton } from './skeleton';

/** What the points of a mesh are bound to. */
export type Frame = Pick<FittedSkeleton, 'places' | 'ends' | 'twistOf'> & { readonly skeleton: { readonly parents: Int32Array } };

/** A joint's bones: straight pieces from the joint to each of its children, or to where a leaf ends. */
export interface Bone {
  readonly joint: number;
  readonly from: Float64Array;
  readonly to: Float64Array;
}

/** The bones of a skeleton; joints that only share another's twist have none of their own. */
export function bonesOf({ skeleton: { parents }, places, ends, twistOf }: Frame): Bone[] {
  const at = (j: number): Float64Array => places.slice(j * 3, j * 3 + 3);
  const bones: Bone[] = [];
  parents.forEach((parent, j) => {
    if (twistOf[j] >= 0) return;
    if (parent >= 0) bones.push({ joint: parent, from: at(parent), to: at(j) });
    const end = ends.subarray(j * 3, j * 3 + 3);
    const isLeaf = !parents.some((other, child) => other === j && twistOf[child] < 0);
    if (isLeaf) bones.push({ joint: j, from: at(j), to: Number.isNaN(end[0]) ? at(j) : end.slice() });
  });
  return bones;
}

/** Distance of a point from a bone. */
export function wayTo({ from, to }: Bone, p: ArrayLike<number>, at: number): number {
  let [along, length] = [0, 0];
  for (let c = 0; c < 3; c++) {
    along += (p[at + c] - from[c]) * (to[c] - from[c]);
    length += square(to[c] - from[c]);
  }
  const t = length > 0 ? Math.min(1, Math.max(0, along / length)) : 0;
  let way = 0;
  for (let c = 0; c < 3; c++) way += square(p[at + c] - from[c] - t * (to[c] - from[c]));
  return Math.sqrt(way);
}
