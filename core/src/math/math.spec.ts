import * as fc from 'fast-check';
import { eased, gaussian, percentile } from './filter';
import * as quat from './quat';
import { random } from './random';
import * as trig from './trig';

describe('trig', () => {
  const numbers = fc.double({ min: -1e4, max: 1e4, noNaN: true });

  it('agrees with the engine to the last places', () => {
    fc.assert(
      fc.property(numbers, (x) => {
        expect(Math.abs(trig.sin(x) - Math.sin(x))).toBeLessThan(1e-11);
        expect(Math.abs(trig.cos(x) - Math.cos(x))).toBeLessThan(1e-11);
        expect(Math.abs(trig.atan(x) - Math.atan(x))).toBeLessThan(1e-15);
      }),
    );
  });

  it('finds angles in all quadrants', () => {
    fc.assert(
      fc.property(numbers, numbers, (y, x) => {
        // On the negative x axis the engine tells −0 from 0; an angle has no use for that.
        fc.pre(y !== 0);
        expect(Math.abs(trig.atan2(y, x) - Math.atan2(y, x))).toBeLessThan(1e-14);
      }),
    );
    fc.assert(
      fc.property(fc.double({ min: -1, max: 1, noNaN: true }), (x) => {
        expect(Math.abs(trig.acos(x) - Math.acos(x))).toBeLessThan(1e-14);
        expect(Math.abs(trig.asin(x) - Math.asin(x))).toBeLessThan(1e-14);
      }),
    );
    expect(trig.acos(1.0001)).toBe(0);
    expect(trig.exp(-2)).toBeCloseTo(Math.exp(-2), 13);
  });
});

describe('quat', () => {
  const rotation = (seed: number): Float64Array => {
    const rng = random(seed);
    const q = Float64Array.of(rng.normal(), rng.normal(), rng.normal(), rng.normal());
    quat.normalize(q, 0);
    return q;
  };
  const seeds = fc.integer({ min: 1, max: 1e6 });
  const q = new Float64Array(4);
  const v = new Float64Array(3);

  it('turns a direction onto another by the smallest rotation', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const rng = random(seed);
        const a = Float64Array.of(rng.normal(), rng.normal(), rng.normal());
        const b = Float64Array.of(rng.normal(), rng.normal(), rng.normal());
        quat.between(q, 0, a, 0, b, 0);
        quat.rotate(v, 0, q, 0, a, 0);
        const scale = Math.hypot(...b) / Math.hypot(...a);
        for (let c = 0; c < 3; c++) expect(v[c] * scale).toBeCloseTo(b[c], 9);
        const angle = Math.acos((a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) / (Math.hypot(...a) * Math.hypot(...b)));
        expect(quat.angle(q, 0)).toBeCloseTo(angle, 6);
      }),
    );
  });

  it('turns a direction onto its opposite by half a turn', () => {
    for (const a of [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
      [1, -2, 0.5],
    ]) {
      quat.between(
        q,
        0,
        a,
        0,
        a.map((x) => -x),
        0,
      );
      quat.rotate(v, 0, q, 0, a, 0);
      a.forEach((x, c) => expect(v[c]).toBeCloseTo(-x, 9));
    }
  });

  it('takes logarithm and exponential as inverses, and slerp between its ends', () => {
    fc.assert(
      fc.property(seeds, seeds, (s1, s2) => {
        const a = rotation(s1);
        const b = rotation(s2);
        quat.log(v, 0, a, 0);
        quat.exp(q, 0, v[0], v[1], v[2]);
        expect(quat.angleBetween(q, 0, a, 0)).toBeLessThan(1e-7);
        quat.slerp(q, 0, a, 0, b, 0, 1);
        expect(quat.angleBetween(q, 0, b, 0)).toBeLessThan(1e-7);
        quat.slerp(q, 0, a, 0, b, 0, 0.25);
        expect(quat.angleBetween(q, 0, a, 0)).toBeCloseTo(quat.angleBetween(a, 0, b, 0) / 4, 6);
      }),
    );
  });

  it('splits a twist off a rotation', () => {
    quat.fromAxisAngle(q, 0, 0, 1, 0, 0.7);
    const swing = new Float64Array(4);
    quat.fromAxisAngle(swing, 0, 1, 0, 0, 0.4);
    quat.mul(q, 0, swing, 0, q, 0);
    expect(quat.twistAngle(q, 0, 0, 1, 0)).toBeCloseTo(0.7, 12);
  });
});

describe('filters', () => {
  it('smooth without moving a straight line or its phase', () => {
    const line = Float64Array.from({ length: 60 }, (_, f) => 2 + 0.5 * f);
    const smooth = gaussian(line, 1, 3);
    for (let f = 12; f < 48; f++) expect(smooth[f]).toBeCloseTo(line[f], 9);
    const bump = new Float64Array(61);
    bump[30] = 1;
    const spread = gaussian(bump, 1, 4);
    for (let k = 0; k < 12; k++) expect(spread[30 - k]).toBeCloseTo(spread[30 + k], 15);
  });

  it('ease a length to a limit: itself far from it, never beyond it, and the longer itself the later it slows down', () => {
    for (const late of [1, 2, 3, 4]) {
      let before = 0;
      for (let length = 0.01; length < 5; length += 0.01) {
        const now = eased(length, 1, late);
        expect(now).toBeGreaterThanOrEqual(before);
        expect(now).toBeLessThanOrEqual(1);
        if (late > 1) expect(now).toBeGreaterThanOrEqual(eased(length, 1, late - 1));
        before = now;
      }
      expect(eased(0.5, 1, late)).toBeCloseTo(0.5 * (1 - 0.5 ** (2 ** late) / 2 ** late), 1);
      expect(eased(0.5, 0, late)).toBe(0);
    }
  });

  it('take percentiles between values', () => {
    expect(percentile([3, 1, 2], 0.5)).toBe(2);
    expect(percentile([0, 10], 0.25)).toBe(2.5);
    expect(percentile([], 0.5)).toBeNaN();
  });
});
