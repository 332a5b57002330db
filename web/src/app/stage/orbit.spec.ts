import { climbed } from './orbit';

describe('the eye on a body that climbs', () => {
  it('stays while the body stands or crouches, whatever its legs', () => {
    for (const hips of [0.2, 0.53, 0.64]) expect(climbed(hips * 1.8, 1.8)).toBe(0);
  });

  it('goes up without a jump, and in the end brings the hips to the middle', () => {
    for (let hips = 0.5; hips < 6; hips += 0.01) {
      const step = climbed(hips + 0.01, 1.8) - climbed(hips, 1.8);
      expect(step).toBeGreaterThanOrEqual(0);
      expect(step).toBeLessThan(0.021);
    }
    expect(climbed(6, 1.8) + 0.5 * 1.8).toBeCloseTo(6, 1);
  });
});
