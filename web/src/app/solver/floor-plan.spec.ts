import { ClipReader, findContacts, pointInWorld, type Plant } from '@hollow-stride/core';
import { performerOf, randomShape, walk } from '../../../../core/src/testing';
import { floorPlan } from './floor-plan';

describe('a floor plan', () => {
  const shape = randomShape(12, { clavicles: true, toes: true });
  const { rig, clip } = performerOf(shape, walk(shape, { seed: 12, frames: 300 }));
  const { plants } = findContacts(rig, clip);
  const plan = floorPlan(rig, clip, plants);

  /** Where a point of a foot is in a frame. */
  const placeOf = (side: string, part: 'heel' | 'ball', f: number): Float64Array => {
    const foot = rig.feet.find((one) => one.side === side)!;
    const out = new Float64Array(3);
    pointInWorld(out, 0, new ClipReader(rig.skeleton, clip).at(f), foot.foot, foot[part], 0);
    return out;
  };

  it('has a print for each stand of a foot, where heel and ball are', () => {
    expect(plan.prints.length).toBeGreaterThan(5);
    expect(new Set(plan.prints.map(({ side }) => side))).toEqual(new Set(['left', 'right']));
    for (const { side, first, last, heel, ball, heights } of plan.prints) {
      const [h, b] = (['heel', 'ball'] as const).map((part) => placeOf(side, part, (first + last) >> 1));
      expect(Math.hypot(heel[0] - h[0], heel[1] - h[2]))
        .withContext(`${side} ${first}`)
        .toBeLessThan(0.003);
      expect(Math.hypot(ball[0] - b[0], ball[1] - b[2]))
        .withContext(`${side} ${first}`)
        .toBeLessThan(0.003);
      expect(Math.max(...heights)).toBeLessThan(0.01);
    }
  });

  it('shows no smear where a foot stands still, and the way of one that slides', () => {
    const wayOf = (smear: Float32Array): number => {
      let way = 0;
      for (let i = 2; i < smear.length; i += 2) way += Math.hypot(smear[i] - smear[i - 2], smear[i + 1] - smear[i - 1]);
      return way;
    };
    for (const { smear } of plan.prints) expect(wayOf(smear)).toBeLessThan(0.004);
    const sliding = {
      ...clip,
      moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.map((v, i) => (i % 3 === 0 ? v + (0.1 * i) / 180 : v)) })),
    };
    // A tenth of a metre a second, aside.
    for (const { smear, first, last } of floorPlan(rig, sliding, plants).prints) {
      expect(wayOf(smear)).toBeCloseTo((0.1 * (last - first)) / 60, 1);
    }
  });

  it('follows the hips, as fine as can be seen', () => {
    expect(plan.step).toBe(1);
    expect(plan.hips.length).toBe(600);
    const { positions } = new ClipReader(rig.skeleton, clip).at(140);
    const [l, r] = ['left', 'right'].map((side) => rig.roles.get(`${side}.upperLeg`)! * 3);
    expect(plan.hips[280]).toBeCloseTo((positions[l] + positions[r]) / 2, 5);
    expect(plan.hips[281]).toBeCloseTo((positions[l + 2] + positions[r + 2]) / 2, 5);
  });

  it('lies beside another’s at its scale', () => {
    const wide = floorPlan(rig, clip, plants, 1.5);
    plan.prints.forEach((print, i) => {
      expect(wide.prints[i].ball[1]).toBeCloseTo(1.5 * print.ball[1], 6);
      expect(wide.prints[i].heel[0]).toBeCloseTo(1.5 * print.heel[0], 6);
    });
    expect(wide.hips[99]).toBeCloseTo(1.5 * plan.hips[99], 5);
  });

  it('joins heel and ball to one stand while either is down, and shows it where both are', () => {
    const of = (part: Plant['part'], first: number, last: number): Plant => ({ side: 'left', part, first, last });
    const { prints } = floorPlan(rig, clip, [of('heel', 10, 40), of('ball', 20, 60), of('heel', 100, 120)]);
    expect(prints.map(({ first, last, from, to }) => [first, last, from, to])).toEqual([
      [20, 40, 10, 60],
      [100, 120, 100, 120],
    ]);
  });
});
