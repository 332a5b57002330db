import { middleOf } from './middle';
import { fromAxisAngle, rotate } from './quat';
import { random } from './random';
import { distance } from './vec';

const middle = (places: Float64Array, first = 0, step = 1, count = places.length / 3): Float64Array => {
  const out = new Float64Array(3);
  middleOf(out, places, first, step, count);
  return out;
};

describe('the middle of places', () => {
  it('is where more than half of them lie, wherever the others are', () => {
    const rng = random(4);
    for (let trial = 0; trial < 30; trial++) {
      const at = [rng.normal(), rng.normal(), rng.normal()];
      const places = Float64Array.from({ length: 33 }, (_, i) => (i < 18 ? at[i % 3] : at[i % 3] + rng.range(-0.3, 0.3)));
      expect(distance(middle(places), 0, Float64Array.from(at), 0))
        .withContext(`trial ${trial}`)
        .toBeLessThan(1e-5);
    }
  });

  it('has the least sum of distances', () => {
    const rng = random(5);
    for (let trial = 0; trial < 20; trial++) {
      const places = Float64Array.from({ length: 45 }, () => rng.normal());
      const total = (from: Float64Array): number =>
        Array.from({ length: 15 }, (_, i) => distance(places, i * 3, from, 0)).reduce((sum, way) => sum + way, 0);
      const found = middle(places);
      for (let c = 0; c < 3; c++) {
        for (const by of [-0.02, 0.02]) {
          const beside = found.slice();
          beside[c] += by;
          expect(total(beside)).withContext(`trial ${trial}`).toBeGreaterThan(total(found));
        }
      }
    }
  });

  it('turns with the places', () => {
    const rng = random(6);
    const q = new Float64Array(4);
    fromAxisAngle(q, 0, 0, 1, 0, 2.4);
    const places = Float64Array.from({ length: 36 }, () => rng.normal());
    const turned = new Float64Array(36);
    for (let i = 0; i < 36; i += 3) rotate(turned, i, q, 0, places, i);
    const expected = new Float64Array(3);
    rotate(expected, 0, q, 0, middle(places), 0);
    expect(distance(middle(turned), 0, expected, 0)).toBeLessThan(1e-9);
  });

  it('looks only at those that are asked for', () => {
    const places = Float64Array.from({ length: 30 }, (_, i) => Math.floor(i / 3));
    expect([...middle(places, 1, 3, 3)].map((v) => +v.toFixed(4))).toEqual([4, 4, 4]);
    expect([...middle(places, 7, 1, 1)]).toEqual([7, 7, 7]);
  });
});
