import { fail } from '../errors';

/** One frame of a stream. */
export interface StreamFrame {
  /** Counts on by one from frame to frame; what is missing was lost. */
  readonly number: number;
  /** Seconds of the sender's clock. */
  readonly seconds: number;
  /** Place of the root, in the stream's unit and axes. */
  readonly place: Float32Array;
  /** By joint: how well it was seen, 0 (not at all) to 255. */
  readonly quality: Uint8Array;
  /** Local turns, 4 a joint. */
  readonly turns: Float32Array;
}

/** The first two bytes of a frame, "HS". */
const MAGIC = 0x5348;
const VERSION = 1;
/** Bytes before the qualities: magic 2, version 1, reserved 1, number 4, seconds 8, place 12. */
const HEAD = 28;
/** Turns are unit quaternions to within this; they are made exactly so. */
const UNIT = 0.05;
/** No place is farther away, in any unit. */
const FARTHEST = 1e6;

/** Bytes of a frame: a head, a byte of quality a joint filled up to whole words, four numbers a joint. */
export function frameBytes(joints: number): number {
  return HEAD + ((joints + 3) & ~3) + joints * 16;
}

/** Writes a frame, little-endian. */
export function writeFrame({ number, seconds, place, quality, turns }: StreamFrame): Uint8Array<ArrayBuffer> {
  const joints = quality.length;
  const out = new Uint8Array(frameBytes(joints));
  const view = new DataView(out.buffer);
  view.setUint16(0, MAGIC, true);
  view.setUint8(2, VERSION);
  view.setUint32(4, number, true);
  view.setFloat64(8, seconds, true);
  for (let c = 0; c < 3; c++) view.setFloat32(16 + c * 4, place[c], true);
  out.set(quality, HEAD);
  const at = HEAD + ((joints + 3) & ~3);
  for (let i = 0; i < joints * 4; i++) view.setFloat32(at + i * 4, turns[i], true);
  return out;
}

/**
 * Reads a frame.
 * @param joints of the skeleton that the stream opened with
 * @throws FaultError stream/frame with what is wrong, and the joint's number where it is one's
 */
export function readFrame(bytes: Uint8Array, joints: number): StreamFrame {
  const wanted = frameBytes(joints);
  if (bytes.length !== wanted) fail('stream/frame', `a frame of ${joints} joints has ${wanted} bytes, this one ${bytes.length}`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (view.getUint16(0, true) !== MAGIC) fail('stream/frame', 'these bytes are no frame: they do not begin as one');
  if (view.getUint8(2) !== VERSION) fail('stream/frame', `frames of version ${view.getUint8(2)} are not read; send version ${VERSION}`);
  const seconds = view.getFloat64(8, true);
  if (!(Math.abs(seconds) < 1e10)) fail('stream/frame', 'the time of the frame is no time');
  const place = new Float32Array(3);
  for (let c = 0; c < 3; c++) {
    place[c] = view.getFloat32(16 + c * 4, true);
    if (!(Math.abs(place[c]) < FARTHEST)) fail('stream/frame', 'the root lies at no place that can be measured');
  }
  const turns = new Float32Array(joints * 4);
  const at = HEAD + ((joints + 3) & ~3);
  for (let j = 0; j < joints; j++) {
    let squared = 0;
    for (let k = 0; k < 4; k++) {
      const value = view.getFloat32(at + (j * 4 + k) * 4, true);
      turns[j * 4 + k] = value;
      squared += value * value;
    }
    const length = Math.sqrt(squared);
    if (!(Math.abs(length - 1) < UNIT)) fail('stream/frame', `the turn of joint ${j + 1} is no unit quaternion`);
    for (let k = 0; k < 4; k++) turns[j * 4 + k] /= length;
  }
  return { number: view.getUint32(4, true), seconds, place, quality: bytes.slice(HEAD, HEAD + joints), turns };
}
