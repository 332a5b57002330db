/** How long a lane plays, told before anything of it is solved. */
import { resampledFrames } from '../clip';
import type { ReelClip, ReelLane } from '../recipe';

/** Frames of a motion and the seconds of each. */
export interface Length {
  readonly frames: number;
  readonly frameTime: number;
}

/**
 * The frames that `playLane` gives for the same lane.
 * @param lengthOf of the result of a take on the lane's character
 */
export function laneFrames(lane: ReelLane, fps: number, lengthOf: (take: string) => Length): number {
  // The clip that begins last ends the lane: what it overlaps goes over into it.
  const begins = lane.clips.map((clip) => firstFrame(lane, clip, fps));
  const last = begins.lastIndexOf(Math.max(...begins));
  return last < 0 ? 0 : begins[last] + clipFrames(lane.clips[last], fps, lane.pace, lengthOf);
}

/** The frame of its lane at which a clip begins. */
export const firstFrame = ({ pace, shift }: ReelLane, { start }: ReelClip, fps: number): number =>
  Math.max(0, Math.round((start / pace + shift) * fps));

/** First and last frame of a result that a clip plays. */
export function cutOf({ from, to }: Pick<ReelClip, 'from' | 'to'>, { frames, frameTime }: Length): readonly [first: number, last: number] {
  const frameAt = (seconds: number): number => Math.min(frames - 1, Math.round(seconds / frameTime));
  return [from === null ? 0 : frameAt(from), to === null ? frames - 1 : frameAt(to)];
}

/** Frames of a mix, and of a pose that is held. */
export const mixFrames = (seconds: number, fps: number, pace: number): number => Math.round((seconds / pace) * fps) + 1;
export const poseFrames = (hold: number, fps: number, pace: number): number => Math.max(1, Math.round((hold / pace) * fps));

function clipFrames(clip: ReelClip, fps: number, pace: number, lengthOf: (take: string) => Length): number {
  if (clip.pose) return poseFrames(clip.hold, fps, pace);
  if (clip.mix) return mixFrames(clip.mix.seconds, fps, pace);
  const result = lengthOf(clip.take);
  const [first, last] = cutOf(clip, result);
  const played = (last - first) * clip.repeats + 1;
  const step = (clip.rate * pace) / fps / result.frameTime;
  const stretched = Math.abs(step - 1) < 1e-9 ? played : resampledFrames(played, result.frameTime, step * result.frameTime);
  return stretched + Math.round(clip.hold * fps);
}
