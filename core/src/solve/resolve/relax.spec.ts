import { Relaxation } from './relax';

describe('an iteration that is relaxed', () => {
  const FRAMES = 40;
  const aim = Float64Array.from({ length: FRAMES * 3 }, (_, i) => Math.sin(i));

  /** How far it is from where it stands still after so many rounds, each solution lying so much beyond that. */
  function after(rounds: number, beyond: number): number {
    const curves = [new Float64Array(FRAMES * 3)];
    const relaxation = new Relaxation(1, FRAMES);
    const changed = new Float64Array(FRAMES);
    for (let round = 0; round < rounds; round++) {
      const found = curves[0].map((v, i) => aim[i] + beyond * (aim[i] - v));
      changed.fill(0);
      relaxation.go([0, FRAMES - 1], curves, found, (f) => f * 3, changed);
    }
    return Math.max(...curves[0].map((v, i) => Math.abs(v - aim[i])));
  }

  it('comes to rest where it would swing wider and wider', () => {
    for (const beyond of [0.5, 1, 1.7, 4]) expect(after(4, beyond)).withContext(`${beyond}`).toBeLessThan(1e-9);
  });

  it('goes all the way where its steps go on in one direction', () => {
    for (const left of [0.2, 0.6])
      expect(after(5, -left))
        .withContext(`${left}`)
        .toBeCloseTo(left ** 5 * Math.max(...aim.map(Math.abs)), 9);
  });

  it('says how far each solution lay from it, however the world is turned', () => {
    for (const way of [
      [2, 0, 0],
      [1.2, 0, -1.6],
    ]) {
      const changed = new Float64Array(FRAMES);
      const found = Float64Array.from({ length: FRAMES * 3 }, (_, i) => way[i % 3]);
      new Relaxation(1, FRAMES).go([3, 5], [new Float64Array(FRAMES * 3)], found, (f) => f * 3, changed);
      expect([...changed].map((v, f) => (Math.abs(v - 2) < 1e-12 ? f : -1)).filter((f) => f >= 0)).toEqual([3, 4, 5]);
    }
  });
});
