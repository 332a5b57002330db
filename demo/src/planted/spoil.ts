import { ClipReader, type Clip, type Rig } from '@hollow-stride/core';
import { gaussian } from '@hollow-stride/core/math/filter';
import { fromAxisAngle, invert, mul, normalize } from '@hollow-stride/core/math/quat';
import { sin } from '@hollow-stride/core/math/trig';

/** The strength of a fault from frame to frame, 0 to 1. */
export type Strength = (frame: number) => number;

/** Rises and falls as a half wave does, so that no frame by itself is out of its way. */
export const swell =
  (first: number, last: number): Strength =>
  (frame) =>
    frame <= first || frame >= last ? 0 : sin((Math.PI * (frame - first)) / (last - first)) ** 0.5;

/** A copy of a motion that can be spoilt. */
export function copyOf(clip: Clip): Clip {
  return { ...clip, rotations: clip.rotations.slice(), moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })) };
}

/** A motion in which one joint, with all below it, is turned about an axis of the world. */
export function turned(
  rig: Rig,
  clip: Clip,
  joint: number,
  axis: readonly [number, number, number],
  radians: number,
  strength: Strength,
): Clip {
  const out = copyOf(clip);
  const reader = new ClipReader(rig.skeleton, clip);
  const { parents } = rig.skeleton;
  const above = new Float64Array(4);
  const turn = new Float64Array(4);
  const local = new Float64Array(4);
  for (let f = 0; f < clip.frames; f++) {
    const share = strength(f);
    if (share === 0) continue;
    const { rotations } = reader.at(f);
    const o = (f * parents.length + joint) * 4;
    fromAxisAngle(turn, 0, ...axis, radians * share);
    const parent = parents[joint];
    if (parent < 0) above.set([0, 0, 0, 1]);
    else above.set(rotations.subarray(parent * 4, parent * 4 + 4));
    local.set(clip.rotations.subarray(o, o + 4));
    mul(local, 0, above, 0, local, 0);
    mul(local, 0, turn, 0, local, 0);
    invert(above, 0, above, 0);
    mul(local, 0, above, 0, local, 0);
    out.rotations.set(local, o);
  }
  return out;
}

/** The same, with a joint below kept as it stood in the world: a leg that is moved and a foot that stays level. */
export function turnedBut(
  rig: Rig,
  clip: Clip,
  [joint, kept]: readonly [number, number],
  axis: readonly [number, number, number],
  radians: number,
  strength: Strength,
): Clip {
  return turned(rig, turned(rig, clip, joint, axis, radians, strength), kept, axis, -radians, strength);
}

/** A motion moved as a whole. */
export function moved(clip: Clip, way: (frame: number) => readonly [number, number, number]): Clip {
  const out = copyOf(clip);
  const [{ values }] = out.moves;
  for (let f = 0; f < clip.frames; f++) way(f).forEach((v, c) => (values[f * 3 + c] += v));
  return out;
}

/** A motion in which some joints are smoothed over time. */
export function smoothed({ skeleton }: Rig, clip: Clip, joints: readonly number[], seconds: number): Clip {
  const out = copyOf(clip);
  const series = new Float64Array(clip.frames * 4);
  const step = skeleton.parents.length * 4;
  for (const joint of joints) {
    for (let f = 0; f < clip.frames; f++) {
      const o = f * step + joint * 4;
      let same = 0;
      for (let c = 0; c < 4; c++) same += f === 0 ? 1 : series[(f - 1) * 4 + c] * clip.rotations[o + c];
      for (let c = 0; c < 4; c++) series[f * 4 + c] = (same < 0 ? -1 : 1) * clip.rotations[o + c];
    }
    const soft = gaussian(series, 4, seconds / clip.frameTime);
    for (let f = 0; f < clip.frames; f++) {
      normalize(soft, f * 4);
      out.rotations.set(soft.subarray(f * 4, f * 4 + 4), f * step + joint * 4);
    }
  }
  return out;
}

/** A motion whose frames are taken from others: frame f shows what `from(f)` did, between two frames in between. For all joints, or for some. */
export function retimed({ skeleton }: Rig, clip: Clip, from: (frame: number) => number, joints?: readonly number[]): Clip {
  const out = copyOf(clip);
  const count = skeleton.parents.length;
  const q = new Float64Array(4);
  for (let f = 0; f < clip.frames; f++) {
    const at = Math.max(0, Math.min(clip.frames - 1, from(f)));
    const a = Math.floor(at);
    const b = Math.min(clip.frames - 1, a + 1);
    for (const joint of joints ?? skeleton.parents.keys()) {
      const [i, k] = [(a * count + joint) * 4, (b * count + joint) * 4];
      let same = 0;
      for (let c = 0; c < 4; c++) same += clip.rotations[i + c] * clip.rotations[k + c];
      for (let c = 0; c < 4; c++) q[c] = (1 - (at - a)) * clip.rotations[i + c] + (at - a) * (same < 0 ? -1 : 1) * clip.rotations[k + c];
      normalize(q, 0);
      out.rotations.set(q, (f * count + joint) * 4);
    }
    if (joints) continue;
    for (const [m, { values }] of clip.moves.entries()) {
      for (let c = 0; c < 3; c++) out.moves[m].values[f * 3 + c] = values[a * 3 + c] + (at - a) * (values[b * 3 + c] - values[a * 3 + c]);
    }
  }
  return out;
}
