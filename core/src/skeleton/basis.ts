import { invMul, mul, rotate, unrotate } from '../math/quat';
import type { Skeleton } from './skeleton';

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

/** A skeleton of ours in another unit and with another axis up: what `toBasis` turns back. */
export function fromBasis(skeleton: Skeleton, basis: Basis): Skeleton {
  const restT = skeleton.restT.map((v) => v / basis.metres);
  const restR = skeleton.restR.slice();
  skeleton.parents.forEach((parent, j) => {
    if (parent >= 0) return;
    unrotate(restT, j * 3, basis.turn, 0, restT, j * 3);
    invMul(restR, j * 4, basis.turn, 0, restR, j * 4);
  });
  return { ...skeleton, restT, restR, tips: skeleton.tips.map((v) => v / basis.metres) };
}
