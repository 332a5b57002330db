/** A motion laid into another of the same skeleton: put in between, in its place, or mixed with it. */
import { makeContinuous, mixedTracks, pickFrames, resample, type Clip } from '../clip';
import { smootherstep } from '../math/filter';
import { copy, slerp } from '../math/quat';
import type { Into } from '../recipe';
import type { Skeleton } from '../skeleton';

/** A motion laid into another. */
export interface Laid {
  readonly clip: Clip;
  /** Frame of the whole at which the motion that was laid in begins. */
  readonly first: number;
}

/**
 * Lays a motion into another. The rate is that of what is laid in.
 * @param base what is there: metres, Y up
 * @param carried what is laid in
 * @param taking 1 for joints that are laid in; the others go on as they are there, and hold still while something is put in between
 */
export function layInto(skeleton: Skeleton, base: Clip, carried: Clip, { way, at, ease, weight }: Into, taking: Uint8Array): Laid {
  const there = resample(skeleton, base, carried.frameTime);
  const first = Math.round(at / carried.frameTime);
  const isInsert = way === 'insert';
  // Put in behind the end, the last pose holds until then.
  const shift = isInsert ? carried.frames : 0;
  const frames = isInsert ? Math.max(there.frames, first) + carried.frames : Math.max(there.frames, first + carried.frames);
  const edge = Math.round(ease / carried.frameTime);
  const share = way === 'merge' ? weight : 1;
  /** How much of what is laid in a frame has. */
  const weightAt = (f: number): number => {
    const i = f - first;
    if (i < 0 || i >= carried.frames) return 0;
    const room = Math.min(i + 1, carried.frames - i) / (edge + 1);
    return share * (room >= 1 ? 1 : smootherstep(room));
  };
  /** Frame of what is there: while something is put in it stands still. */
  const baseAt = (f: number): number => {
    const own = isInsert && f >= first ? (f < first + shift ? first - 1 : f - shift) : f;
    return Math.max(0, Math.min(there.frames - 1, own));
  };
  const joints = skeleton.names.length;
  const rotations = new Float32Array(frames * joints * 4);
  for (let f = 0; f < frames; f++) {
    const from = baseAt(f) * joints * 4;
    rotations.set(there.rotations.subarray(from, from + joints * 4), f * joints * 4);
    const w = weightAt(f);
    if (w === 0) continue;
    for (let j = 0; j < joints; j++) {
      if (taking[j] === 0) continue;
      const o = (f * joints + j) * 4;
      const c = ((f - first) * joints + j) * 4;
      if (w === 1) copy(rotations, o, carried.rotations, c);
      else slerp(rotations, o, rotations, o, carried.rotations, c, w);
    }
  }
  makeContinuous(rotations, joints);
  const tracks = mixedTracks(
    there,
    carried,
    { frames, first: baseAt, second: (f) => f - first, share: (f, joint) => (taking[joint] === 1 ? weightAt(f) : 0) },
    skeleton.restT,
  );
  const { name, frameTime } = carried;
  return { clip: { name, frameTime, frames, rotations, ...tracks }, first };
}

/** A take that plays from a frame of a longer motion, and holds its ends before and behind: frame for frame beside the whole. */
export function heldTo(take: Clip, first: number, frames: number): Clip {
  return pickFrames(
    take,
    Int32Array.from({ length: frames }, (_, f) => Math.max(0, Math.min(take.frames - 1, f - first))),
  );
}
