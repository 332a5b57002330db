import { alignSign, identity, copy } from '../math/quat';
import { emptyPose, forward, jointCount, type Pose, type Skeleton } from '../skeleton';
import { Sizer } from './sizes';
import type { Track } from './track';

/** Limits on what a file may hold; beyond them a reader refuses before it takes the memory. */
export const MAX_FRAMES = 500_000;
export const MAX_SAMPLES = 40_000_000;

/** A motion on a skeleton, sampled evenly. */
export interface Clip {
  readonly name: string;
  /** Seconds from frame to frame. */
  readonly frameTime: number;
  readonly frames: number;
  /** Local rotations, frames × joints × 4, continuous in sign along time. */
  readonly rotations: Float32Array;
  /** Translations of the joints that have them; the others keep their rest translation. */
  readonly moves: readonly Track[];
  /** Sizes over those at rest, along a joint's own axes, of the joints that grow and shrink. */
  readonly sizes?: readonly Track[];
}

/** Length in seconds from the first frame to the last. */
export function duration(clip: Pick<Clip, 'frames' | 'frameTime'>): number {
  return Math.max(0, clip.frames - 1) * clip.frameTime;
}

/** A clip in which the skeleton stands in its rest pose. */
export function restClip(skeleton: Skeleton, frames = 1, frameTime = 1 / 30): Clip {
  return { name: 'rest', frameTime, frames, rotations: repeated(skeleton.restR, frames), moves: [] };
}

/** One frame's rotations, as often as there are frames. */
export function repeated(row: ArrayLike<number>, frames: number): Float32Array {
  const out = new Float32Array(frames * row.length);
  if (frames > 0) out.set(row);
  // The buffer doubles when it is full: copying for each frame would be quadratic.
  for (let done = row.length; done > 0 && done < out.length; done *= 2) out.copyWithin(done, 0, Math.min(done, out.length - done));
  return out;
}

/** Negates quaternions in place where that keeps a joint's rotations continuous in sign. */
export function makeContinuous(rotations: Float32Array, joints: number): void {
  const stride = joints * 4;
  for (let o = stride; o < rotations.length; o += 4) {
    // Where the scalar parts agree by so much the whole does (w² + w'² ≥ 2ww' ≥ 1).
    if (rotations[o + 3] * rotations[o + 3 - stride] < 0.5) alignSign(rotations, o, rotations, o - stride);
  }
}

/** Reads frames of a clip as world poses without allocating. */
export class ClipReader {
  readonly pose: Pose;
  private readonly translations: Float64Array;
  private readonly sizer: Sizer | undefined;

  /** @param joints the joints that are asked for, parents before children (`withAncestors`); all by default */
  constructor(
    readonly skeleton: Skeleton,
    readonly clip: Clip,
    private readonly joints?: Int32Array,
  ) {
    const { sizes = [], moves } = clip;
    this.sizer = sizes.length > 0 ? new Sizer(skeleton, sizes, moves) : undefined;
    this.pose = this.sizer ? { ...emptyPose(skeleton), sizes: this.sizer.sizes } : emptyPose(skeleton);
    this.translations = skeleton.restT.slice();
  }

  /** Poses the skeleton at a frame; the result is overwritten by the next call. */
  at(frame: number): Pose {
    const { clip, skeleton, translations } = this;
    for (const { joint, values } of clip.moves) {
      translations[joint * 3] = values[frame * 3];
      translations[joint * 3 + 1] = values[frame * 3 + 1];
      translations[joint * 3 + 2] = values[frame * 3 + 2];
    }
    this.sizer?.at(frame, translations);
    forward(this.pose, skeleton.parents, translations, clip.rotations, frame * skeleton.parents.length * 4, this.joints);
    return this.pose;
  }

  /** A joint's local translation in the frame that was posed last, as its sizes leave it. */
  local(joint: number): Float64Array {
    return this.translations.subarray(joint * 3, joint * 3 + 3);
  }
}

/** The frames from `first` to `last`, both included. */
export function trim(skeleton: Skeleton, clip: Clip, first: number, last: number): Clip {
  const stride = jointCount(skeleton) * 4;
  return {
    ...withTracks(clip, (values) => values.slice(first * 3, (last + 1) * 3)),
    frames: last - first + 1,
    rotations: clip.rotations.slice(first * stride, (last + 1) * stride),
  };
}

