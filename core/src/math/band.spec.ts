import { Dense } from '../testing';
import { bandOf, BandSystem } from './band';
import { random, type Random } from './random';
import { outer } from './vec';

/** Two systems that are asked for the same. */
class Both {
  readonly band: BandSystem;
  readonly dense: Dense;

  constructor(last: Int32Array) {
    this.band = new BandSystem(last);
    this.dense = new Dense(last.length * 3);
  }

  near(i: number, c: number, target: number, weight: number): void {
    this.band.near(i, c, target, weight);
    this.dense.add([i * 3 + c], [1], target, weight);
  }

  apart(i: number, j: number, c: number, target: number, weight: number): void {
    this.band.apart(i, j, c, target, weight);
    this.dense.add([i * 3 + c, j * 3 + c], [-1, 1], target, weight);
  }

  /** The square of what unknowns have along a way each, together. */
  along(at: readonly number[], ways: Float64Array, target: number, weight: number): void {
    const block = new Float64Array(9);
    at.forEach((i, a) =>
      at.forEach((j, b) => {
        if (j < i) return;
        outer(block, ways, a * 3, ways, b * 3, 1);
        this.band.couple(i, j, block, weight);
      }),
    );
    at.forEach((i, a) => [0, 1, 2].forEach((c) => this.band.push(i, c, weight * target * ways[a * 3 + c])));
    const places = at.flatMap((i) => [i * 3, i * 3 + 1, i * 3 + 2]);
    this.dense.add(places, ways.subarray(0, places.length), target, weight);
  }

  fix(i: number, values: Float64Array): void {
    this.band.fix(i, values, 0);
    values.forEach((value, c) => this.dense.fix(i * 3 + c, value));
  }
}

const randomLast = (rng: Random, size: number): Int32Array => {
  const last = new Int32Array(size);
  for (let i = 0; i < size; i++) last[i] = Math.min(size - 1, Math.max(i > 0 ? last[i - 1] : 0, i + Math.floor(rng.range(0, 6))));
  return last;
};

describe('least squares over a band of vectors', () => {
  it('finds what elimination over all unknowns does, over random systems whose bands are as wide as they have to be', () => {
    const rng = random(3);
    for (let trial = 0; trial < 40; trial++) {
      const size = 4 + Math.floor(rng.range(0, 16));
      const last = randomLast(rng, size);
      const both = new Both(last);
      for (let i = 0; i < size; i++) {
        for (let c = 0; c < 3; c++) both.near(i, c, rng.range(-1, 1), rng.range(0.1, 2));
        const j = i + Math.floor(rng.range(0, last[i] - i + 0.99));
        if (j > i) both.apart(i, j, Math.floor(rng.range(0, 2.99)), rng.range(-1, 1), rng.range(0, 50));
        const at = [i, ...(j > i + 1 ? [i + 1] : []), ...(j > i ? [j] : [])];
        both.along(
          at,
          Float64Array.from({ length: 9 }, () => rng.range(-2, 2)),
          rng.range(-1, 1),
          rng.range(0, 50),
        );
      }
      const fixed = Math.floor(rng.range(0, size));
      both.fix(fixed, Float64Array.of(0.7, -0.2, 0.1));
      const expected = both.dense.solve();
      both.band.solve().forEach((value, i) => expect(value).withContext(`trial ${trial}, number ${i}`).toBeCloseTo(expected[i], 8));
    }
  });

  it('gives the same whatever memory another one leaves', () => {
    const rng = random(12);
    for (let trial = 0; trial < 20; trial++) {
      const size = 5 + Math.floor(rng.range(0, 20));
      const targets = Array.from({ length: size }, () => rng.normal());
      const solved = (): number[] => {
        const system = new BandSystem(bandOf(size, 2));
        targets.forEach((target, i) => [0, 1, 2].forEach((c) => system.near(i, c, target, 1)));
        for (let i = 0; i + 2 < size; i++) system.apart(i, i + 2, 1, 0.3, 5);
        return [...system.solve()];
      };
      const before = solved();
      const other = new BandSystem(bandOf(5 + Math.floor(rng.range(0, 20)), 3));
      for (let i = 0; i < other.size; i++) for (let c = 0; c < 3; c++) other.near(i, c, rng.normal(), 2);
      other.solve();
      expect(solved()).toEqual(before);
    }
  });
});
