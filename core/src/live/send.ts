import type { Clip } from '../clip';
import { flattenRest, type MotionFile } from '../formats';
import type { StreamFrame } from './frame';
import { STREAM_FORMAT, type Opening } from './opening';

/** A take as it is sent. */
export interface Sendable {
  readonly opening: Opening;
  readonly frames: number;
  /** A frame of it. @param number as the stream counts; takes are played round and round */
  frame(number: number): StreamFrame;
}

/**
 * A file's motion as a stream: joints without turns at rest, whatever the file had.
 * @param rate frames a second that are sent; the file's own by default
 */
export function sendable(
  file: MotionFile,
  clipIndex: number,
  {
    name,
    session,
    metres = 1,
    up = '+Y',
    rate,
  }: Pick<Opening, 'name' | 'session'> & { readonly metres?: number; readonly up?: Opening['up']; readonly rate?: number },
): Sendable {
  const { skeleton, clip } = flat(file, file.clips[clipIndex]);
  const joints = skeleton.names.length;
  const root = clip.moves.find(({ joint }) => joint === 0)?.values;
  const own = rate ?? 1 / clip.frameTime;
  // Frames that are sent for each of the file's.
  const step = own * clip.frameTime;
  const frames = Math.floor((clip.frames - 1) * step) + 1;
  return {
    opening: {
      format: STREAM_FORMAT,
      version: 1,
      name,
      session,
      rate: own,
      metres,
      up,
      joints: skeleton.names.map((joint, j) => ({
        name: joint,
        parent: skeleton.parents[j],
        offset: three(skeleton.restT, j),
        ...(Number.isFinite(skeleton.tips[j * 3]) && { tip: three(skeleton.tips, j) }),
      })),
    },
    frames,
    frame: (number) => {
      const at = Math.min(clip.frames - 1, Math.round((number % frames) / step));
      return {
        number,
        seconds: number / own,
        place: root ? root.slice(at * 3, at * 3 + 3) : Float32Array.from(skeleton.restT.subarray(0, 3)),
        quality: new Uint8Array(joints).fill(255),
        turns: clip.rotations.slice(at * joints * 4, (at + 1) * joints * 4),
      };
    },
  };
}

const three = (list: Float64Array, j: number): [number, number, number] => [list[j * 3], list[j * 3 + 1], list[j * 3 + 2]];

function flat({ skeleton, layout }: MotionFile, clip: Clip): { skeleton: MotionFile['skeleton']; clip: Clip } {
  return layout.format === 'bvh' ? { skeleton, clip } : flattenRest(skeleton, clip, 'channels');
}
