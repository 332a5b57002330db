import type { FloorPlan } from '../../solver/floor-plan';
import { groundOf, layOf, lengthText, roundLength, zoomedBox } from './layout';

const plan = (hips: readonly number[]): FloorPlan => ({ prints: [], hips: Float32Array.from(hips), step: 1 });

describe('the layout of the stride map', () => {
  it('lays the longer way across, and leads back from the map to the floor', () => {
    for (const hips of [
      [0, 0, 0.2, 5],
      [0, 0, -4, 0.5],
    ]) {
      const lay = layOf([plan(hips)]);
      const [a, b] = [lay.to(hips[0], hips[1]), lay.to(hips[2], hips[3])];
      expect(Math.abs(b[0] - a[0])).toBeGreaterThan(Math.abs(b[1] - a[1]));
      const back = lay.back(...lay.to(1.5, -2.5));
      expect(back[0]).toBeCloseTo(1.5, 9);
      expect(back[1]).toBeCloseTo(-2.5, 9);
    }
  });

  it('shows all that both bodies cover, with a margin', () => {
    const plans = [plan([0, 0, 1, 2]), plan([-1, 0.5, 0, 3])];
    const lay = layOf(plans);
    const { left, top, width, height } = groundOf(plans, lay);
    for (const [x, z] of [
      [0, 0],
      [1, 2],
      [-1, 0.5],
      [0, 3],
    ]) {
      const [u, v] = lay.to(x, z);
      expect(u > left && u < left + width && v > top && v < top + height)
        .withContext(`${x} ${z}`)
        .toBeTrue();
    }
  });

  it('goes nearer about a place that stays, to a quarter of a metre, and no farther than all', () => {
    const ground = { left: -2, top: -1, width: 8, height: 4 };
    const near = zoomedBox(ground, ground, 4, [1, 0.5]);
    expect([near.width, near.height]).toEqual([2, 1]);
    expect((1 - near.left) / near.width).toBeCloseTo((1 - ground.left) / ground.width, 9);
    expect((0.5 - near.top) / near.height).toBeCloseTo((0.5 - ground.top) / ground.height, 9);
    expect(zoomedBox(near, ground, 1e6, [1, 0.5]).width).toBe(0.25);
    expect(zoomedBox(near, ground, 0.1, [1, 0.5])).toBe(ground);
  });

  it('says lengths as people do', () => {
    expect([0.034, 0.48, 1, 2.345].map(lengthText)).toEqual(['3.4 cm', '48 cm', '1.00 m', '2.35 m']);
    for (const [most, length] of [
      [0.9, 0.5],
      [0.27, 0.2],
      [4.9, 2],
      [10.5, 10],
      [0.013, 0.01],
    ])
      expect(roundLength(most)).toBeCloseTo(length, 12);
  });
});
