import { performerOf, randomShape, walk } from '../testing';
import { findContacts } from './index';
import { cutHigher } from './lower';
import type { Plant } from './stands';

describe('of a foot that stands on heel or ball alone', () => {
  it('only the frames at the ends of a plant in which the other is lower are cut off, and none of one that stands on something', () => {
    const plant: Plant = { side: 'left', part: 'heel', first: 10, last: 20 };
    const isHigher = (f: number): boolean => f < 12 || f === 15 || f > 18;
    expect(cutHigher([plant], isHigher)).toEqual([{ ...plant, first: 12, last: 18 }]);
    expect(cutHigher([plant], () => true)).toEqual([]);
    expect(cutHigher([{ ...plant, height: 0.2 }], isHigher)).toEqual([{ ...plant, height: 0.2 }]);
  });

  it('no heel of a walker is planted alone while its ball is clearly lower', () => {
    for (let seed = 1; seed <= 8; seed++) {
      const shape = randomShape(seed, { toes: true });
      const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 240, roll: 22, noise: seed % 2 ? 0.001 : 0 }));
      const { plants } = findContacts(rig, clip);
      const balls = plants.filter(({ part }) => part === 'ball');
      for (const heel of plants.filter(({ part }) => part === 'heel')) {
        const ball = balls.find(({ side, first, last }) => side === heel.side && first <= heel.last && last >= heel.first);
        // A walker rolls off over its ball: no heel stays behind it.
        if (ball) expect(heel.last).withContext(`${seed}: ${heel.side} ${heel.first}`).toBeLessThanOrEqual(ball.last);
      }
    }
  });
});
