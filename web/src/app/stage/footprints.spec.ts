import { type LineLoop, Mesh, type BufferGeometry } from 'three';
import type { FloorPlan, Footprint } from '../solver/floor-plan';
import { Footprints } from './footprints';

const print = (side: Footprint['side'], heights: Footprint['heights'] = [0, 0]): Footprint => ({
  side,
  first: 0,
  last: 9,
  from: 0,
  to: 9,
  heights,
  heel: [1, 2],
  ball: [1, 2.2],
  smear: new Float32Array(0),
});
const planOf = (...prints: Footprint[]): FloorPlan => ({ prints, hips: new Float32Array(0), step: 1 });

describe('footprints', () => {
  const bounds = (of: { geometry: BufferGeometry }): { low: number[]; high: number[] } => {
    of.geometry.computeBoundingBox();
    const { min, max } = of.geometry.boundingBox!;
    return { low: min.toArray(), high: max.toArray() };
  };

  it('lie about heel and ball, just over what the foot stands on', () => {
    const { group } = new Footprints(planOf(print('right')), '#C2602A', 0);
    expect(group.children.length).toBe(1);
    const { low, high } = bounds(group.children[0] as LineLoop);
    expect(low[2]).toBeLessThan(2);
    expect(high[2]).toBeGreaterThan(2.2);
    expect((low[0] + high[0]) / 2).toBeCloseTo(1, 5);
    expect(low[1]).toBeGreaterThan(0);
    expect(high[1]).toBeLessThan(0.01);
  });

  it('are filled for the left foot, and show what is stood on above the floor', () => {
    const meshes = (plan: FloorPlan, floor = 0): Mesh[] =>
      new Footprints(plan, '#C2602A', floor).group.children.filter((child) => child instanceof Mesh);
    expect(meshes(planOf(print('left'))).length).toBe(1);
    expect(meshes(planOf(print('right'))).length).toBe(0);
    const [step] = meshes(planOf(print('right', [0.3, 0.3])));
    expect(bounds(step).low[1]).toBeCloseTo(0.3, 1);
    expect(bounds(step).low[1]).toBeLessThan(0.3);
    // Where the floor itself is as high nothing stands on it.
    expect(meshes(planOf(print('right', [0.3, 0.3])), 0.3).length).toBe(0);
  });

  it('rise with a slope, and are as small as the body beside it', () => {
    const { low, high } = bounds(new Footprints(planOf(print('right', [0, 0.05])), '#C2602A', 0).group.children[0] as LineLoop);
    expect(high[1] - low[1]).toBeGreaterThan(0.05);
    const half = bounds(new Footprints(planOf(print('right')), '#C2602A', 0, 2).group.children[0] as LineLoop);
    expect((half.low[0] + half.high[0]) / 2).toBeCloseTo(0.5, 5);
  });

  it('leave the stage when they are done with', () => {
    const prints = new Footprints(planOf(print('left')), '#C2602A', 0);
    let gone = 0;
    for (const child of prints.group.children) (child as Mesh).geometry.addEventListener('dispose', () => gone++);
    prints.dispose();
    expect(gone).toBe(2);
  });
});
