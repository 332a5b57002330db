import { bandOf, BandSystem } from './band';
import { random } from './random';

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
        system.sum(i, 1, factors, width + 1, target, weight);
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
    system.sum(0, 2, Float64Array.of(1, -2, 1), 3, 3, 1e9);
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
        for (const { at, factors, target } of terms) system.add(at, factors, 2, target, 3);
        return system.solve().slice();
      };
      const wide = solved(new BandSystem(bandOf(size, 3)));
      solved(new BandSystem(last)).forEach((value, i) =>
        expect(value).withContext(`trial ${trial}, unknown ${i}`).toBeCloseTo(wide[i], 10),
      );
    }
  });

  it('begins anew, and nothing of the sums before is left', () => {
    const system = new BandSystem(bandOf(4, 2));
    const find = (): number[] => {
      for (let i = 0; i < 4; i++) system.near(i, i * i, 2);
      return [...system.solve()];
    };
    const first = find();
    system.clear();
    expect(find()).toEqual(first);
    expect(first).toEqual([0, 1, 4, 9]);
  });

  it('gives the same in memory that another one leaves, where that is large enough and where it is not', () => {
    const rng = random(12);
    for (let trial = 0; trial < 20; trial++) {
      const [size, other] = [5 + Math.floor(rng.range(0, 20)), 5 + Math.floor(rng.range(0, 20))];
      const used = new BandSystem(bandOf(other, 3));
      for (let i = 0; i < other; i++) used.near(i, rng.normal(), 2);
      used.solve();
      const targets = Array.from({ length: size }, () => rng.normal());
      const solved = (system: BandSystem): number[] => {
        targets.forEach((target, i) => system.near(i, target, 1));
        for (let i = 0; i + 2 < size; i++) system.sum(i, 1, Float64Array.of(1, -2, 1), 3, 0, 5);
        return [...system.solve()];
      };
      expect(solved(new BandSystem(bandOf(size, 2), used))).toEqual(solved(new BandSystem(bandOf(size, 2))));
    }
  });
});
