import * as fc from 'fast-check';
import { random } from './random';
import { coverCurve, fillCurve, stiffnessOf, type Time } from './leastCurve';

const FRAMES = 160;
const timeOf = (fps: number, breaks: readonly number[] = []): Time => {
  const at = new Uint8Array(FRAMES);
  for (const f of breaks) at[f] = 1;
  return { frameTime: 1 / fps, breaks: at };
};

describe('the least curve over bounds', () => {
  const cases = fc.record({
    seed: fc.integer({ min: 1, max: 9999 }),
    fps: fc.constantFrom(24, 60, 120),
    tau: fc.double({ min: 0.04, max: 0.2, noNaN: true }),
  });

  /** A few hills that have to be cleared, noise on them, and nothing that bounds between. */
  function hills(seed: number): Float64Array {
    const rng = random(seed);
    const bounds = new Float64Array(FRAMES).fill(-Infinity);
    for (let hill = 0; hill < 3; hill++) {
      const [first, length, high] = [10 + Math.floor(rng.next() * 120), 1 + Math.floor(rng.next() * 18), 0.02 + 0.3 * rng.next()];
      for (let i = 0; i < length && first + i < FRAMES; i++)
        bounds[first + i] = high * Math.sin((Math.PI * (i + 1)) / (length + 1)) + 0.002 * rng.normal();
    }
    return bounds;
  }

  it('is nowhere under them, and no curve beside it that is not either costs less', () => {
    fc.assert(
      fc.property(cases, ({ seed, fps, tau }) => {
        const bounds = hills(seed);
        const curve = coverCurve(bounds, tau, timeOf(fps))!;
        const cost = (values: Float64Array): number => {
          let sum = 0;
          for (let f = 0; f < FRAMES; f++) {
            const bend = f > 0 && f + 1 < FRAMES ? values[f - 1] - 2 * values[f] + values[f + 1] : 0;
            sum += values[f] * values[f] + stiffnessOf(tau, 1 / fps) * bend * bend;
          }
          return sum;
        };
        expect(curve.every((v, f) => v >= bounds[f])).toBeTrue();
        const least = cost(curve);
        const rng = random(seed + 1);
        for (let trial = 0; trial < 20; trial++) {
          const [middle, width, high] = [rng.next() * FRAMES, 1 + 12 * rng.next(), 0.01 * rng.normal()];
          const other = curve.map((v, f) => Math.max(bounds[f], v + high * Math.exp(-(((f - middle) / width) ** 2))));
          expect(cost(other))
            .withContext(`${seed}, ${trial}`)
            .toBeGreaterThan(least * (1 - 1e-6));
        }
      }),
      { numRuns: 25, seed: 5 },
    );
  });

  it('is none where nothing has to be cleared', () => {
    expect(coverCurve(new Float64Array(FRAMES).fill(-0.1), 0.05, timeOf(60))).toBeUndefined();
  });
});

describe('a curve that is filled in', () => {
  it('goes over from one given stretch to the next without a jump in value or in speed', () => {
    fc.assert(
      fc.property(fc.integer({ min: 4, max: 80 }), fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(0.05, 0.25), (gap, seed, tau) => {
        const rng = random(seed);
        const values = new Float64Array(FRAMES);
        const given = new Uint8Array(FRAMES);
        const [v, s, w, u] = [rng.normal(), rng.normal() * 0.02, rng.normal(), rng.normal() * 0.02];
        const [from, to] = [40, 40 + gap];
        for (let f = 0; f < 10; f++) {
          given[from - f] = given[to + f] = 1;
          values[from - f] = v - s * f;
          values[to + f] = w + u * f;
        }
        const before = values.slice();
        fillCurve(values, 1, given, tau, timeOf(60));
        for (let f = 0; f < FRAMES; f++) if (given[f]) expect(values[f]).toBe(before[f]);
        // No bend is farther from its neighbours than what both ends, taken up within τ, ask for.
        const frames = tau * 60;
        const most =
          (4 * (Math.abs(v) + Math.abs(w))) / (Math.min(gap, frames) * Math.min(gap, frames)) +
          (4 * (Math.abs(s) + Math.abs(u))) / Math.min(gap, frames);
        for (let f = from; f < to; f++) {
          const bend = Math.abs(values[f + 1] - 2 * values[f] + values[f - 1]);
          expect(bend)
            .withContext(`${gap}, ${seed}, ${f}`)
            .toBeLessThan(2 * most);
        }
      }),
      { numRuns: 60, seed: 3 },
    );
  });

  it('keeps what is given, dies out away from it, and is not bent over a jump of the take', () => {
    const values = new Float64Array(FRAMES);
    const given = new Uint8Array(FRAMES);
    for (let f = 60; f < 80; f++) [values[f], given[f]] = [0.1, 1];
    const whole = values.slice();
    fillCurve(whole, 1, given, 0.05, timeOf(60));
    expect(whole.subarray(60, 80).every((v) => v === 0.1)).toBeTrue();
    expect(Math.abs(whole[81])).toBeGreaterThan(0.05);
    expect(Math.abs(whole[110])).toBeLessThan(1e-4);
    const cut = values.slice();
    fillCurve(cut, 1, given, 0.05, timeOf(60, [81]));
    expect(Math.abs(cut[82])).toBeLessThan(1e-9);
  });
});
