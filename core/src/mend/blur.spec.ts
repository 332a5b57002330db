import { gaussian } from '../math/filter';
import { random } from '../math/random';
import { blurred } from './blur';

describe('a broad bell of boxes', () => {
  const FRAMES = 400;
  const rng = random(4);
  const noise = Float64Array.from({ length: FRAMES * 2 }, () => rng.normal());

  it('smooths as the bell itself does', () => {
    for (const sigma of [3, 6, 20, 60]) {
      const [ours, theirs] = [blurred(noise, 2, sigma), gaussian(noise, 2, sigma)];
      let [apart, size] = [0, 0];
      for (let i = 0; i < ours.length; i++) {
        apart += (ours[i] - theirs[i]) ** 2;
        size += theirs[i] ** 2;
      }
      expect(Math.sqrt(apart / size))
        .withContext(`${sigma}`)
        .toBeLessThan(0.12);
    }
  });

  it('leaves what is constant, at its ends too, and is wider than the series without harm', () => {
    for (const sigma of [10, 500]) {
      expect(blurred(new Float64Array(FRAMES).fill(0.7), 1, sigma).every((x) => Math.abs(x - 0.7) < 1e-9)).toBeTrue();
      expect(blurred(noise, 2, sigma).every(Number.isFinite)).toBeTrue();
    }
  });
});
