import type { Animation, AnimationSampler } from '@gltf-transform/core';
import { fail, type Fault } from '../../errors';
import { canBeSized, frameGrid, makeContinuous, MAX_FRAMES, repeated, type Clip, type Track } from '../../clip';
import { copy, mul, normalize, rotate, slerp } from '../../math/quat';
import type { Skeleton } from '../../skeleton';
import type { MotionBudget } from '../limits';
import type { GlbLayout } from './layout';

/**
 * Samples a glTF animation evenly, as local rotations and folded translations of the skeleton's joints.
 * Keys that lie on even frames are those frames: each is taken as it is, and only between keys that were left out is anything made.
 * Other keys are sampled at the rate of the densest.
 * @param jointOf joint index of a node of the document, −1 when the node is no joint
 * @param budget what the file's motions may take together
 * @param known seconds of a frame, where who reads knows them
 */
export function sampleAnimation(
  animation: Animation,
  name: string,
  skeleton: Skeleton,
  layout: GlbLayout,
  jointOf: (channelIndex: number) => number,
  warnings: Fault[],
  budget: MotionBudget,
  known?: number,
): Clip | undefined {
  const joints = skeleton.names.length;
  const channels = animation.listChannels();
  let first = Infinity;
  let last = -Infinity;
  let dense: ArrayLike<number> = [];
  const lists: ArrayLike<number>[] = [];
  const used: { joint: number; path: 'rotation' | 'translation' | 'scale'; sampler: AnimationSampler; size: readonly number[] }[] = [];
  channels.forEach((channel, i) => {
    const joint = jointOf(i);
    const sampler = channel.getSampler();
    const path = channel.getTargetPath();
    const times = sampler?.getInput()?.getArray();
    if (joint < 0 || !sampler || !times || times.length === 0) return;
    if (path !== 'rotation' && path !== 'translation' && path !== 'scale') return;
    const size = channel.getTargetNode()?.getScale() ?? [1, 1, 1];
    if (path === 'scale' && isConstant(sampler, size)) return;
    for (let k = 0; k < times.length; k++) {
      if (!Number.isFinite(times[k]) || (k > 0 && times[k] < times[k - 1])) {
        fail('glb/animation', `the key times of animation "${name}" do not rise`, { joint: skeleton.names[joint], frame: k + 1 });
      }
    }
    first = Math.min(first, times[0]);
    last = Math.max(last, times[times.length - 1]);
    if (times.length > dense.length) dense = times;
    lists.push(times);
    used.push({ joint, path, sampler, size });
  });
  if (used.length === 0) return undefined;
  const grid = frameGrid(lists, known);
  const frameTime = grid?.frameTime ?? keySpacing(dense);
  const frames = grid?.frames ?? Math.round((last - first) / frameTime) + 1;
  if (!(frames <= MAX_FRAMES)) fail('clip/limit', `animation "${name}" has ${frames} frames; at most ${MAX_FRAMES} are read. Split it`);
  budget.take(name, frames, joints, used.filter(({ path }) => path !== 'rotation').length);
  const rotations = repeated(skeleton.restR, frames);
  const moves: Track[] = [];
  const sizes: Track[] = [];
  const value = new Float64Array(4);
  for (const { joint, path, sampler, size } of used) {
    const written = sampler.getInput()!.getArray()!;
    // On a grid time is counted in frames, so that what is read is what was written, key by key.
    const times = grid ? Float64Array.from(written as ArrayLike<number>, (time) => Math.round((time - first) / frameTime)) : written;
    const isRoot = skeleton.parents[joint] < 0;
    const track = path === 'rotation' ? undefined : new Float32Array(frames * 3);
    if (track) (path === 'scale' ? sizes : moves).push({ joint, values: track });
    const evaluate = evaluator(sampler, times, grid ? frameTime : 1, path === 'rotation' ? 4 : 3, name, skeleton.names[joint]);
    let key = 0;
    for (let f = 0; f < frames; f++) {
      const time = grid ? f : first + f * frameTime;
      while (key + 1 < times.length - 1 && times[key + 1] <= time) key++;
      evaluate(value, key, time);
      if (track && path === 'scale') {
        for (let c = 0; c < 3; c++) track[f * 3 + c] = value[c] / (Math.abs(size[c]) > 1e-9 ? size[c] : 1);
      } else if (track) {
        for (let c = 0; c < 3; c++) value[c] *= layout.scales[joint];
        if (isRoot) {
          rotate(value, 0, layout.containerR, joint * 4, value, 0);
          for (let c = 0; c < 3; c++) value[c] += layout.containerT[joint * 3 + c];
        }
        for (let c = 0; c < 3; c++) track[f * 3 + c] = value[c];
      } else {
        if (isRoot) mul(value, 0, layout.containerR, joint * 4, value, 0);
        copy(rotations, (f * joints + joint) * 4, value, 0);
      }
    }
  }
  makeContinuous(rotations, joints);
  const kept = sizes.filter((track) => {
    const can = canBeSized(skeleton, track);
    if (!can) {
      const message = `animation "${name}" scales this joint unequally, or mirrors it; the scaling is left out`;
      warnings.push({ code: 'glb/animation', message, where: { joint: skeleton.names[track.joint] } });
    }
    return can;
  });
  return { name, frameTime, frames, rotations, moves, ...(kept.length > 0 && { sizes: kept }) };
}

