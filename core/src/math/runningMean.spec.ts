import * as fc from 'fast-check';
import { movingMean } from './filter';
import { RunningMean } from './runningMean';

describe('a running mean of places', () => {
  it('is the moving mean of each coordinate, at every frame and with any window', () => {
    const series = fc.array(fc.tuple(fc.float({ min: -5, max: 5, noNaN: true }), fc.float({ min: 0, max: 9, noNaN: true })), {
      minLength: 1,
      maxLength: 60,
    });
    fc.assert(
      fc.property(series, fc.integer({ min: 0, max: 70 }), (list, radius) => {
        const values = Float64Array.from(list.flatMap(([a, b]) => [a, b, a - b]));
        const axes = [0, 1, 2].map((c) =>
          movingMean(
            values.filter((_, i) => i % 3 === c),
            radius,
          ),
        );
        const mean = new RunningMean(values, radius);
        for (let f = 0; f < list.length; f++) {
          mean.step(f);
          [mean.x, mean.y, mean.z].forEach((v, c) => expect(v).toBeCloseTo(axes[c][f], 9));
        }
      }),
    );
  });
});
