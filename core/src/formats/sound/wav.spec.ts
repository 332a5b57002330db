import { FaultError } from '../../errors';
import { random } from '../../math';
import { isWav, readWav, writeWav } from './wav';

/** A WAV file as other programs write it. */
function wav(code: number, bits: number, lines: number, rows: readonly (readonly number[])[], extended = false): Uint8Array {
  const head = extended ? 40 : 16;
  const width = bits / 8;
  const size = rows.length * lines * width;
  const out = new DataView(new ArrayBuffer(12 + 8 + head + 8 + 5 + 1 + 8 + size));
  let at = 0;
  const text = (word: string): void => [...word].forEach((letter) => out.setUint8(at++, letter.charCodeAt(0)));
  const u16 = (x: number): void => (out.setUint16(at, x, true), void (at += 2));
  const u32 = (x: number): void => (out.setUint32(at, x, true), void (at += 4));
  text('RIFF');
  u32(out.byteLength - 8);
  text('WAVEfmt ');
  u32(head);
  u16(extended ? 0xfffe : code);
  u16(lines);
  u32(8000);
  u32(8000 * lines * width);
  u16(lines * width);
  u16(bits);
  if (extended) {
    u16(22);
    u16(bits);
    u32(0);
    u16(code);
    at += 14;
  }
  // A chunk of odd length that is no concern of ours.
  text('note');
  u32(5);
  text('hello');
  at++;
  text('data');
  u32(size);
  for (const row of rows) {
    for (const x of row) {
      if (code === 3 && bits === 32) out.setFloat32(at, x, true);
      else if (code === 3) out.setFloat64(at, x, true);
      else if (bits === 8) out.setUint8(at, Math.round(x * 128) + 128);
      else if (bits === 16) out.setInt16(at, Math.round(x * 32768), true);
      else if (bits === 32) out.setInt32(at, Math.round(x * 2147483648), true);
      else {
        const whole = Math.round(x * 8388608);
        out.setUint16(at, whole & 0xffff, true);
        out.setInt8(at + 2, whole >> 16);
      }
      at += width;
    }
  }
  return new Uint8Array(out.buffer);
}

describe('WAV files', () => {
  const { range } = random(7);
  const rows = Array.from({ length: 200 }, () => [range(-0.9, 0.9), range(-0.9, 0.9)]);

  it('are read whatever their samples are, several lines mixed', () => {
    for (const [code, bits] of [
      [1, 8],
      [1, 16],
      [1, 24],
      [1, 32],
      [3, 32],
      [3, 64],
    ]) {
      for (const extended of [false, true]) {
        const { rate, samples } = readWav(wav(code, bits, 2, rows, extended));
        expect(rate).toBe(8000);
        expect(samples.length).toBe(200);
        const worst = rows.reduce((most, [a, b], i) => Math.max(most, Math.abs((a + b) / 2 - samples[i])), 0);
        expect(worst).toBeLessThan(bits === 8 ? 0.005 : 2e-5);
      }
    }
  });

  it('come back as they were written', () => {
    const samples = Float32Array.from(rows, ([a]) => a);
    const back = readWav(writeWav({ rate: 16_000, samples }));
    expect(back.rate).toBe(16_000);
    expect(Math.max(...samples.map((x, i) => Math.abs(x - back.samples[i])))).toBeLessThan(4e-5);
  });

  it('are refused with words when they are damaged, never with a crash', () => {
    const whole = wav(1, 16, 2, rows);
    expect(isWav(whole)).toBeTrue();
    expect(() => readWav(new TextEncoder().encode('time,a'))).toThrowError(/no WAV file/);
    expect(() => readWav(wav(2, 8, 2, rows))).toThrowError(/PCM/);
    const { integer } = random(17);
    for (let i = 0; i < 3000; i++) {
      const damaged = whole.slice(0, integer(0, whole.length));
      for (let k = integer(0, 8); k > 0 && damaged.length > 0; k--) damaged[integer(0, Math.min(90, damaged.length) - 1)] = integer(0, 255);
      try {
        const { samples } = readWav(damaged);
        expect(samples.every((x) => x >= -1 && x <= 1)).toBeTrue();
      } catch (error) {
        expect(error).toBeInstanceOf(FaultError);
      }
    }
  });
});