/** Seconds between samples of keys that lie on no even frames. */
function keySpacing(times: ArrayLike<number>): number {
  const gaps: number[] = [];
  for (let k = 1; k < times.length; k++) if (times[k] - times[k - 1] > 1e-6) gaps.push(times[k] - times[k - 1]);
  if (gaps.length === 0) return 1 / 30;
  gaps.sort((a, b) => a - b);
  const gap = gaps[gaps.length >> 1];
  // Sparse keys: sample finely enough that curves between them keep their shape.
  return gap > 1 / 20 ? 1 / 30 : Math.max(gap, 1 / 480);
}

/** Whether a node keeps the size that it has at rest. */
function isConstant(sampler: AnimationSampler, size: readonly number[]): boolean {
  const accessor = sampler.getOutput();
  const isCubic = sampler.getInterpolation() === 'CUBICSPLINE';
  const element: number[] = [];
  for (let i = isCubic ? 1 : 0; accessor && i < accessor.getCount(); i += isCubic ? 3 : 1) {
    accessor.getElement(i, element);
    if (element.some((value, c) => !(Math.abs(value - size[c]) <= 1e-4 * Math.abs(size[c])))) return false;
  }
  return true;
}

/**
 * Returns a function that writes the sampler's value at a time between keys `key` and `key + 1`.
 * @param times of its keys, in any unit
 * @param seconds of that unit: slopes are by the second
 */
function evaluator(
  sampler: AnimationSampler,
  times: ArrayLike<number>,
  seconds: number,
  size: 3 | 4,
  name: string,
  joint: string,
): (out: Float64Array, key: number, time: number) => void {
  const accessor = sampler.getOutput();
  const mode = sampler.getInterpolation();
  const perKey = mode === 'CUBICSPLINE' ? 3 : 1;
  if (!accessor || accessor.getElementSize() !== size || accessor.getCount() < times.length * perKey) {
    fail('glb/animation', `animation "${name}" has fewer values than key times`, { joint });
  }
  const values = new Float64Array(accessor.getCount() * size);
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element);
    for (let c = 0; c < size; c++) {
      if (!Number.isFinite(element[c])) {
        fail('clip/not-finite', `animation "${name}" holds a number that is not finite`, { joint, frame: Math.floor(i / perKey) + 1 });
      }
      values[i * size + c] = element[c];
    }
    if (size === 4 && mode !== 'CUBICSPLINE') normalize(values, i * 4);
  }
  return (out, key, time) => {
    const next = Math.min(key + 1, times.length - 1);
    const span = times[next] - times[key];
    const t = span > 0 ? Math.min(1, Math.max(0, (time - times[key]) / span)) : 0;
    if (mode === 'CUBICSPLINE') {
      const t2 = t * t;
      const t3 = t2 * t;
      for (let c = 0; c < size; c++) {
        const p0 = values[(key * 3 + 1) * size + c];
        const m0 = values[(key * 3 + 2) * size + c] * span * seconds;
        const p1 = values[(next * 3 + 1) * size + c];
        const m1 = values[next * 3 * size + c] * span * seconds;
        out[c] = (2 * t3 - 3 * t2 + 1) * p0 + (t3 - 2 * t2 + t) * m0 + (3 * t2 - 2 * t3) * p1 + (t3 - t2) * m1;
      }
      if (size === 4) normalize(out, 0);
    } else if (mode === 'STEP') {
      const at = t >= 1 ? next : key;
      for (let c = 0; c < size; c++) out[c] = values[at * size + c];
    } else if (size === 4) slerp(out, 0, values, key * 4, values, next * 4, t);
    else for (let c = 0; c < 3; c++) out[c] = values[key * 3 + c] * (1 - t) + values[next * 3 + c] * t;
  };
}
