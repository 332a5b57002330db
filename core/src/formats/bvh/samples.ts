import { fail, type Fault } from '../../errors';
import { MAX_FRAMES, MAX_SAMPLES, trueFrameTime } from '../../clip';
import { MAX_RATE, MAX_VALUE } from '../limits';
import { CHANNEL_NAMES } from './layout';
import type { BvhHierarchy } from './hierarchy';
import { Scanner } from './scanner';

/** The MOTION part of a BVH file, its rows apart. */
export interface BvhSamples {
  readonly frames: number;
  readonly frameTime: number;
  readonly warnings: Fault[];
}

/** Takes the rows of channel values, one by one: a table of them all would be larger than the motion that is made of it. */
export interface RowTaker {
  /** @param room frames that may come; the count is a promise only */
  begin(room: number): void;
  /** @param values one frame as written; used anew for the next */
  row(frame: number, values: Float64Array): void;
}

const DEFAULT_FRAME_TIME = 1 / 30;

/**
 * Reads the MOTION part.
 * @param bytes the whole file
 * @param start offset just behind the word MOTION
 * @param startLine line on which MOTION stands
 * @param taker given each frame as it is read; frames beyond the count that is returned are to be forgotten
 * @throws FaultError bvh/syntax, bvh/number, clip/limit, with line, frame and joint
 */
export function readSamples(bytes: Uint8Array, start: number, startLine: number, hierarchy: BvhHierarchy, taker: RowTaker): BvhSamples {
  const warnings: Fault[] = [];
  const scanner = new Scanner(bytes, start, startLine);
  const declared = readCount(scanner);
  const countLine = scanner.line;
  const frameTime = readFrameTime(scanner, warnings);
  const width = hierarchy.channels.reduce((sum, list) => sum + list.length, 0);
  const cap = Math.min(MAX_FRAMES, Math.floor(MAX_SAMPLES / Math.max(1, width)));
  if (declared > cap) {
    fail('clip/limit', `${declared} frames of ${width} channels; at most ${cap} such frames are read. Split the take`, {
      line: scanner.line,
    });
  }
  if (width === 0) return { frames: 0, frameTime, warnings };
  // No more frames can be there than the bytes hold, a digit and a space for each value.
  taker.begin(Math.max(1, Math.min(declared, Math.ceil((bytes.length - scanner.at) / (width * 2)) + 1)));
  const { frames, left, leftLine } = readRows(scanner, hierarchy, { declared, width, cap }, taker);
  if (left > 0) {
    warnings.push({
      code: 'bvh/truncated',
      message: `the file ends inside a frame (${left} of ${width} values); that frame is left out`,
      where: { line: leftLine, frame: frames + 1 },
    });
  }
  if (frames !== declared && !(left > 0 && frames + 1 === declared)) {
    warnings.push({
      code: 'bvh/frame-count',
      message:
        frames > declared
          ? `the file says ${declared} frames and holds ${frames}; the first ${declared} are used. Correct "Frames:" to use all`
          : `the file says ${declared} frames and holds ${frames}; the ${frames} present are used`,
      where: { line: countLine },
    });
  }
  return { frames: Math.min(frames, declared), frameTime, warnings };
}

function readCount(scanner: Scanner): number {
  const declared = readField(scanner, 'Frames', /^frames\s*:?$/i);
  if (!Number.isInteger(declared) || declared < 0) {
    fail('bvh/syntax', `"Frames:" needs a whole number, found "${declared}"`, { line: scanner.line });
  }
  return declared;
}

/** Seconds from frame to frame, without the error that they were rounded by. */
function readFrameTime(scanner: Scanner, warnings: Fault[]): number {
  const frameTime = readField(scanner, 'Frame Time', /^frame\s*time\s*:?$/i);
  if (frameTime >= 1 / MAX_RATE && frameTime <= 10) return trueFrameTime(frameTime, scanner.halfOfLastDigit());
  warnings.push({
    code: 'bvh/number',
    message: `a frame time of ${frameTime} s is not usable; 1/30 s is taken`,
    where: { line: scanner.line },
  });
  return DEFAULT_FRAME_TIME;
}

const field = new Float64Array(1);

/** Reads "Frames: 12" or "Frame Time: 0.01", in any spacing. */
function readField(scanner: Scanner, label: string, pattern: RegExp): number {
  const { bytes } = scanner;
  if (!scanner.skipSpace()) fail('bvh/truncated', `the file ends before "${label}:"`, { line: scanner.line });
  let text = '';
  for (
    let c = bytes[scanner.at];
    scanner.at < bytes.length && c !== 58 && c !== 10 && c !== 13 && text.length < 40;
    c = bytes[scanner.at]
  ) {
    text += String.fromCharCode(c);
    scanner.at++;
  }
  if (!pattern.test(text.trim())) fail('bvh/syntax', `expected "${label}:", found "${text.trim()}"`, { line: scanner.line });
  if (bytes[scanner.at] === 58) scanner.at++;
  if (!scanner.skipSpace()) fail('bvh/truncated', `the file ends before the number of "${label}:"`, { line: scanner.line });
  scanner.readNumber(field, 0);
  scanner.at = scanner.numberEnd;
  return field[0];
}

/** How many frames the file says, how many values one has, and how many frames are read at most. */
interface Expected {
  readonly declared: number;
  readonly width: number;
  readonly cap: number;
}

/**
 * Reads row after row. Where each has a line of its own, as the first has, one that is too short or too long is a fault of that row.
 * @returns whole frames that are there, and how many values of one more, begun on which line
 */
function readRows(
  scanner: Scanner,
  hierarchy: BvhHierarchy,
  { declared, width, cap }: Expected,
  taker: RowTaker,
): { frames: number; left: number; leftLine: number } {
  const values = new Float64Array(width);
  let frames = 0;
  let filled = 0;
  let rowLine = scanner.line;
  let onePerLine = true;
  for (;;) {
    const before = scanner.line;
    const more = scanner.skipSpace();
    if (scanner.line !== before && filled > 0 && onePerLine) {
      if (frames === 0) onePerLine = false;
      else if (!more) break;
      else {
        fail('bvh/number', `the frame has ${filled} values, the joints have ${width} channels`, { line: rowLine, frame: frames + 1 });
      }
    }
    if (!more) break;
    if (filled === 0) {
      if (onePerLine && frames > 0 && scanner.line === before) {
        fail('bvh/number', `the frame has more than ${width} values`, { line: scanner.line, frame: frames });
      }
      if (frames >= cap) fail('clip/limit', `more than ${cap} frames; split the take`, { line: scanner.line });
      rowLine = scanner.line;
    }
    scanner.readNumber(values, filled);
    const value = values[filled];
    if (!(value - value === 0)) badNumber(scanner, hierarchy, frames, filled, 'is not a number');
    if (value > MAX_VALUE || value < -MAX_VALUE) badNumber(scanner, hierarchy, frames, filled, 'is beyond any body');
    scanner.at = scanner.numberEnd;
    if (++filled === width) {
      if (frames < declared) taker.row(frames, values);
      filled = 0;
      frames++;
    }
  }
  return { frames, left: filled, leftLine: rowLine };
}

/** @param column place of the value in its frame */
function badNumber(scanner: Scanner, { channels, names }: BvhHierarchy, frame: number, column: number, why: string): never {
  let channel = column;
  let joint = 0;
  while (channel >= channels[joint].length) channel -= channels[joint++].length;
  const name = CHANNEL_NAMES[channels[joint][channel]];
  fail('bvh/number', `"${scanner.text(24)}" ${why} (channel ${name})`, { line: scanner.line, joint: names[joint], frame: frame + 1 });
}
