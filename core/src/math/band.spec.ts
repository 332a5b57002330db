import { bandOf, BandSystem } from './band';
import { BEND } from './leastCurve';
import { random } from './random';
import { outer } from './vec';

describe('least squares over a band', () => {
  it('finds where no small step makes the sum of squares less, over random systems', () => {
    const rng = random(3);
    for (let trial = 0; trial < 30; trial++) {
      const size = 6 + Math.floor(rng.range(0, 20));
      const width = 1 + Math.floor(rng.range(0, 5));
      const terms: ((x: Float64Array) => number)[] = [];
      const system = new BandSystem(bandOf(size, width));
      for (let i = 0; i < size; i++) {
        const [target, weight] = [rng.range(-1, 1), rng.range(0.1, 2)];
        system.near(i, target, weight);
        terms.push((x) => weight * (x[i] - target) ** 2);
      }
      for (let i = 0; i + width < size; i++) {
        const factors = Float64Array.from({ length: width + 1 }, () => rng.range(-2, 2));
        const [target, weight] = [rng.range(-1, 1), rng.range(0, 50)];
        system.sum(
          Array.from(factors, (_, n) => i + n),
          factors,
          target,
          weight,
        );
        terms.push((x) => weight * (factors.reduce((sum, factor, k) => sum + factor * x[i + k], 0) - target) ** 2);
      }
      const fixed = Math.floor(rng.range(0, size));
      system.fix(fixed, 0.7);
      const found = system.solve().slice();
      const energy = (x: Float64Array): number => terms.reduce((sum, term) => sum + term(x), 0);
      expect(found[fixed]).toBe(0.7);
      const least = energy(found);
      for (let i = 0; i < size; i++) {
        if (i === fixed) continue;
        for (const by of [-1e-3, 1e-3]) {
          const beside = found.slice();
          beside[i] += by;
          expect(energy(beside)).withContext(`trial ${trial}, unknown ${i}`).toBeGreaterThan(least);
        }
      }
    }
  });

  it('reaches over unknowns that a term leaves out', () => {
    const system = new BandSystem(bandOf(5, 4));
    for (let i = 0; i < 5; i++) system.near(i, i, 1);
    system.sum([0, 2, 4], BEND, 3, 1e9);
    const x = system.solve();
    expect(x[0] - 2 * x[2] + x[4]).toBeCloseTo(3, 6);
    expect([x[1], x[3]]).toEqual([1, 3]);
  });

  it('gives the same whether a band is as wide everywhere or only where it has to be', () => {
    const rng = random(8);
    for (let trial = 0; trial < 20; trial++) {
      const size = 10 + Math.floor(rng.range(0, 20));
      const terms = Array.from({ length: size * 2 }, () => {
        const at = Math.floor(rng.range(0, size - 3));
        // What comes late in the row reaches farther.
        const reach = at < size / 2 ? 1 : 3;
        return {
          at: Int32Array.of(at, at + reach),
          factors: Float64Array.of(rng.range(-2, 2), rng.range(-2, 2)),
          target: rng.range(-1, 1),
        };
      });
      const last = bandOf(size, 3).map((end, i) => (i + 3 < size / 2 ? i + 1 : end));
      const solved = (system: BandSystem): Float64Array => {
        for (let i = 0; i < size; i++) system.near(i, 0, 0.1);
        for (const { at, factors, target } of terms) system.sum(at, factors, target, 3);
        return system.solve().slice();
      };
      const wide = solved(new BandSystem(bandOf(size, 3)));
      solved(new BandSystem(last)).forEach((value, i) =>
        expect(value).withContext(`trial ${trial}, unknown ${i}`).toBeCloseTo(wide[i], 10),
      );
    }
  });

  it('gives the same whatever memory another one leaves', () => {
    const rng = random(12);
    for (let trial = 0; trial < 20; trial++) {
      const size = 5 + Math.floor(rng.range(0, 20));
      const targets = Array.from({ length: size }, () => rng.normal());
      const solved = (): number[] => {
        const system = new BandSystem(bandOf(size, 2));
        targets.forEach((target, i) => system.near(i, target, 1));
        for (let i = 0; i + 2 < size; i++) system.sum([i, i + 1, i + 2], BEND, 0, 5);
        return [...system.solve()];
      };
      const before = solved();
      const other = new BandSystem(bandOf(5 + Math.floor(rng.range(0, 20)), 3));
      for (let i = 0; i < other.size; i++) other.near(i, rng.normal(), 2);
      other.solve();
      expect(solved()).toEqual(before);
    }
  });

  it('takes unknowns out three at a time as it does one by one', () => {
    const rng = random(13);
    for (let trial = 0; trial < 20; trial++) {
      const frames = 4 + Math.floor(rng.range(0, 12));
      const size = frames * 3;
      const ways = Float64Array.from({ length: size }, () => rng.normal());
      const targets = Array.from({ length: size }, () => rng.normal());
      const block = new Float64Array(9);
      const inBlocks = new BandSystem(bandOf(size, 6, 3));
      const oneByOne = new BandSystem(bandOf(size, 8));
      for (let i = 0; i < size; i++) {
        inBlocks.near(i, targets[i], 1);
        oneByOne.near(i, targets[i], 1);
      }
      // The square of what two frames, three apart in the row of unknowns, have along their ways together.
      for (let f = 0; f + 1 < frames; f++) {
        const [i, j] = [f * 3, f * 3 + 3];
        for (const [a, b] of [
          [i, i],
          [i, j],
          [j, j],
        ]) {
          outer(block, ways, a, ways, b, 2);
          inBlocks.coupleThree(a, b, block, 1);
        }
        oneByOne.sum([i, i + 1, i + 2, i + 3, i + 4, i + 5], ways.subarray(i, i + 6), 0, 2);
      }
      const expected = oneByOne.solve();
      inBlocks.solve().forEach((value, i) => expect(value).withContext(`trial ${trial}, unknown ${i}`).toBeCloseTo(expected[i], 10));
    }
  });
});
