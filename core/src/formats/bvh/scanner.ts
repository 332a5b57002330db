const POWERS = Float64Array.from({ length: 23 }, (_, i) => Number(`1e${i}`));

/** Longest number that is read, bytes. */
const LONGEST = 64;

/** A place in the bytes of a text that goes on from number to number, and knows its line. */
export class Scanner {
  /** Offset just behind the number that was read last. */
  numberEnd: number;

  /** @param at offset of the next byte @param line on which it stands, from 1 */
  constructor(
    readonly bytes: Uint8Array,
    public at: number,
    public line: number,
  ) {
    this.numberEnd = at;
  }

  /** Moves to the next token; false at the end of the file. */
  skipSpace(): boolean {
    const { bytes } = this;
    const end = bytes.length;
    while (this.at < end) {
      const c = bytes[this.at];
      if (c === 10) this.line++;
      else if (c === 13) {
        if (bytes[this.at + 1] !== 10) this.line++;
      } else if (c !== 32 && c !== 9 && c !== 0 && c !== 11 && c !== 12) return true;
      this.at++;
    }
    return false;
  }

  /**
   * Puts the number at `at` into a list, NaN where there is none; `numberEnd` is set behind it. A number returned would be boxed.
   * Up to 15 digits and a power of ten below 1e22 make an exact product (Clinger 1990, the fast path); anything else goes through the engine's own parser.
   */
  readNumber(out: Float64Array, i: number): void {
    const { bytes } = this;
    const end = bytes.length;
    let p = this.at;
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
      this.numberEnd = p;
      const value = point === 0 ? mantissa : mantissa / POWERS[point];
      out[i] = negative ? -value : value;
      return;
    }
    while (p < end && bytes[p] > 32) p++;
    this.numberEnd = p;
    const text = p - this.at > LONGEST ? '' : this.text(LONGEST);
    out[i] = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(text) ? Number(text) : NaN;
  }

  /** The number that was read last as it is written, or its beginning. @param most characters at most */
  text(most: number): string {
    let text = '';
    for (let i = this.at; i < this.numberEnd && text.length < most; i++) text += String.fromCharCode(this.bytes[i]);
    return text;
  }

  /** Rounding error of the number that ends at `at`. */
  halfOfLastDigit(): number {
    const { bytes } = this;
    let p = this.at;
    while (p > 0 && bytes[p - 1] >= 48 && bytes[p - 1] <= 57) p--;
    const decimals = this.at - p;
    // A little more: what was cut off and not rounded is off by a whole digit.
    return bytes[p - 1] === 46 ? 1.01 / POWERS[Math.min(decimals, POWERS.length - 1)] : 0;
  }
}
