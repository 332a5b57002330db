import type { Clip } from '../clip';
import { faceValueAt, type FaceTrack, type FaceWeights } from '../formats';
import { exp, invMul, mul, normalize } from '../math/quat';
import { DEG } from '../math/trig';
import type { FaceSource, ResponseCurve } from '../recipe';
import type { Rig } from '../rig';
import { jointKeys } from '../skeleton';
import type { ResolvedTable } from './table';
import { readFaceNames } from './words';

/** How a sum of channels becomes a value. */
interface Response {
  readonly offset: number;
  readonly strength: number;
  readonly curve: ResponseCurve | null;
  readonly rest: number;
  readonly low: number;
  readonly high: number;
}

/** The value of a shape for a sum of its channels. */
export function respond({ offset, strength, curve, rest, low, high }: Response, sum: number): number {
  const value = rest + strength * along(curve, sum + offset);
  return Math.min(high, Math.max(low, value));
}

/** The height of a curve of response, which goes on straight at both ends. */
function along(curve: ResponseCurve | null, x: number): number {
  if (!curve) return x;
  let i = 1;
  while (i < curve.length - 1 && curve[i][0] < x) i++;
  const [[x0, y0], [x1, y1]] = [curve[i - 1], curve[i]];
  return y0 + ((x - x0) / (x1 - x0)) * (y1 - y0);
}

/** For each channel the one of the other side, itself where there is none. */
export function otherSides(channels: readonly string[]): Int32Array {
  const words = readFaceNames(channels);
  const key = ({ parts, acts }: (typeof words)[number]): string => `${[...parts].sort().join(' ')}|${[...acts].sort().join(' ')}`;
  return Int32Array.from(words, (own, c) => {
    if (own.side === undefined) return c;
    const other = words.findIndex((one) => one.side !== undefined && one.side !== own.side && key(one) === key(own));
    return other < 0 ? c : other;
  });
}

/** How the frames of a clip lie on the recorder's clock: `seconds = first + frame × step`. */
export interface FaceTime {
  readonly first: number;
  readonly step: number;
}

/** A character's face over a clip. */
export interface FaceMotion {
  readonly table: ResolvedTable;
  readonly track: FaceTrack;
  readonly time: FaceTime;
  /** Weights of the character's shapes: at the recorder's own frames, and at both ends of the clip. */
  readonly weights: FaceWeights;
}

/**
 * The weights of the shapes over a clip. They are told at the recorder's own frames, so that nothing of the recording is lost at
 * another rate of the body.
 */
export function driveShapes(track: FaceTrack, table: ResolvedTable, time: FaceTime, clip: Pick<Clip, 'frames' | 'frameTime'>): FaceMotion {
  const times = keyTimes(track, time, clip);
  const rows = table.rows.map((row) => ({ ...row, sum: summing(track, row.from, table.exchange) }));
  const values = new Float32Array(times.length * rows.length);
  const pace = time.step / clip.frameTime;
  times.forEach((seconds, t) => {
    const at = time.first + seconds * pace;
    rows.forEach((row, r) => (values[t * rows.length + r] = row.from.length === 0 ? row.rest : respond(row, row.sum(at))));
  });
  return { table, track, time, weights: { times, shapes: table.rows.map(({ shape }) => shape), values } };
}

/** Seconds of the clip at which the recorder has a frame, and both ends of the clip. */
function keyTimes(track: FaceTrack, { first, step }: FaceTime, { frames, frameTime }: Pick<Clip, 'frames' | 'frameTime'>): Float32Array {
  const end = (frames - 1) * frameTime;
  const pace = step / frameTime;
  const times: number[] = [0];
  for (let f = 0; f < track.frames; f++) {
    const seconds = (track.start + f * track.frameTime - first) / pace;
    // A frame that is nearer to an end than a tenth of a frame is that end.
    const near = 0.1 * Math.min(track.frameTime, frameTime);
    if (seconds > near && seconds < end - near) times.push(seconds);
  }
  if (end > 0) times.push(end);
  return Float32Array.from(times).sort();
}

/** The weighted sum of channels at a second of the recorder's clock. */
function summing(track: FaceTrack, from: readonly FaceSource[], exchange: boolean): (seconds: number) => number {
  const other = exchange ? otherSides(track.channels) : undefined;
  const sources = from.flatMap(({ channel, weight }) => {
    const c = track.channels.indexOf(channel);
    return c < 0 ? [] : [{ c: other ? other[c] : c, weight }];
  });
  return (seconds) => sources.reduce((sum, { c, weight }) => sum + weight * faceValueAt(track, c, seconds), 0);
}

/** The clip with the face's joints turned: each beyond what the body does with it. */
export function driveJoints(rig: Rig, clip: Clip, { table, track, time }: Pick<FaceMotion, 'table' | 'track' | 'time'>): Clip {
  if (table.joints.length === 0) return clip;
  const keys = jointKeys(rig.skeleton);
  const joints = keys.length;
  const { left, forward } = rig;
  const rotations = clip.rotations.slice();
  const [q, world] = [new Float64Array(4), rig.restPose.rotations];
  for (const { joint, turns } of table.joints) {
    const j = keys.indexOf(joint);
    if (j < 0) continue;
    const driven = turns.map((turn) => ({ ...turn, sum: summing(track, turn.from, table.exchange) }));
    for (let f = 0; f < clip.frames; f++) {
      const at = time.first + f * time.step;
      const v = [0, 0, 0];
      for (const turn of driven) {
        const value = respond(turn, turn.sum(at));
        const [aboutLeft, aboutUp, aboutAhead] = turn.degrees;
        for (let c = 0; c < 3; c++) v[c] += value * DEG * (aboutLeft * left[c] + (c === 1 ? aboutUp : 0) + aboutAhead * forward[c]);
      }
      exp(q, 0, v[0], v[1], v[2]);
      // Axes of the body at rest, in the joint's own frame: world⁻¹ · turn · world.
      invMul(q, 0, world, j * 4, q, 0);
      mul(q, 0, q, 0, world, j * 4);
      const o = (f * joints + j) * 4;
      mul(rotations, o, rotations, o, q, 0);
      normalize(rotations, o);
    }
  }
  return { ...clip, rotations };
}
