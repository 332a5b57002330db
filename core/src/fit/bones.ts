import type { FittedSkeleton } from './skeleton';

/** A joint's bones: straight pieces from the joint to each of its children, or to where a leaf ends. */
export interface Bone {
  readonly joint: number;
  readonly from: Float64Array;
  readonly to: Float64Array;
}

/** The bones of a skeleton; joints that only share another's twist have none of their own. */
export function bonesOf({
  skeleton: { parents },
  places,
  ends,
  twistOf,
}: Omit<FittedSkeleton, 'skeleton'> & { skeleton: { parents: Int32Array } }): Bone[] {
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
