/** Channels of a face over time, sampled evenly, as a recorder gave them. */
export interface FaceTrack {
  readonly name: string;
  /** Seconds from frame to frame. */
  readonly frameTime: number;
  readonly frames: number;
  /** Second of the recorder's own clock at the first frame. */
  readonly start: number;
  readonly channels: readonly string[];
  /** Frames × channels; NaN where nothing was recorded. */
  readonly values: Float32Array;
}

/** Most channels of one recording. */
export const MAX_CHANNELS = 400;
/** Most samples of one recording. */
export const MAX_FACE_SAMPLES = 24_000_000;
/** Largest table of face channels that is read, bytes. */
export const MAX_TABLE_BYTES = 64 * 2 ** 20;
/** Largest value of a channel; shares of 1 and percents lie far below. */
export const MAX_CHANNEL_VALUE = 1e6;

/** A channel's value at a second of the recorder's clock, between frames on a straight line; held beyond both ends. */
export function faceValueAt({ frames, frameTime, start, channels, values }: FaceTrack, channel: number, seconds: number): number {
  const at = Math.min(frames - 1, Math.max(0, (seconds - start) / frameTime));
  const f = Math.min(Math.floor(at), Math.max(0, frames - 2));
  const a = values[f * channels.length + channel];
  const b = values[Math.min(f + 1, frames - 1) * channels.length + channel];
  return a + (b - a) * (at - f);
}
