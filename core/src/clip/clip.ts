import { alignSign, identity, copy } from '../math/quat';
import { emptyPose, forward, jointCount, type Pose, type Skeleton } from '../skeleton';

/** Limits on what a file may hold; beyond them a reader refuses before it takes the memory. */
export const MAX_FRAMES = 500_000;
export const MAX_SAMPLES = 40_000_000;

/** Local translations over time for one joint, 3 per frame. */
export interface TranslationTrack {
  readonly joint: number;
  readonly values: Float32Array;
}

/** A motion on a skeleton, sampled evenly. */
export interface Clip {
  readonly name: string;
  /** Seconds from frame to frame. */
  readonly frameTime: number;
  readonly frames: number;
  /** Local rotations, frames × joints × 4, continuous in sign along time. */
  readonly rotations: Float32Array;
  /** Translations of the joints that have them; the others keep their rest translation. */
  readonly moves: readonly TranslationTrack[];
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

  /** @param joints the joints that are asked for, parents before children (`withAncestors`); all by default */
  constructor(
    readonly skeleton: Skeleton,
    readonly clip: Clip,
    private readonly joints?: Int32Array,
  ) {
    this.pose = emptyPose(skeleton);
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
    forward(this.pose, skeleton.parents, translations, clip.rotations, frame * skeleton.parents.length * 4, this.joints);
    return this.pose;
  }
}

/** The frames from `first` to `last`, both included. */
export function trim(skeleton: Skeleton, clip: Clip, first: number, last: number): Clip {
  const stride = jointCount(skeleton) * 4;
  return {
    ...clip,
    frames: last - first + 1,
    rotations: clip.rotations.slice(first * stride, (last + 1) * stride),
    moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice(first * 3, (last + 1) * 3) })),
  };
}

/** Frames of a clip in any order, each as often as it is named. */
export function pickFrames(clip: Clip, order: ArrayLike<number>): Clip {
  const frames = order.length;
  const row = clip.rotations.length / clip.frames;
  const rotations = new Float32Array(frames * row);
  for (let f = 0; f < frames; f++) rotations.set(clip.rotations.subarray(order[f] * row, (order[f] + 1) * row), f * row);
  const moves = clip.moves.map(({ joint, values }) => {
    const picked = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) picked.set(values.subarray(order[f] * 3, order[f] * 3 + 3), f * 3);
    return { joint, values: picked };
  });
  return { ...clip, frames, rotations, moves };
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
  const moves = clip.moves.map(({ joint }) => ({ joint, values: new Float32Array(frames * 3) }));
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
    moves.forEach(({ values }, i) => {
      const source = clip.moves[i].values;
      for (let c = 0; c < 3; c++) {
        values[f * 3 + c] = (1 - t) * source[a * 3 + c] + t * source[(a + 1) * 3 + c];
      }
    });
  }
  makeContinuous(rotations, joints);
  return { ...clip, frameTime, frames, rotations, moves };
}
