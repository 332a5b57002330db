import { clipOf, type Rig } from '../rig';
import { backwards, resample, resampledFrames, trim, type Clip } from '../clip';
import type { MotionFile } from '../formats';
import { fail } from '../errors';
import { copy, fromAxisAngle, mul, rotate } from '../math/quat';
import { DEG } from '../math/trig';
import { DEFAULT_TAKE, type TakeChoices } from '../recipe';
import type { Skeleton } from '../skeleton';
import { withoutDrift } from './floorKeys';
import { isRepairable, repair, repairsAll, smooth } from './clean';
import type { SamplingFault } from './fault';
import { findSamplingFaults } from './faults';
import { findRepeats } from './repeats';

/** How the clip of a prepared take lies in the file's own time. */
export interface OwnTime {
  /** Seconds of the file at which it begins. */
  readonly start: number;
  /** Seconds of the clip for each second of the file: other than 1 where the rate was overruled, below 0 where it plays backwards. */
  readonly pace: number;
}

/** First and last frame of a file's clip that a take plays, from 0. @throws FaultError take/range */
export function rangeOf(
  clip: Pick<Clip, 'frames' | 'frameTime'>,
  { from, to }: Pick<TakeChoices, 'from' | 'to'>,
  name: string,
): { first: number; last: number } {
  const frameAt = (seconds: number): number => Math.round(seconds / clip.frameTime);
  const first = from === null ? 0 : frameAt(from);
  const last = to === null ? clip.frames - 1 : Math.min(frameAt(to), clip.frames - 1);
  if (first > last) {
    const end = (clip.frames - 1) * clip.frameTime;
    fail(
      'take/range',
      `the handles stand at ${(from ?? 0).toFixed(2)} s and ${(to ?? end).toFixed(2)} s, and the take ends at ${end.toFixed(2)} s`,
      {
        file: name,
        frame: first + 1,
      },
    );
  }
  return { first, last };
}

/** Where a prepared take lies in the file's own time. @throws FaultError take/range, clip/none */
export function ownTimeOf(file: MotionFile, clipIndex: number, choices: TakeChoices): OwnTime {
  const clip = file.clips[clipIndex] as Clip | undefined;
  if (!clip || clip.frames === 0) fail('clip/none', 'the file holds no motion', { file: file.name });
  const { first, last } = rangeOf(clip, choices, file.name);
  const pace = choices.rate === null ? 1 : 1 / choices.rate / clip.frameTime;
  return choices.reversed ? { start: last * clip.frameTime, pace: -pace } : { start: first * clip.frameTime, pace };
}

/**
 * A take as a person set it: gaps filled, spikes removed, smoothed, laid on its floor, trimmed, turned back to front, resampled. The file's own
 * clip is not changed.
 * @param inTime frames that repeat the one before are led over, also where nobody asks for it: a leg that stands would turn them into jerks of its knee
 * @returns metres, Y up
 * @throws FaultError take/range when a handle lies outside the take, clip/none
 */
export function prepareTake(
  file: MotionFile,
  rig: Rig,
  clipIndex = 0,
  choices: TakeChoices = DEFAULT_TAKE,
  { inTime = false }: { readonly inTime?: boolean } = {},
): Clip {
  const { skeleton, roles } = rig;
  let clip = clipOf(file, rig, clipIndex);
  const { first, last } = rangeOf(clip, choices, file.name);
  if (choices.rate !== null) clip = { ...clip, frameTime: 1 / choices.rate };
  const { clean } = choices;
  const { gaps, spikes, jumps, mended, cutoff } = clean;
  const found = gaps || spikes || jumps ? findSamplingFaults(skeleton, clip, roles, rig.legLength) : [];
  const own = 1 / file.clips[clipIndex].frameTime;
  clip = repair(skeleton, clip, [
    ...found.filter(({ kind }) => isRepairable(kind) && repairsAll(clean, kind)),
    ...(inTime && !gaps ? findRepeats(skeleton, clip) : []),
    // One that goes with all of its kind is not repaired twice.
    ...mended.filter(({ kind }) => !repairsAll(clean, kind)).map((one) => faultAt(one, skeleton, own, clip.frames)),
  ]);
  // Trimmed before it is smoothed, so that a rest pose in front does not bleed into the first frames.
  if (first > 0 || last < clip.frames - 1) clip = trim(skeleton, clip, first, last);
  clip = smooth(skeleton, clip, roles, cutoff);
  const timeOf = (frame: number): number => (first + frame) / own;
  clip = withoutDrift(skeleton, clip, choices.floor.keys ?? [], roles.get('hips') ?? rig.carrier, timeOf);
  clip = layOnFloor(skeleton, clip, choices.floor);
  if (choices.reversed) clip = backwards(clip);
  return choices.fps === null ? clip : resample(skeleton, clip, 1 / choices.fps);
}

