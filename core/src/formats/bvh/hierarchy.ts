import { fail } from '../../errors';
import { MAX_JOINTS } from '../../skeleton';
import { MAX_VALUE } from '../limits';
import { CHANNEL_NAMES } from './layout';

/** The HIERARCHY part of a BVH file. */
export interface BvhHierarchy {
  readonly names: string[];
  readonly parents: number[];
  readonly offsets: number[];
  readonly channels: number[][];
  readonly endSites: number[][];
  /** Line on which each joint is named, from 1. */
  readonly lines: number[];
}

const CHANNEL_CODES = new Map(CHANNEL_NAMES.map((name, code) => [name.toLowerCase(), code]));

/** Words of a text one by one, with the line that they stand on. */
class Words {
  private at = 0;
  line = 1;
  constructor(private readonly text: string) {}

  /** The next word, '' at the end; braces are words of their own. */
  next(): string {
    this.skip(/[\s\0]/);
    const start = this.at;
    const { text } = this;
    if (text[start] === '{' || text[start] === '}') {
      this.at++;
      return text[start];
    }
    while (this.at < text.length && !/[\s{}\0]/.test(text[this.at])) this.at++;
    return text.slice(start, this.at);
  }

  /** The rest of the line up to a brace: a name may hold spaces. */
  rest(): string {
    this.skip(/[ \t]/);
    const start = this.at;
    while (this.at < this.text.length && !/[\r\n{]/.test(this.text[this.at])) this.at++;
    return this.text.slice(start, this.at).trim();
  }

  private skip(pattern: RegExp): void {
    for (; this.at < this.text.length && pattern.test(this.text[this.at]); this.at++) {
      const c = this.text[this.at];
      if (c === '\n' || (c === '\r' && this.text[this.at + 1] !== '\n')) this.line++;
    }
  }
}

/**
 * Reads the hierarchy of a BVH file.
 * @param text everything before the line MOTION
 * @param complete false when no MOTION was found, for the wording of the error
 * @throws FaultError bvh/syntax, bvh/truncated, bvh/number, bvh/channels, skeleton/limit, with the line
 */
export function readHierarchy(text: string, complete: boolean): BvhHierarchy {
  const words = new Words(text);
  if (words.next().toUpperCase() !== 'HIERARCHY') {
    fail('file/unknown-format', 'this is not a BVH file: it must begin with the word HIERARCHY', { line: 1 });
  }
  const out: BvhHierarchy = { names: [], parents: [], offsets: [], channels: [], endSites: [], lines: [] };
  /** Open blocks: a joint's index, or −1 − index for an End Site of that joint. */
  const open: number[] = [];
  const where = (joint?: number) => (joint === undefined ? { line: words.line } : { line: words.line, joint: out.names[joint] });

  for (let word = words.next(); word !== ''; word = words.next()) {
    const top = open.length === 0 ? undefined : open[open.length - 1];
    switch (word.toUpperCase()) {
      case 'ROOT':
      case 'JOINT': {
        if (top !== undefined && top < 0) fail('bvh/syntax', 'an End Site cannot hold a joint', where());
        if (out.names.length >= MAX_JOINTS) {
          fail('skeleton/limit', `more than ${MAX_JOINTS} joints; export the body without helper joints`, where());
        }
        const { line } = words;
        const name = words.rest();
        if (name === '') fail('bvh/syntax', `${word} has no name`, { line });
        if (word.toUpperCase() === 'JOINT' && top === undefined) {
          fail('bvh/syntax', 'a JOINT must stand inside a ROOT', { line, joint: name });
        }
        const joint = out.names.push(name) - 1;
        out.parents.push(top ?? -1);
        out.offsets.push(NaN, NaN, NaN);
        out.channels.push([]);
        out.endSites.push([]);
        out.lines.push(line);
        openBrace(joint);
        break;
      }
      case 'END': {
        const { line } = words;
        words.rest();
        if (top === undefined || top < 0) fail('bvh/syntax', 'an End Site must stand inside a joint', { line });
        openBrace(-1 - top);
        break;
      }
      case 'OFFSET': {
        if (top === undefined) fail('bvh/syntax', 'OFFSET outside a joint', where());
        const joint = top < 0 ? -1 - top : top;
        for (let i = 0; i < 3; i++) {
          const token = words.next();
          const value = Number(token);
          if (token === '' || !Number.isFinite(value)) {
            if (token === '' && !complete) truncated();
            fail('bvh/number', `OFFSET needs three numbers, found "${token.slice(0, 40)}"`, where(joint));
          }
          if (Math.abs(value) > MAX_VALUE) fail('bvh/number', `an OFFSET of ${token.slice(0, 40)} is beyond any body`, where(joint));
          if (top < 0) out.endSites[joint].push(value);
          else out.offsets[joint * 3 + i] = value;
        }
        break;
      }
      case 'CHANNELS': {
        if (top === undefined || top < 0) fail('bvh/syntax', 'CHANNELS outside a joint', where());
        const count = Number(words.next());
        if (!Number.isInteger(count) || count < 0 || count > 6) {
          fail('bvh/channels', 'CHANNELS needs a count from 0 to 6', where(top));
        }
        for (let i = 0; i < count; i++) {
          const token = words.next();
          const code = CHANNEL_CODES.get(token.toLowerCase());
          if (token === '' && !complete) truncated();
          if (code === undefined) {
            fail('bvh/channels', `unknown channel "${token.slice(0, 40)}"; known are ${CHANNEL_NAMES.join(', ')}`, where(top));
          }
          if (out.channels[top].includes(code)) fail('bvh/channels', `channel ${token} is given twice`, where(top));
          out.channels[top].push(code);
        }
        break;
      }
      case '}': {
        if (top === undefined) fail('bvh/syntax', 'a brace closes that was never opened', where());
        if (top >= 0 && Number.isNaN(out.offsets[top * 3])) fail('bvh/syntax', 'the joint has no OFFSET', where(top));
        open.pop();
        break;
      }
      default:
        fail('bvh/syntax', `unexpected "${word.slice(0, 40)}"`, where(top === undefined || top < 0 ? undefined : top));
    }
  }
  if (open.length > 0 || !complete) truncated();
  if (out.names.length === 0) fail('skeleton/none', 'the hierarchy holds no ROOT', { line: words.line });
  return out;

  function openBrace(block: number): void {
    const brace = words.next();
    if (brace === '' && !complete) truncated();
    if (brace !== '{') fail('bvh/syntax', `expected "{", found "${brace.slice(0, 40)}"`, where(block < 0 ? -1 - block : block));
    open.push(block);
  }

  function truncated(): never {
    const joint = out.names.length - 1;
    fail(
      'bvh/truncated',
      complete
        ? 'the hierarchy ends before all braces are closed'
        : 'the file ends inside the hierarchy; no MOTION part was found. Export or copy it again',
      where(joint >= 0 ? joint : undefined),
    );
  }
}
