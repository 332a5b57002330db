import type { Clip } from '../clip';
import type { FaceWeights } from '../formats';
import { smootherstep } from '../math/filter';
import { exp, log, mul, mulInv, normalize } from '../math/quat';
import { jointCount, type Skeleton } from '../skeleton';

/** Changes made by closing a loop. */
export interface Looped {
  readonly clip: Clip;
  /** The largest turn by which first and last pose differed, radians. */
  readonly gap: number;
}

/** Share of the difference of both ends that a moment takes: half at either end, of opposite sign, dying out over `width`. */
function shareAt(at: number, end: number, width: number): number {
  return 0.5 * (1 - smootherstep(Math.min(1, at / width))) - 0.5 * (1 - smootherstep(Math.min(1, (end - at) / width)));
}

/** The same for weights of face shapes, which have their own times. @param seconds as of the body */
export function loopWeights({ times, shapes, values }: FaceWeights, seconds: number): FaceWeights {
  const [last, end] = [times.length - 1, times[times.length - 1]];
  const width = Math.min(seconds, end / 3);
  if (!(width > 0)) return { times, shapes, values };
  const out = values.slice();
  times.forEach((time, t) => {
    const share = shareAt(time, end, width);
    shapes.forEach((_, s) => (out[t * shapes.length + s] += share * (values[last * shapes.length + s] - values[s])));
  });
  return { times, shapes, values: out };
}

/**
 * Makes the last pose the first one, so that a motion can be played on end: each gives half of what they differ by, and the
 * correction dies out into the clip without a corner. The joint that carries the body keeps its travel over the floor; its height meets.
 * @param seconds over which the correction dies out at either end, at most a third of the clip
 * @param carriers joints whose translation is travel
 */
export function makeLoop(skeleton: Skeleton, clip: Clip, seconds: number, carriers: ReadonlySet<number>): Looped {
  const { frames, frameTime } = clip;
  const width = Math.min(seconds / frameTime, (frames - 1) / 3);
  if (frames < 4 || width < 1) return { clip, gap: 0 };
  const joints = jointCount(skeleton);
  const last = frames - 1;
  const share = (f: number): number => shareAt(f, last, width);
  const rotations = clip.rotations.slice();
  const d = new Float64Array(4);
  const w = new Float64Array(3);
  const q = new Float64Array(4);
  let gap = 0;
  for (let j = 0; j < joints; j++) {
    // The turn from the first pose to the last, seen from what carries the joint.
    mulInv(d, 0, rotations, (last * joints + j) * 4, rotations, j * 4);
    log(w, 0, d, 0);
    gap = Math.max(gap, Math.sqrt(w[0] * w[0] + w[1] * w[1] + w[2] * w[2]));
    for (let f = 0; f < frames; f++) {
      const s = share(f);
      if (s === 0) continue;
      exp(q, 0, w[0] * s, w[1] * s, w[2] * s);
      const o = (f * joints + j) * 4;
      mul(rotations, o, q, 0, rotations, o);
      normalize(rotations, o);
    }
  }
  const moves = clip.moves.map(({ joint, values }) => {
    const out = values.slice();
    for (let c = 0; c < 3; c++) {
      // Heights meet; travel over the floor goes on.
      if (carriers.has(joint) && c !== 1) continue;
      const by = values[last * 3 + c] - values[c];
      for (let f = 0; f < frames; f++) out[f * 3 + c] += by * share(f);
    }
    return { joint, values: out };
  });
  const sizes = clip.sizes?.map(({ joint, values }) => ({
    joint,
    values: values.map((value, i) => value + (values[last * 3 + (i % 3)] - values[i % 3]) * share(Math.floor(i / 3))),
  }));
  return { clip: { ...clip, rotations, moves, ...(sizes && { sizes }) }, gap };
}