/** A fault that is repaired by itself, as of a clip's frames. */
function faultAt(
  { kind, from, to, joint }: TakeChoices['clean']['mended'][number],
  { names }: Skeleton,
  rate: number,
  frames: number,
): SamplingFault {
  const frameAt = (seconds: number): number => Math.min(frames - 1, Math.round(seconds * rate));
  const at = joint === null ? -1 : names.indexOf(joint);
  return { kind, from: frameAt(from), to: frameAt(to), joint: at < 0 ? undefined : at, message: '' };
}

/**
 * Frames and rate that a prepared take has, told without making it.
 * @param clip as the file has it
 * @param fps that a pairing or a run asks for; null as the take was set, or as it was recorded
 */
export function lengthOf(
  clip: Pick<Clip, 'frames' | 'frameTime' | 'name'>,
  choices: TakeChoices,
  fps: number | null,
): { frames: number; fps: number } {
  const { first, last } = rangeOf(clip, choices, clip.name);
  const own = choices.rate === null ? clip.frameTime : 1 / choices.rate;
  const rate = fps ?? choices.fps;
  const frames = last - first + 1;
  return rate === null ? { frames, fps: 1 / own } : { frames: resampledFrames(frames, own, 1 / rate), fps: rate };
}

/** Raises, turns (about the vertical through the origin) and shifts a whole take. */
export function layOnFloor(skeleton: Skeleton, clip: Clip, { height, heading, place }: TakeChoices['floor']): Clip {
  if (height === 0 && heading === 0 && place[0] === 0 && place[1] === 0) return clip;
  const joints = skeleton.parents.length;
  const turn = new Float64Array(4);
  fromAxisAngle(turn, 0, 0, 1, 0, heading * DEG);
  const rotations = clip.rotations.slice();
  const q = new Float64Array(4);
  const moves = clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() }));
  for (let j = 0; j < joints; j++) {
    if (skeleton.parents[j] >= 0) continue;
    for (let f = 0; f < clip.frames; f++) {
      const o = (f * joints + j) * 4;
      copy(q, 0, rotations, o);
      mul(q, 0, turn, 0, q, 0);
      copy(rotations, o, q, 0);
    }
    let track = moves.find(({ joint }) => joint === j);
    if (!track) {
      // A root without translations of its own stands at its rest place.
      track = { joint: j, values: new Float32Array(clip.frames * 3) };
      for (let f = 0; f < clip.frames; f++) track.values.set(skeleton.restT.subarray(j * 3, j * 3 + 3), f * 3);
      moves.push(track);
    }
    const { values } = track;
    const v = new Float64Array(3);
    for (let f = 0; f < clip.frames; f++) {
      for (let c = 0; c < 3; c++) v[c] = values[f * 3 + c];
      rotate(v, 0, turn, 0, v, 0);
      values[f * 3] = v[0] + place[0];
      values[f * 3 + 1] = v[1] + height;
      values[f * 3 + 2] = v[2] + place[1];
    }
  }
  return { ...clip, rotations, moves };
}
