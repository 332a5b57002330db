import { copy, identity, mul, invMul, rotate, unrotate } from '../math/quat';
import type { Skeleton } from './skeleton';
import type { Clip } from '../clip/clip';

export type UpAxis = '+X' | '-X' | '+Y' | '-Y' | '+Z' | '-Z';
export const UP_AXES: readonly UpAxis[] = ['+Y', '+Z', '-Y', '-Z', '+X', '-X'];

/** How a file's space lies in ours: metres per file unit, then a turn that brings its up axis to +Y. */
export interface Basis {
  readonly metres: number;
  readonly up: UpAxis;
  /** Unit quaternion, file axes to ours. */
  readonly turn: Float64Array;
}

const HALF = Math.SQRT1_2;
const TURNS: Record<UpAxis, readonly number[]> = {
  '+Y': [0, 0, 0, 1],
  '-Y': [0, 0, 1, 0],
  '+Z': [-HALF, 0, 0, HALF],
  '-Z': [HALF, 0, 0, HALF],
  '+X': [0, 0, HALF, HALF],
  '-X': [0, 0, -HALF, HALF],
};

/** The basis of a file with the given unit and up axis. */
export function makeBasis(metres: number, up: UpAxis): Basis {
  return { metres, up, turn: Float64Array.from(TURNS[up]) };
}

/** The unit vector of an up axis in file axes. */
export function upVector(up: UpAxis): Float64Array {
  const v = new Float64Array(3);
  v['XYZ'.indexOf(up[1])] = up[0] === '+' ? 1 : -1;
  return v;
}

/** A file's skeleton in metres with Y up: lengths scaled, roots turned. */
export function toBasis(skeleton: Skeleton, basis: Basis): Skeleton {
  const restT = skeleton.restT.map((v) => v * basis.metres);
  const restR = skeleton.restR.slice();
  skeleton.parents.forEach((parent, j) => {
    if (parent >= 0) return;
    rotate(restT, j * 3, basis.turn, 0, restT, j * 3);
    mul(restR, j * 4, basis.turn, 0, restR, j * 4);
  });
  return { ...skeleton, restT, restR, tips: skeleton.tips.map((v) => v * basis.metres) };
}

/** A file's clip in metres with Y up. */
export function clipToBasis(skeleton: Skeleton, clip: Clip, basis: Basis): Clip {
  return convertClip(
    skeleton,
    clip,
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
    1 / basis.metres,
    (q, o) => invMul(q, o, basis.turn, 0, q, o),
    (v, o) => unrotate(v, o, basis.turn, 0, v, o),
  );
}

function convertClip(
  skeleton: Skeleton,
  clip: Clip,
  scale: number,
  turnRotation: (q: Float64Array, o: number) => void,
  turnVector: (v: Float64Array, o: number) => void,
): Clip {
  const joints = skeleton.parents.length;
  const rotations = clip.rotations.slice();
  const q = new Float64Array(4);
  identity(q, 0);
  for (let j = 0; j < joints; j++) {
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
