import type { MotionFile } from '../formats';
import { percentile } from '../math/filter';
import { unrotate } from '../math/quat';
import type { Pose, Skeleton } from '../skeleton';
import { square } from '../math/numbers';

/** Share of a joint's skin that lies within its thickness. */
const WITHIN = 0.75;

/**
 * How far the skin of each joint lies from its bone, metres: the radius of a capsule about it; 0 for joints without skin. A bone goes
 * from its joint to the middle of those that hang on it, or to its tip.
 * @param metres per unit of the file
 */
export function thicknessOf({ parents, tips }: Skeleton, rest: Pose, skin: MotionFile['skin'], metres: number): Float64Array {
  const out = new Float64Array(parents.length);
  if (!skin) return out;
  const ways = new Float64Array(parents.length * 3);
  const count = new Uint16Array(parents.length);
  const way = new Float64Array(3);
  for (let j = 0; j < parents.length; j++) {
    const parent = parents[j];
    if (parent < 0) continue;
    count[parent]++;
    for (let c = 0; c < 3; c++) way[c] = rest.positions[j * 3 + c] - rest.positions[parent * 3 + c];
    unrotate(way, 0, rest.rotations, parent * 4, way, 0);
    for (let c = 0; c < 3; c++) ways[parent * 3 + c] += way[c];
  }
  for (let j = 0; j < parents.length; j++) {
    const isTip = count[j] === 0 && Number.isFinite(tips[j * 3]);
    for (let c = 0; c < 3; c++) ways[j * 3 + c] = isTip ? tips[j * 3 + c] : ways[j * 3 + c] / Math.max(1, count[j]);
  }
  const off = new Map<number, number[]>();
  skin.joints.forEach((joint, i) => {
    const k = [0, 1, 2, 3].find((n) => skin.influences[i * 4 + n] === joint) ?? 0;
    const o = (i * 4 + k) * 3;
    const w = joint * 3;
    let size = 0;
    let along = 0;
    for (let c = 0; c < 3; c++) {
      size += square(ways[w + c]);
      along += ways[w + c] * skin.locals[o + c] * metres;
    }
    const t = size < 1e-12 ? 0 : Math.max(0, Math.min(1, along / size));
    let distance = 0;
    for (let c = 0; c < 3; c++) distance += square(skin.locals[o + c] * metres - t * ways[w + c]);
    const list = off.get(joint) ?? [];
    list.push(Math.sqrt(distance));
    off.set(joint, list);
  });
  off.forEach((list, joint) => (out[joint] = percentile(list, WITHIN)));
  return out;
}
