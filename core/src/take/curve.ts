import type { Clip } from '../clip';
import { alignSign, invMul, log, normalize } from '../math/quat';
import { DEG } from '../math/trig';

/**
 * A joint's turn over time as one curve: its local rotation away from its mean, about the one of three axes on which it
 * turns most or leaps most, so that a spike is seen whichever way it points.
 * Both curves are told about the same mean and axis, so that they can be laid over each other.
 * @param before the clip whose mean and axis count
 * @param after another clip of the same skeleton and length
 * @returns degrees, one per frame
 */
export function turnCurves(before: Clip, after: Clip, joint: number): { before: Float32Array; after: Float32Array } {
  const joints = before.rotations.length / 4 / before.frames;
  const mean = new Float64Array(4);
  const q = new Float64Array(4);
  for (let f = 0; f < before.frames; f++) {
    q.set(before.rotations.subarray((f * joints + joint) * 4, (f * joints + joint) * 4 + 4));
    if (f > 0) alignSign(q, 0, mean, 0);
    for (let c = 0; c < 4; c++) mean[c] += q[c];
  }
  normalize(mean, 0);
  const v = new Float64Array(3);
  const turn = (clip: Clip, f: number): Float64Array => {
    invMul(q, 0, mean, 0, clip.rotations, (f * joints + joint) * 4);
    log(v, 0, q, 0);
    return v;
  };
  const curve = (clip: Clip, axis: number): Float32Array => Float32Array.from({ length: clip.frames }, (_, f) => turn(clip, f)[axis] / DEG);
  const curves = [0, 1, 2].map((axis) => curve(before, axis));
  const shows = curves.map((values) => {
    let squares = 0;
    let worst = 0;
    values.forEach((value, f) => {
      squares += value * value;
      if (f > 1) worst = Math.max(worst, Math.abs(value - 2 * values[f - 1] + values[f - 2]));
    });
    return Math.sqrt(squares / Math.max(1, values.length)) + worst;
  });
  const axis = shows.indexOf(Math.max(...shows));
  return { before: curves[axis], after: curve(after, axis) };
}
