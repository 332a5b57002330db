import type { Clip } from '../clip';
import { hermite } from '../math/filter';
import { exp, invMul, log, mul, normalize, slerp } from '../math/quat';
import type { Rig } from '../rig';
import { findSamplingFaults, isRepairable, repair } from '../take';
import { blurred } from './blur';
import { sharesOf, type Masked } from './parts';

/** The running mean about which a motion is made larger or smaller, seconds: over a stride; and what is quicker than its slow part. */
const MEAN = 1.2;
const DETAIL = 0.1;

/** A motion that is quicker than some seconds calmed, without delay. */
export function calmed(clip: Clip, seconds: number): Clip {
  const sigma = seconds / clip.frameTime;
  const rotations = new Float32Array(blurred(new Float64Array(clip.rotations), clip.rotations.length / clip.frames, sigma));
  for (let o = 0; o < rotations.length; o += 4) normalize(rotations, o);
  const moves = clip.moves.map(({ joint, values }) => ({ joint, values: placesCalmed(values, sigma) }));
  return { ...clip, rotations, moves };
}

/** Places go on beyond their ends as they come there, turned about them: a way is not held back at its ends. */
function placesCalmed(values: Float32Array, sigma: number): Float32Array {
  const frames = values.length / 3;
  const pad = Math.min(frames - 1, Math.ceil(4 * sigma));
  const wide = new Float64Array((frames + 2 * pad) * 3);
  for (let f = -pad; f < frames + pad; f++) {
    const end = f < 0 ? 0 : frames - 1;
    const isOut = f < 0 || f >= frames;
    for (let c = 0; c < 3; c++) {
      wide[(f + pad) * 3 + c] = isOut ? 2 * values[end * 3 + c] - values[(2 * end - f) * 3 + c] : values[f * 3 + c];
    }
  }
  return new Float32Array(blurred(wide, 3, sigma).subarray(pad * 3, (pad + frames) * 3));
}

/**
 * The slow part of a motion made larger or smaller about its running mean; what is quicker stays as it is (bands of a motion: Bruderlin and
 * Williams 1995).
 */
export function scaled(clip: Clip, factor: number): Clip {
  const [mean, slow] = [calmed(clip, MEAN), calmed(clip, DETAIL)];
  const rotations = new Float32Array(clip.rotations.length);
  const q = new Float64Array(4);
  const w = new Float64Array(3);
  for (let o = 0; o < rotations.length; o += 4) {
    invMul(q, 0, mean.rotations, o, slow.rotations, o);
    log(w, 0, q, 0);
    exp(q, 0, w[0] * factor, w[1] * factor, w[2] * factor);
    mul(rotations, o, mean.rotations, o, q, 0);
    invMul(q, 0, slow.rotations, o, clip.rotations, o);
    mul(rotations, o, rotations, o, q, 0);
  }
  const moves = clip.moves.map(({ joint, values }, i) => ({
    joint,
    values: values.map((value, k) => value + (factor - 1) * (slow.moves[i].values[k] - mean.moves[i].values[k])),
  }));
  return { ...clip, rotations, moves };
}

/** Single frames that stick out, and jumps, mended. */
export function withoutSpikes({ skeleton, roles, legLength }: Rig, clip: Clip): Clip {
  const faults = findSamplingFaults(skeleton, clip, roles, legLength).filter(({ kind }) => isRepairable(kind) && kind !== 'repeat');
  return faults.length === 0 ? clip : repair(skeleton, clip, faults);
}

/** The frames between two drawn anew: from the first to the last with the speed that the motion has there. */
export function bridged(clip: Clip, first: number, last: number): Clip {
  const width = last - first;
  if (width < 2) return clip;
  const rotations = clip.rotations.slice();
  const joints = clip.rotations.length / clip.frames / 4;
  const q = new Float64Array(4);
  const [whole, before, after] = [new Float64Array(3), new Float64Array(3), new Float64Array(3)];
  const [left, right] = [Math.max(0, first - 1), Math.min(clip.frames - 1, last + 1)];
  for (let j = 0; j < joints; j++) {
    const at = (f: number): number => (f * joints + j) * 4;
    const between = (out: Float64Array, a: number, b: number): void => {
      invMul(q, 0, clip.rotations, at(a), clip.rotations, at(b));
      log(out, 0, q, 0);
    };
    between(whole, first, last);
    between(before, left, first);
    between(after, last, right);
    for (let f = first + 1; f < last; f++) {
      const t = (f - first) / width;
      const part = (c: number): number => hermite(0, before[c], whole[c], after[c], width, t);
      exp(q, 0, part(0), part(1), part(2));
      mul(rotations, at(f), clip.rotations, at(first), q, 0);
    }
  }
  const moves = clip.moves.map(({ joint, values }) => {
    const out = values.slice();
    for (let f = first + 1; f < last; f++) {
      for (let c = 0; c < 3; c++) {
        const v = (frame: number): number => values[frame * 3 + c];
        out[f * 3 + c] = hermite(v(first), v(first) - v(left), v(last), v(right) - v(last), width, (f - first) / width);
      }
    }
    return { joint, values: out };
  });
  return { ...clip, rotations, moves };
}

const WHOLE: Masked = { parts: [] };

/** Goes over from one motion to another by a weight in each frame, in the joints of some parts, each by its share. */
export function blended(
  { skeleton, roles }: Pick<Rig, 'skeleton' | 'roles'>,
  from: Clip,
  to: Clip,
  weights: Float64Array,
  masked: Masked = WHOLE,
): Clip {
  if (to === from) return from;
  const shares = sharesOf(skeleton, roles, masked);
  const rotations = from.rotations.slice();
  const joints = shares.length;
  const q = new Float64Array(4);
  weights.forEach((whole, f) => {
    if (whole === 0) return;
    for (let j = 0; j < joints; j++) {
      const weight = whole * shares[j];
      if (weight === 0) continue;
      const o = (f * joints + j) * 4;
      if (weight === 1) for (let c = 0; c < 4; c++) q[c] = to.rotations[o + c];
      else slerp(q, 0, from.rotations, o, to.rotations, o, weight);
      let dot = 0;
      for (let c = 0; c < 4; c++) dot += q[c] * from.rotations[o + c];
      for (let c = 0; c < 4; c++) rotations[o + c] = dot < 0 ? -q[c] : q[c];
    }
  });
  const moves = from.moves.map(({ joint, values }, i) => {
    if (shares[joint] === 0) return { joint, values };
    const out = values.slice();
    const there = to.moves[i].values;
    weights.forEach((whole, f) => {
      const weight = whole * shares[joint];
      if (weight === 0) return;
      for (let k = f * 3; k < f * 3 + 3; k++) out[k] = weight === 1 ? there[k] : values[k] + weight * (there[k] - values[k]);
    });
    return { joint, values: out };
  });
  return { ...from, rotations, moves };
}
