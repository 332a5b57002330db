import * as fc from 'fast-check';
import { joinParts } from '../parts';
import { TextBytes } from './textBytes';

const textOf = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

function written(...values: readonly number[]): string {
  const text = new TextBytes();
  for (const value of values) text.number(value);
  text.endLine();
  return textOf(text.take());
}

describe('rows of numbers as bytes', () => {
  it('say any number to half a millionth, always with six places', () => {
    const sized = fc
      .tuple(fc.double({ min: 1, max: 10, noNaN: true }), fc.integer({ min: -9, max: 9 }), fc.boolean())
      .map(([mantissa, power, isNegative]) => (isNegative ? -1 : 1) * mantissa * 10 ** power);
    fc.assert(
      fc.property(sized, (value) => {
        const text = written(value);
        expect(text).toMatch(/^-?\d+\.\d{6}\n$/);
        expect(Math.abs(Number(text) - value)).toBeLessThanOrEqual(0.5e-6 + 4.5e-16 * Math.abs(value));
        expect(text).not.toMatch(/^-?0\d/);
      }),
      { numRuns: 2000 },
    );
  });

  it('carry over, have no negative nothing, and are written whole where no six places are exact', () => {
    expect(written(0.9999996, 9.9999999, 99.9999994, -0.0000004, 0, -0)).toBe('1.000000 10.000000 99.999999 0.000000 0.000000 0.000000\n');
    expect(written(1e10, -123456789012345)).toBe(`${(1e10).toFixed(6)} ${(-123456789012345).toFixed(6)}\n`);
    expect(written(1e20)).toBe('100000000000000000000.000000\n');
  });

  it('grow as far as needed, and are given once', () => {
    const text = new TextBytes();
    text.words('MOTION\n');
    for (let i = 0; i < 30_000; i++) text.number(i);
    text.endLine();
    const [head, row] = textOf(text.take()).split('\n');
    expect(head).toBe('MOTION');
    expect(row.split(' ').map(Number)).toEqual(Array.from({ length: 30_000 }, (_, i) => i));
    expect(text.take().length).toBe(0);
    text.endLine();
    expect(textOf(text.take())).toBe('\n');
  });
});

describe('files in parts', () => {
  it('are the bytes of all parts in their order, of however many', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ maxLength: 40 }), { maxLength: 30 }), (parts) => {
        const whole = joinParts(parts.map((part) => Uint8Array.from(part)));
        expect([...whole]).toEqual(parts.flatMap((part) => [...part]));
      }),
    );
  });
});
