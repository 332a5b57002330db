import { random } from '../math/random';
import { frameGrid, trueFrameTime } from './rates';

describe('the time of a frame', () => {
  it('that a file gives rounded is that of the rate that it was rounded from, in as many digits as there are', () => {
    for (const rate of [24, 25, 30, 48, 50, 60, 90, 100, 120, 240, 30_000 / 1001, 60_000 / 1001])
      for (const digits of [5, 6, 7, 9]) {
        const written = Number((1 / rate).toFixed(digits));
        const read = trueFrameTime(written, 1.01 / 10 ** digits);
        if (digits > 6 || Number.isInteger(rate))
          expect(read)
            .withContext(`${rate} by ${digits} digits`)
            .toBe(1 / rate);
      }
    expect(trueFrameTime(0.0083333, 1.01e-7)).toBe(1 / 120);
    expect(trueFrameTime(0.033, 1.01e-3)).toBe(1 / 30);
    // Not a rounded rate, but one of its own.
    for (const own of [0.00834, 0.0137, 0.0333667, 1 / 59]) expect(trueFrameTime(own, 1.01e-7)).toBeCloseTo(own, 7);
  });

  it('is found from keys in single precision, however long the take and however many keys were left out', () => {
    const rng = random(5);
    for (let i = 0; i < 200; i++) {
      const frameTime = [1 / 120, 0.0083333, 1 / 30, 1001 / 30000, 0.00834, 1 / 59][i % 6];
      const frames = rng.integer(20, 20_000);
      const kept = Array.from({ length: frames }, (_, f) => f).filter(
        (f) => f === 0 || f === frames - 1 || f === 7 || f === 8 || rng.next() < 0.4,
      );
      const start = rng.next() < 0.5 ? 0 : 1.25;
      const times = Float32Array.from(kept, (f) => start + f * frameTime);
      const grid = frameGrid([times, Float32Array.of(start)]);
      expect(grid?.frames).withContext(`${frameTime} ${frames}`).toBe(frames);
      expect(Math.abs(grid!.frameTime - frameTime) * frames).toBeLessThan(0.05 * frameTime);
    }
  });

  it('is not made up for keys that lie on no even frames', () => {
    expect(frameGrid([[0, 0.05, 0.13, 0.31]])).toBeUndefined();
    expect(frameGrid([[0, 1, 2]])).toBeUndefined();
    expect(frameGrid([[0]])).toBeUndefined();
  });
});
