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
  return new Reader(new Words(text), complete).read();
}

/** Longest part of a word that an error repeats. */
const SHOWN = 40;

/** Reads word by word, and knows which blocks are open. */
class Reader {
  private readonly out: BvhHierarchy = { names: [], parents: [], offsets: [], channels: [], endSites: [], lines: [] };
  /** Open blocks: a joint's index, or −1 − index for an End Site of that joint. */
  private readonly open: number[] = [];

  constructor(
    private readonly words: Words,
    private readonly complete: boolean,
  ) {}

  read(): BvhHierarchy {
    const { words, open, out } = this;
    if (words.next().toUpperCase() !== 'HIERARCHY') {
      fail('file/unknown-format', 'this is not a BVH file: it must begin with the word HIERARCHY', { line: 1 });
    }
    for (let word = words.next(); word !== ''; word = words.next()) {
      const top = open.length === 0 ? undefined : open[open.length - 1];
      switch (word.toUpperCase()) {
        case 'ROOT':
        case 'JOINT':
          this.joint(word, top);
          break;
        case 'END':
          this.endSite(top);
          break;
        case 'OFFSET':
          this.offset(top);
          break;
        case 'CHANNELS':
          this.channels(top);
          break;
        case '}':
          this.close(top);
          break;
        default:
          fail('bvh/syntax', `unexpected "${word.slice(0, SHOWN)}"`, this.where(top === undefined || top < 0 ? undefined : top));
      }
    }
    if (open.length > 0 || !this.complete) this.truncated();
    if (out.names.length === 0) fail('skeleton/none', 'the hierarchy holds no ROOT', { line: words.line });
    return out;
  }

  private joint(word: string, top: number | undefined): void {
    const { out, words } = this;
    if (top !== undefined && top < 0) fail('bvh/syntax', 'an End Site cannot hold a joint', this.where());
    if (out.names.length >= MAX_JOINTS) {
      fail('skeleton/limit', `more than ${MAX_JOINTS} joints; export the body without helper joints`, this.where());
    }
    const { line } = words;
    const name = words.rest();
    if (name === '') fail('bvh/syntax', `${word} has no name`, { line });
    if (word.toUpperCase() === 'JOINT' && top === undefined) fail('bvh/syntax', 'a JOINT must stand inside a ROOT', { line, joint: name });
    const joint = out.names.push(name) - 1;
    out.parents.push(top ?? -1);
    out.offsets.push(NaN, NaN, NaN);
    out.channels.push([]);
    out.endSites.push([]);
    out.lines.push(line);
    this.openBrace(joint);
  }

  private endSite(top: number | undefined): void {
    const { line } = this.words;
    this.words.rest();
    if (top === undefined || top < 0) fail('bvh/syntax', 'an End Site must stand inside a joint', { line });
    this.openBrace(-1 - top);
  }

  private offset(top: number | undefined): void {
    const { out } = this;
    if (top === undefined) fail('bvh/syntax', 'OFFSET outside a joint', this.where());
    const joint = top < 0 ? -1 - top : top;
    for (let i = 0; i < 3; i++) {
      const token = this.words.next();
      const value = Number(token);
      if (token === '' && !this.complete) this.truncated();
      if (token === '' || !Number.isFinite(value)) {
        fail('bvh/number', `OFFSET needs three numbers, found "${token.slice(0, SHOWN)}"`, this.where(joint));
      }
      if (Math.abs(value) > MAX_VALUE) fail('bvh/number', `an OFFSET of ${token.slice(0, SHOWN)} is beyond any body`, this.where(joint));
      if (top < 0) out.endSites[joint].push(value);
      else out.offsets[joint * 3 + i] = value;
    }
  }

  private channels(top: number | undefined): void {
    const { out, words } = this;
    if (top === undefined || top < 0) fail('bvh/syntax', 'CHANNELS outside a joint', this.where());
    const count = Number(words.next());
    if (!Number.isInteger(count) || count < 0 || count > 6) fail('bvh/channels', 'CHANNELS needs a count from 0 to 6', this.where(top));
    for (let i = 0; i < count; i++) {
      const token = words.next();
      const code = CHANNEL_CODES.get(token.toLowerCase());
      if (token === '' && !this.complete) this.truncated();
      if (code === undefined) {
        fail('bvh/channels', `unknown channel "${token.slice(0, SHOWN)}"; known are ${CHANNEL_NAMES.join(', ')}`, this.where(top));
      }
      if (out.channels[top].includes(code)) fail('bvh/channels', `channel ${token} is given twice`, this.where(top));
      out.channels[top].push(code);
    }
  }

  private close(top: number | undefined): void {
    if (top === undefined) fail('bvh/syntax', 'a brace closes that was never opened', this.where());
    if (top >= 0 && Number.isNaN(this.out.offsets[top * 3])) fail('bvh/syntax', 'the joint has no OFFSET', this.where(top));
    this.open.pop();
  }

  private openBrace(block: number): void {
    const brace = this.words.next();
    if (brace === '' && !this.complete) this.truncated();
    if (brace !== '{') fail('bvh/syntax', `expected "{", found "${brace.slice(0, SHOWN)}"`, this.where(block < 0 ? -1 - block : block));
    this.open.push(block);
  }

  private truncated(): never {
    const joint = this.out.names.length - 1;
    fail(
      'bvh/truncated',
      this.complete
        ? 'the hierarchy ends before all braces are closed'
        : 'the file ends inside the hierarchy; no MOTION part was found. Export or copy it again',
      this.where(joint >= 0 ? joint : undefined),
    );
  }

  /** Where an error is: the line, and the joint that it is about. */
  private where(joint?: number): { line: number; joint?: string } {
    const { line } = this.words;
    return joint === undefined ? { line } : { line, joint: this.out.names[joint] };
  }
}