/** Frames of a clip in any order, each as often as it is named. */
export function pickFrames(clip: Clip, order: ArrayLike<number>): Clip {
  const frames = order.length;
  const row = clip.rotations.length / clip.frames;
  const rotations = new Float32Array(frames * row);
  for (let f = 0; f < frames; f++) rotations.set(clip.rotations.subarray(order[f] * row, (order[f] + 1) * row), f * row);
  const tracked = withTracks(clip, (values) => {
    const picked = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) picked.set(values.subarray(order[f] * 3, order[f] * 3 + 3), f * 3);
    return picked;
  });
  return { ...tracked, frames, rotations };
}

/** The clip with the values of all its tracks made anew. */
export function withTracks(clip: Clip, make: (values: Float32Array) => Float32Array): Clip {
  const made = (tracks: readonly Track[]): Track[] => tracks.map(({ joint, values }) => ({ joint, values: make(values) }));
  return { ...clip, moves: made(clip.moves), ...(clip.sizes && { sizes: made(clip.sizes) }) };
}

/** The clip without sizes. */
export function unsized(clip: Clip): Clip {
  const { sizes: _, ...rest } = clip;
  return clip.sizes ? rest : clip;
}

/** The clip without sizes, and with what hangs on sized joints where these have it: for what knows places alone. */
export function bakeSizes(skeleton: Skeleton, clip: Clip): Clip {
  const { sizes = [], frames } = clip;
  if (sizes.length === 0) return clip;
  const reader = new ClipReader(skeleton, clip);
  const { parents } = skeleton;
  const isSized = (j: number): boolean => j >= 0 && (sizes.some(({ joint }) => joint === j) || isSized(parents[j]));
  const kept = clip.moves.filter(({ joint }) => !isSized(parents[joint]));
  const baked = [...parents.keys()]
    .filter((j) => isSized(parents[j]))
    .map((joint): Track => ({ joint, values: new Float32Array(frames * 3) }));
  for (let f = 0; f < frames; f++) {
    reader.at(f);
    for (const { joint, values } of baked) values.set(reader.local(joint), f * 3);
  }
  return { ...unsized(clip), moves: [...kept, ...baked].sort((a, b) => a.joint - b.joint) };
}

/** Frames that are left at another frame time, of a clip of so many. */
export function resampledFrames(frames: number, from: number, to: number): number {
  return Math.abs(to - from) < 1e-9 || frames < 2 ? frames : Math.floor(((frames - 1) * from) / to + 1e-6) + 1;
}

/**
 * The clip at another frame rate: rotations by normalised linear blending between neighbours (which are close),
 * translations linearly. The last frame is kept when it falls on the new grid.
 */
export function resample(skeleton: Skeleton, clip: Clip, frameTime: number): Clip {
  if (Math.abs(frameTime - clip.frameTime) < 1e-9 || clip.frames < 2) return clip;
  const joints = jointCount(skeleton);
  const frames = resampledFrames(clip.frames, clip.frameTime, frameTime);
  const rotations = new Float32Array(frames * joints * 4);
  const q = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const at = Math.min((f * frameTime) / clip.frameTime, clip.frames - 1);
    const a = Math.min(Math.floor(at), clip.frames - 2);
    const t = at - a;
    for (let j = 0; j < joints; j++) {
      const ao = (a * joints + j) * 4;
      const bo = ao + joints * 4;
      const dot =
        clip.rotations[ao] * clip.rotations[bo] +
        clip.rotations[ao + 1] * clip.rotations[bo + 1] +
        clip.rotations[ao + 2] * clip.rotations[bo + 2] +
        clip.rotations[ao + 3] * clip.rotations[bo + 3];
      const s = dot < 0 ? -t : t;
      let n = 0;
      for (let c = 0; c < 4; c++) {
        q[c] = (1 - t) * clip.rotations[ao + c] + s * clip.rotations[bo + c];
        n += q[c] * q[c];
      }
      n = Math.sqrt(n);
      if (n < 1e-9) identity(q, 0);
      else for (let c = 0; c < 4; c++) q[c] /= n;
      copy(rotations, (f * joints + j) * 4, q, 0);
    }
  }
  makeContinuous(rotations, joints);
  const tracked = withTracks(clip, (source) => {
    const values = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      const at = Math.min((f * frameTime) / clip.frameTime, clip.frames - 1);
      const a = Math.min(Math.floor(at), clip.frames - 2);
      const t = at - a;
      for (let c = 0; c < 3; c++) values[f * 3 + c] = (1 - t) * source[a * 3 + c] + t * source[(a + 1) * 3 + c];
    }
    return values;
  });
  return { ...tracked, frameTime, frames, rotations };
}
