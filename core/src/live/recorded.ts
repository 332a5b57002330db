import { makeContinuous, MAX_FRAMES, MAX_SAMPLES, type Clip } from '../clip';
import { fail } from '../errors';
import { writeBvh, type BvhLayout, type MotionFile } from '../formats';
import { slerp } from '../math/quat';
import { childrenOf } from '../skeleton';
import type { StreamFrame } from './frame';
import { skeletonOfStream, type Opening } from './opening';

/** A run of frames that were not received, in frames of the clip, both ends included. */
export interface StreamGap {
  readonly from: number;
  readonly to: number;
}

/** Frames as a clip of even steps. */
export interface Recorded {
  /** In the stream's unit and axes. */
  readonly clip: Clip;
  readonly gaps: readonly StreamGap[];
}

/** A gap is bridged for so long at most, seconds: a line that was lost for longer leaves no more than that. */
const LONGEST_GAP = 60;

/**
 * Lays frames on even steps of the stream's own rate, by their numbers: what was lost is bridged on straight lines and the shortest turns, and
 * told, so that whoever mends the take finds it.
 * @throws FaultError stream/journal where there are fewer than two; clip/limit
 */
export function clipOfFrames(name: string, opening: Opening, frames: readonly StreamFrame[]): Recorded {
  if (frames.length < 2) fail('stream/journal', `the recording has ${frames.length === 0 ? 'no frame' : 'one frame'}; record for longer`);
  const joints = opening.joints.length;
  const longest = Math.round(LONGEST_GAP * opening.rate);
  const missing = frames.map(({ number }, i) => (i === 0 ? 0 : Math.min(longest, number - frames[i - 1].number - 1)));
  const count = missing.reduce((sum, gap) => sum + gap + 1, 0);
  if (count > MAX_FRAMES || count * joints * 4 > MAX_SAMPLES) {
    fail('clip/limit', `the recording has ${count} frames of ${joints} joints, which is more than a take may have`);
  }
  const rotations = new Float32Array(count * joints * 4);
  const places = new Float32Array(count * 3);
  const gaps: StreamGap[] = [];
  const put = (f: number, a: StreamFrame, b: StreamFrame, t: number): void => {
    for (let j = 0; j < joints; j++) slerp(rotations, (f * joints + j) * 4, a.turns, j * 4, b.turns, j * 4, t);
    for (let c = 0; c < 3; c++) places[f * 3 + c] = a.place[c] + t * (b.place[c] - a.place[c]);
  };
  let at = 0;
  frames.forEach((frame, i) => {
    const gap = missing[i];
    if (gap > 0) gaps.push({ from: at, to: at + gap - 1 });
    for (let k = 1; k <= gap; k++) put(at++, frames[i - 1], frame, k / (gap + 1));
    put(at++, frame, frame, 0);
  });
  makeContinuous(rotations, joints);
  return { clip: { name, frameTime: 1 / opening.rate, frames: count, rotations, moves: [{ joint: 0, values: places }] }, gaps };
}

/** A stream's body as a file that has no motion yet. */
export function fileOfStream(opening: Opening): MotionFile & { readonly layout: BvhLayout } {
  const skeleton = skeletonOfStream(opening);
  const layout: BvhLayout = {
    format: 'bvh',
    channels: opening.joints.map(({ parent }) => (parent < 0 ? [0, 1, 2, 5, 3, 4] : [5, 3, 4])),
    offsets: skeleton.restT,
    fromOffset: new Uint8Array(opening.joints.length),
    endSites: childrenOf(skeleton).map((children, j) => (children.length > 0 ? [] : [...(opening.joints[j].tip ?? [0, 0, 0])])),
  };
  return { name: opening.name, skeleton, clips: [], warnings: [], layout };
}

/** A recorded stream as a BVH file: the take that goes onto the rack. */
export function writeRecorded(opening: Opening, clip: Clip): Uint8Array<ArrayBuffer> {
  const { skeleton, layout } = fileOfStream(opening);
  return writeBvh(skeleton, clip, layout);
}
