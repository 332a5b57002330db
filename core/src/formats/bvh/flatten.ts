import type { Clip } from '../../clip';
import { invMul, mul, mulInv, copy, rotate } from '../../math/quat';
import { restPose, type Skeleton } from '../../skeleton';
import type { BvhLayout } from './layout';

/**
 * A skeleton and clip restated without rest rotations, as BVH needs: offsets are the rest pose's differences in the
 * world, and each joint's rotation is its world turn away from rest, relative to its parent's.
 * World positions are unchanged. Roots get six channels, other joints three (six where they translate).
 * @param carried where the place of what carries the body (a root, a joint that translates below one) stands at rest: in its OFFSET;
 * or nowhere, all of it being in its channels. Readers differ in whether channels count from the OFFSET: the latter reads the same
 * in all, the former tells how high the rest pose stands
 */
export function flattenRest(
  skeleton: Skeleton,
  clip: Clip,
  carried: 'offset' | 'channels' = 'offset',
): { skeleton: Skeleton; clip: Clip; layout: BvhLayout } {
  const joints = skeleton.names.length;
  const rest = restPose(skeleton);
  const R = rest.rotations;
  const offsets = new Float64Array(joints * 3);
  const tips = new Float64Array(joints * 3).fill(NaN);
  skeleton.parents.forEach((parent, j) => {
    for (let c = 0; c < 3; c++) {
      offsets[j * 3 + c] = rest.positions[j * 3 + c] - (parent < 0 ? 0 : rest.positions[parent * 3 + c]);
    }
    if (!Number.isNaN(skeleton.tips[j * 3])) rotate(tips, j * 3, R, j * 4, skeleton.tips, j * 3);
  });
  const rotations = new Float32Array(clip.rotations.length);
  const world = new Float64Array(joints * 4);
  const turn = new Float64Array(joints * 4);
  const q = new Float64Array(4);
  for (let f = 0; f < clip.frames; f++) {
    const o = f * joints * 4;
    for (let j = 0; j < joints; j++) {
      const parent = skeleton.parents[j];
      if (parent < 0) copy(world, j * 4, clip.rotations, o + j * 4);
      else mul(world, j * 4, world, parent * 4, clip.rotations, o + j * 4);
      mulInv(turn, j * 4, world, j * 4, R, j * 4);
      if (parent < 0) copy(q, 0, turn, j * 4);
      else invMul(q, 0, turn, parent * 4, turn, j * 4);
      copy(rotations, o + j * 4, q, 0);
    }
  }
  const moves = clip.moves.map(({ joint, values }) => {
    const parent = skeleton.parents[joint];
    if (parent < 0) return { joint, values };
    const turned = new Float32Array(values.length);
    for (let i = 0; i < values.length; i += 3) rotate(turned, i, R, parent * 4, values, i);
    return { joint, values: turned };
  });
  const moving = new Set(moves.map((m) => m.joint));
  const carries = new Uint8Array(joints);
  const written = offsets.slice();
  skeleton.parents.forEach((parent, j) => {
    carries[j] = parent < 0 || (carries[parent] === 1 && moving.has(j)) ? 1 : 0;
    if (carries[j] && carried === 'channels') written.fill(0, j * 3, j * 3 + 3);
  });
  const isLeaf = new Uint8Array(joints).fill(1);
  skeleton.parents.forEach((parent) => {
    if (parent >= 0) isLeaf[parent] = 0;
  });
  const restR = new Float64Array(joints * 4);
  for (let j = 0; j < joints; j++) restR[j * 4 + 3] = 1;
  return {
    skeleton: { ...skeleton, restT: offsets, restR, tips },
    clip: { ...clip, rotations, moves },
    layout: {
      format: 'bvh',
      channels: Array.from(skeleton.parents, (parent, j) => (parent < 0 || moving.has(j) ? [0, 1, 2, 5, 3, 4] : [5, 3, 4])),
      offsets: written,
      fromOffset: new Uint8Array(joints),
      endSites: Array.from(isLeaf, (leaf, j) => (!leaf ? [] : Number.isNaN(tips[j * 3]) ? [0, 0, 0] : [...tips.slice(j * 3, j * 3 + 3)])),
    },
  };
}
