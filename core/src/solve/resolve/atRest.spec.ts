import { AtRest } from './atRest';

const FRAMES = 240;
/** A rest from the first to the last second of four, at 60 frames a second. */
const rest = Float64Array.from({ length: FRAMES }, (_, f) => (f >= 60 && f < 180 ? 1 : 0));
const upBy = (metres: number): Float64Array => Float64Array.from({ length: FRAMES * 3 }, (_, i) => (i % 3 === 1 ? metres : 0));

describe('the hold of a body that rests', () => {
  it('is whole where the hips are where it rests, and none beside that', () => {
    const hold = new AtRest(rest, 1 / 60);
    for (let f = 0; f < FRAMES; f++) expect(hold.renew(f, upBy(0))).toBe(0);
    expect(hold.shares).toEqual(rest);
  });

  it('stays whole in the midst of the rest, and pulls no harder the farther the hips are at its ends', () => {
    const pullAt = (f: number, metres: number): number => {
      const hold = new AtRest(rest, 1 / 60);
      hold.renew(f, upBy(metres));
      return hold.shares[f] * metres;
    };
    expect(pullAt(120, 0.4)).toBeCloseTo(0.4, 9);
    for (const f of [60, 179]) {
      expect(pullAt(f, 0.4)).toBeLessThan(0.0031);
      expect(pullAt(f, 0.4)).toBeGreaterThan(pullAt(f, 0.01));
    }
  });

  it('tells how far hips still have to go, and takes hold again where they have come back', () => {
    const hold = new AtRest(rest, 1 / 60);
    expect(hold.renew(60, upBy(0.1))).toBeGreaterThan(0.09);
    expect(hold.renew(60, upBy(0.1))).toBe(0);
    hold.renew(60, upBy(0));
    expect(hold.shares[60]).toBe(1);
  });
});
