import { copy, identity, invMul, mul, rotate, unrotate } from '../math/quat';
import type { Basis, Skeleton } from '../skeleton';
import type { Clip } from './clip';

/** A file's clip in metres with Y up. Rotations that are the same in both are not copied: clips are not written into. */
export function clipToBasis(skeleton: Skeleton, clip: Clip, basis: Basis): Clip {
  return convertClip(
    skeleton,
    clip,
    basis,
    basis.metres,
    (q, o) => mul(q, o, basis.turn, 0, q, o),
    (v, o) => rotate(v, o, basis.turn, 0, v, o),
  );
}

/** A clip of ours back in the file's unit and axes. */
export function clipFromBasis(skeleton: Skeleton, clip: Clip, basis: Basis): Clip {
  return convertClip(
    skeleton,
    clip,
    basis,
    1 / basis.metres,
    (q, o) => invMul(q, o, basis.turn, 0, q, o),
    (v, o) => unrotate(v, o, basis.turn, 0, v, o),
  );
}

function convertClip(
  skeleton: Skeleton,
  clip: Clip,
  { turn }: Basis,
  scale: number,
  turnRotation: (q: Float64Array, o: number) => void,
  turnVector: (v: Float64Array, o: number) => void,
): Clip {
  const joints = skeleton.parents.length;
  const isTurned = turn[3] !== 1;
  const rotations = isTurned ? clip.rotations.slice() : clip.rotations;
  const q = new Float64Array(4);
  identity(q, 0);
  for (let j = 0; isTurned && j < joints; j++) {
    if (skeleton.parents[j] >= 0) continue;
    for (let f = 0; f < clip.frames; f++) {
      const o = (f * joints + j) * 4;
      copy(q, 0, rotations, o);
      turnRotation(q, 0);
      copy(rotations, o, q, 0);
    }
  }
  const v = new Float64Array(3);
  const moves = clip.moves.map(({ joint, values }) => {
    const moved = new Float32Array(values.length);
    const isRoot = skeleton.parents[joint] < 0;
    for (let i = 0; i < values.length; i += 3) {
      v[0] = values[i] * scale;
      v[1] = values[i + 1] * scale;
      v[2] = values[i + 2] * scale;
      if (isRoot) turnVector(v, 0);
      moved[i] = v[0];
      moved[i + 1] = v[1];
      moved[i + 2] = v[2];
    }
    return { joint, values: moved };
  });
  return { ...clip, rotations, moves };
}
