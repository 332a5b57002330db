import type { Clip } from '../clip';
import type { RoleMap } from '../label';
import { jointCount, type Skeleton } from '../skeleton';

/** A skeleton and its motion with only the joints that have a role, and those that these hang on. */
export function labelledOnly(skeleton: Skeleton, clip: Clip, roles: RoleMap): { readonly skeleton: Skeleton; readonly clip: Clip } {
  const joints = jointCount(skeleton);
  const isKept = new Uint8Array(joints);
  for (const joint of roles.values()) for (let j = joint; j >= 0 && isKept[j] === 0; j = skeleton.parents[j]) isKept[j] = 1;
  const kept = [...isKept.keys()].filter((j) => isKept[j] === 1);
  if (kept.length === joints) return { skeleton, clip };
  const place = new Map(kept.map((j, i) => [j, i]));
  const picked = (list: Float64Array, size: number): Float64Array => {
    const out = new Float64Array(kept.length * size);
    kept.forEach((j, i) => out.set(list.subarray(j * size, j * size + size), i * size));
    return out;
  };
  const rotations = new Float32Array(clip.frames * kept.length * 4);
  for (let f = 0; f < clip.frames; f++) {
    kept.forEach((j, i) =>
      rotations.set(clip.rotations.subarray((f * joints + j) * 4, (f * joints + j) * 4 + 4), (f * kept.length + i) * 4),
    );
  }
  const tips = picked(skeleton.tips, 3);
  // A joint that loses all that hung on it ends where the first of it stood.
  kept.forEach((j, i) => {
    const child = skeleton.parents.indexOf(j);
    const isEnd = !kept.some((other) => skeleton.parents[other] === j);
    if (isEnd && child >= 0 && Number.isNaN(tips[i * 3])) tips.set(skeleton.restT.subarray(child * 3, child * 3 + 3), i * 3);
  });
  return {
    skeleton: {
      ...skeleton,
      names: kept.map((j) => skeleton.names[j]),
      parents: Int32Array.from(kept, (j) => place.get(skeleton.parents[j]) ?? -1),
      restT: picked(skeleton.restT, 3),
      restR: picked(skeleton.restR, 4),
      tips,
    },
    clip: {
      ...clip,
      rotations,
      moves: clip.moves.flatMap(({ joint, values }) => (place.has(joint) ? [{ joint: place.get(joint)!, values }] : [])),
    },
  };
}
