import * as fc from 'fast-check';
import { FiveBand } from './fiveBand';
import { BEND } from './leastCurve';
import { random } from './random';
import { Dense } from '../testing';

describe('least squares over five diagonals', () => {
  it('finds what a band of any width does, for several right sides of one matrix', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 1, max: 1e6 }),
        fc.constantFrom(0.1, 30, 4e4),
        (size, seed, stiffness) => {
          const rng = random(seed);
          const breaks = Uint8Array.from({ length: size }, () => (rng.next() < 0.05 ? 1 : 0));
          const given = Uint8Array.from({ length: size }, () => (rng.next() < 0.3 ? 1 : 0));
          const values = Float64Array.from({ length: size * 2 }, () => rng.normal());
          const band = new FiveBand(size);
          band.begin(stiffness, breaks);
          const rights = [new Float64Array(size), new Float64Array(size)];
          rights.forEach((right, c) => band.rightOf(values, c, 2, given, right));
          band.factor(given);
          rights.forEach((right, c) => {
            band.solve(right);
            const sums = new Dense(size);
            for (let i = 0; i < size; i++) sums.add([i], [1], 0, 1);
            for (let i = 1; i + 1 < size; i++) if (!breaks[i] && !breaks[i + 1]) sums.add([i - 1, i, i + 1], BEND, 0, stiffness);
            for (let i = 0; i < size; i++) if (given[i]) sums.fix(i, values[i * 2 + c]);
            sums.solve().forEach((value, i) => expect(right[i]).withContext(`${size}, ${seed}, ${i}`).toBeCloseTo(value, 7));
          });
        },
      ),
      { numRuns: 60, seed: 2 },
    );
  });
});
