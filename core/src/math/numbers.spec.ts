import * as fc from 'fast-check';
import { hypot, square } from './numbers';
import { acos, asin, atan2, cos, exp, log, PI, sin } from './trig';

/** The engine's own functions are good to a few last places: as a measure of ours they do, though not for bits. */
const near = (a: number, b: number): boolean => Math.abs(a - b) <= 4e-15 * Math.max(1, Math.abs(b));
const finite = (most: number): fc.Arbitrary<number> => fc.double({ min: -most, max: most, noNaN: true });

describe('numbers that are the same in every engine', () => {
  it('are the squares, lengths and logarithms that they say', () => {
    fc.assert(
      fc.property(
        finite(1e6),
        fc.array(finite(1e3), { maxLength: 6 }),
        fc.double({ min: 1e-300, max: 1e300, noNaN: true }),
        (x, list, y) => {
          expect(square(x)).toBe(x * x);
          expect(near(hypot(...list), Math.hypot(...list)))
            .withContext(list.join())
            .toBeTrue();
          expect(near(log(y), Math.log(y)))
            .withContext(`${y}`)
            .toBeTrue();
        },
      ),
      { numRuns: 500 },
    );
    expect([log(1), log(0), log(Infinity), hypot()]).toEqual([0, -Infinity, Infinity, 0]);
    expect([log(-1), log(NaN)].every(Number.isNaN)).toBeTrue();
  });

  it('undo each other', () => {
    fc.assert(
      fc.property(finite(20), finite(PI / 2), finite(1), (x, angle, y) => {
        expect(Math.abs(log(exp(x)) - x)).toBeLessThan(1e-13);
        expect(Math.abs(asin(sin(angle)) - angle)).toBeLessThan(1e-7);
        expect(Math.abs(cos(acos(y)) - y)).toBeLessThan(1e-14);
        expect(near(square(sin(angle)) + square(cos(angle)), 1)).toBeTrue();
      }),
      { numRuns: 300 },
    );
  });

  it('turn through all four quarters', () => {
    fc.assert(
      fc.property(finite(PI - 1e-9), fc.double({ min: 1e-3, max: 1e3, noNaN: true }), (angle, size) => {
        expect(Math.abs(atan2(size * sin(angle), size * cos(angle)) - angle)).toBeLessThan(1e-12);
      }),
      { numRuns: 300 },
    );
  });
});
