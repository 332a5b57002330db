import { curveOf } from './curve';

const pointsOf = (text: string): [number, number][] => text.split(' ').map((pair) => pair.split(',').map(Number) as [number, number]);

describe('a curve under a lane', () => {
  it('stands in the middle of each frame, low for nothing and high for the top', () => {
    const points = pointsOf(curveOf(Float32Array.of(0, 0.05, 0.1), 0.1));
    expect(points).toEqual([
      [0.5, 96],
      [1.5, 50],
      [2.5, 4],
    ]);
  });

  it('stays in its box whatever the values are', () => {
    const points = pointsOf(curveOf(Float32Array.of(-3, 0, 7, 0.02), 0.1));
    expect(points.every(([, y]) => y >= 4 && y <= 96)).toBeTrue();
  });

  it('is no longer than can be seen, and goes over all of a long take', () => {
    const values = Float32Array.from({ length: 50_000 }, (_, i) => Math.abs(Math.sin(i / 500)));
    const points = pointsOf(curveOf(values, 1));
    expect(points.length).toBeLessThanOrEqual(2100);
    expect(points[0][0]).toBe(0.5);
    expect(points.at(-1)![0]).toBeGreaterThan(49_950);
  });

  it('is nothing for a frame, or where there are no values', () => {
    expect([curveOf(undefined, 1), curveOf(Float32Array.of(1), 1)]).toEqual(['', '']);
  });
});
