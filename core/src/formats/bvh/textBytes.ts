/** Millionths are written; beyond this a number of them is no exact integer. */
const EXACT = 2 ** 53 / 1e6;
/** Below this, millionths are whole numbers of 32 bits. */
const SMALL = 2000;
const PLACES = 6;
/** Bytes that the longest number takes with its space: a sign, 22 digits, a point and six places. */
const LONGEST = 32;

const [SPACE, NEWLINE, POINT, MINUS, ZERO] = [' ', '\n', '.', '-', '0'].map((c) => c.charCodeAt(0));

/** Rows of numbers as UTF-8 text. Digits go straight into bytes: no string is made of any number. */
export class TextBytes {
  private buffer = new Uint8Array(1 << 16);
  private at = 0;

  /** Adds text as it is. */
  words(text: string): void {
    const bytes = new TextEncoder().encode(text);
    this.need(bytes.length);
    this.buffer.set(bytes, this.at);
    this.at += bytes.length;
  }

  /** Adds a finite number with six places, and a space. */
  number(value: number): void {
    this.need(LONGEST);
    const { buffer } = this;
    const size = value < 0 ? -value : value;
    if (size >= EXACT) {
      this.words(`${value.toFixed(PLACES)} `);
      return;
    }
    // Angles and places of bodies are small enough for whole numbers of 32 bits, which are quicker.
    const isSmall = size < SMALL;
    const millionths = isSmall ? (size * 1e6 + 0.5) | 0 : Math.round(size * 1e6);
    const whole = isSmall ? (millionths / 1e6) | 0 : Math.floor(millionths / 1e6);
    const rest = (millionths - whole * 1e6) | 0;
    let at = this.at;
    if (value < 0 && millionths > 0) buffer[at++] = MINUS;
    if (whole < 10) buffer[at++] = ZERO + whole;
    else at = addDigits(buffer, at, whole);
    buffer[at] = POINT;
    const high = (rest / 10_000) | 0;
    const middle = ((rest - high * 10_000) / 100) | 0;
    addPair(buffer, at + 1, high);
    addPair(buffer, at + 3, middle);
    addPair(buffer, at + 5, rest - high * 10_000 - middle * 100);
    buffer[at + 7] = SPACE;
    this.at = at + 8;
  }

  /** Ends a row: the space behind its last number becomes the end of the line. */
  endLine(): void {
    if (this.at > 0 && this.buffer[this.at - 1] === SPACE) this.at--;
    this.need(1);
    this.buffer[this.at++] = NEWLINE;
  }

  /** All that was added since the last call. */
  take(): Uint8Array<ArrayBuffer> {
    const bytes = this.buffer.slice(0, this.at);
    this.at = 0;
    return bytes;
  }

  private need(more: number): void {
    if (this.at + more <= this.buffer.length) return;
    const grown = new Uint8Array(2 * this.buffer.length + more);
    grown.set(this.buffer);
    this.buffer = grown;
  }
}

/** Adds two digits. */
function addPair(buffer: Uint8Array, at: number, value: number): void {
  const tens = (value / 10) | 0;
  buffer[at] = ZERO + tens;
  buffer[at + 1] = ZERO + value - tens * 10;
}

/** Adds a whole number below `EXACT`. @returns where its digits end */
function addDigits(buffer: Uint8Array, at: number, value: number): number {
  let end = at;
  for (let v = value; v >= 1; v = Math.floor(v / 10)) end++;
  for (let i = end - 1, v = value; i >= at; i--) {
    const next = Math.floor(v / 10);
    buffer[i] = ZERO + v - next * 10;
    v = next;
  }
  return end;
}
