import { fail, type Fault } from '../../errors';
import { MAX_FRAMES, MAX_SAMPLES, trueFrameTime } from '../../clip';
import { MAX_RATE, MAX_VALUE } from '../limits';
import { CHANNEL_NAMES } from './layout';
import type { BvhHierarchy } from './hierarchy';

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

const POWERS = Float64Array.from({ length: 23 }, (_, i) => Number(`1e${i}`));
const DEFAULT_FRAME_TIME = 1 / 30;

/**
 * Reads the MOTION part.
 * Numbers are read straight from the bytes: up to 15 digits and a power of ten below 1e22 make an exact product
 * (Clinger 1990, the fast path); anything else goes through the engine's own parser.
 * @param bytes the whole file
 * @param start offset just behind the word MOTION
 * @param startLine line on which MOTION stands
 * @param taker given each frame as it is read; frames beyond the count that is returned are to be forgotten
 * @throws FaultError bvh/syntax, bvh/number, clip/limit, with line, frame and joint
 */
export function readSamples(bytes: Uint8Array, start: number, startLine: number, hierarchy: BvhHierarchy, taker: RowTaker): BvhSamples {
  const warnings: Fault[] = [];
  const end = bytes.length;
  let at = start;
  let line = startLine;
  let numberEnd = start;
  const field = new Float64Array(1);

  const declared = readField('Frames', /^frames\s*:?$/i);
  if (!Number.isInteger(declared) || declared < 0) fail('bvh/syntax', `"Frames:" needs a whole number, found "${declared}"`, { line });
  const countLine = line;
  let frameTime = readField('Frame Time', /^frame\s*time\s*:?$/i);
  if (!(frameTime >= 1 / MAX_RATE) || frameTime > 10) {
    warnings.push({ code: 'bvh/number', message: `a frame time of ${frameTime} s is not usable; 1/30 s is taken`, where: { line } });
    frameTime = DEFAULT_FRAME_TIME;
  } else frameTime = trueFrameTime(frameTime, halfOfLastDigit());

  const width = hierarchy.channels.reduce((sum, list) => sum + list.length, 0);
  const cap = Math.min(MAX_FRAMES, Math.floor(MAX_SAMPLES / Math.max(1, width)));
  if (declared > cap) {
    fail('clip/limit', `${declared} frames of ${width} channels; at most ${cap} such frames are read. Split the take`, { line });
  }
  if (width === 0) return { frames: 0, frameTime, warnings };

  // No more frames can be there than the bytes hold, a digit and a space for each value.
  taker.begin(Math.max(1, Math.min(declared, Math.ceil((end - at) / (width * 2)) + 1)));
  const values = new Float64Array(width);
  let frames = 0;
  let filled = 0;
  let rowLine = line;
  let onePerLine = true;

  for (;;) {
    const before = line;
    const more = skipSpace();
    if (line !== before && filled > 0 && onePerLine) {
      if (frames === 0) onePerLine = false;
      else if (!more) break;
      else {
        fail('bvh/number', `the frame has ${filled} values, the joints have ${width} channels`, { line: rowLine, frame: frames + 1 });
      }
    }
    if (!more) break;
    if (filled === 0) {
      if (onePerLine && frames > 0 && line === before) {
        fail('bvh/number', `the frame has more than ${width} values`, { line, frame: frames });
      }
      if (frames >= cap) fail('clip/limit', `more than ${cap} frames; split the take`, { line });
      rowLine = line;
    }
    readNumber(values, filled);
    const value = values[filled];
    if (!(value - value === 0)) badNumber('is not a number');
    if (value > MAX_VALUE || value < -MAX_VALUE) badNumber('is beyond any body');
    at = numberEnd;
    if (++filled === width) {
      if (frames < declared) taker.row(frames, values);
      filled = 0;
      frames++;
    }
  }

  if (filled > 0) {
    warnings.push({
      code: 'bvh/truncated',
      message: `the file ends inside a frame (${filled} of ${width} values); that frame is left out`,
      where: { line: rowLine, frame: frames + 1 },
    });
  }
  if (frames !== declared && !(filled > 0 && frames + 1 === declared)) {
    warnings.push({
      code: 'bvh/frame-count',
      message:
        frames > declared
          ? `the file says ${declared} frames and holds ${frames}; the first ${declared} are used. Correct "Frames:" to use all`
          : `the file says ${declared} frames and holds ${frames}; the ${frames} present are used`,
      where: { line: countLine },
    });
    frames = Math.min(frames, declared);
  }
  return { frames, frameTime, warnings };

  /** Moves to the next token; false at the end of the file. */
  function skipSpace(): boolean {
    while (at < end) {
      const c = bytes[at];
      if (c === 10) line++;
      else if (c === 13) {
        if (bytes[at + 1] !== 10) line++;
      } else if (c !== 32 && c !== 9 && c !== 0 && c !== 11 && c !== 12) return true;
      at++;
    }
    return false;
  }

  /** Puts the number at `at` into a list, NaN when there is none; `numberEnd` is set behind it. A number returned would be boxed. */
  function readNumber(out: Float64Array, i: number): void {
    let p = at;
    let negative = false;
    let c = bytes[p];
    if (c === 45 || c === 43) {
      negative = c === 45;
      c = bytes[++p];
    }
    let mantissa = 0;
    let digits = 0;
    let point = 0;
    const first = p;
    while (c >= 48 && c <= 57) {
      mantissa = mantissa * 10 + (c - 48);
      if (mantissa !== 0) digits++;
      c = bytes[++p];
    }
    let any = p > first;
    if (c === 46) {
      c = bytes[++p];
      const fraction = p;
      while (c >= 48 && c <= 57) {
        mantissa = mantissa * 10 + (c - 48);
        if (mantissa !== 0) digits++;
        c = bytes[++p];
      }
      point = p - fraction;
      any = any || point > 0;
    }
    const plain = p >= end || c === 32 || c === 9 || c === 10 || c === 13;
    if (plain && any && digits <= 15 && point <= 22) {
      numberEnd = p;
      const value = point === 0 ? mantissa : mantissa / POWERS[point];
      out[i] = negative ? -value : value;
      return;
    }
    while (p < end && bytes[p] > 32) p++;
    numberEnd = p;
    out[i] = NaN;
    if (p - at > 64) return;
    let text = '';
    for (let i = at; i < p; i++) text += String.fromCharCode(bytes[i]);
    if (/^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(text)) out[i] = Number(text);
  }

  /** Rounding error of the number that ends at `at`. */
  function halfOfLastDigit(): number {
    let decimals = 0;
    let p = at;
    while (p > 0 && bytes[p - 1] >= 48 && bytes[p - 1] <= 57) {
      p--;
      decimals++;
    }
    // A little more: what was cut off and not rounded is off by a whole digit.
    return bytes[p - 1] === 46 ? 1.01 / POWERS[Math.min(decimals, 22)] : 0;
  }

  function badNumber(why: string): never {
    let text = '';
    for (let i = at; i < numberEnd && text.length < 24; i++) text += String.fromCharCode(bytes[i]);
    let channel = filled;
    let joint = 0;
    while (channel >= hierarchy.channels[joint].length) channel -= hierarchy.channels[joint++].length;
    const name = CHANNEL_NAMES[hierarchy.channels[joint][channel]];
    fail('bvh/number', `"${text}" ${why} (channel ${name})`, {
      line,
      joint: hierarchy.names[joint],
      frame: frames + 1,
    });
  }

  /** Reads "Frames: 12" or "Frame Time: 0.01", in any spacing. */
  function readField(label: string, pattern: RegExp): number {
    if (!skipSpace()) fail('bvh/truncated', `the file ends before "${label}:"`, { line });
    let text = '';
    while (at < end && bytes[at] !== 58 && bytes[at] !== 10 && bytes[at] !== 13 && text.length < 40) {
      text += String.fromCharCode(bytes[at++]);
    }
    if (!pattern.test(text.trim())) fail('bvh/syntax', `expected "${label}:", found "${text.trim()}"`, { line });
    if (bytes[at] === 58) at++;
    if (!skipSpace()) fail('bvh/truncated', `the file ends before the number of "${label}:"`, { line });
    readNumber(field, 0);
    at = numberEnd;
    return field[0];
  }
}
