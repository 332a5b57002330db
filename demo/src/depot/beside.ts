import { makeSkeleton, quat, type Clip, type Skeleton } from '@hollow-stride/core';
import type { V3 } from '../vectors';
import type { Thing } from './making';

/** A skeleton with one more root, for a thing beside the body. @param at where it stands at rest, metres */
export function withRoot({ names, parents, restT, restR, tips }: Skeleton, name: string, at: V3): Skeleton {
  return makeSkeleton({
    names: [...names, name],
    parents: [...parents, -1],
    restT: Float64Array.of(...restT, ...at),
    restR: Float64Array.of(...restR, 0, 0, 0, 1),
    tips: Float64Array.of(...tips, NaN, NaN, NaN),
  });
}

/**
 * A motion with a thing beside the body.
 * @param way that was taken out of the motion, over the floor, 2 a frame: the thing stays beside the body
 */
export function beside(skeleton: Skeleton, clip: Clip, { name, at }: Thing, way?: Float64Array): [Skeleton, Clip] {
  const joints = skeleton.names.length;
  const rotations = new Float32Array(clip.frames * (joints + 1) * 4);
  const values = new Float32Array(clip.frames * 3);
  for (let f = 0; f < clip.frames; f++) {
    const { place, turn } = at(f * clip.frameTime);
    rotations.set(clip.rotations.subarray(f * joints * 4, (f + 1) * joints * 4), f * (joints + 1) * 4);
    quat.fromAxisAngle(rotations, (f * (joints + 1) + joints) * 4, 0, 1, 0, (turn * Math.PI) / 180);
    values.set([place[0] - (way?.[f * 2] ?? 0), place[1], place[2] - (way?.[f * 2 + 1] ?? 0)], f * 3);
  }
  return [withRoot(skeleton, name, at(0).place), { ...clip, rotations, moves: [...clip.moves, { joint: joints, values }] }];
}
