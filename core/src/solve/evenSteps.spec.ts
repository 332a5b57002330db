import { random } from '../math/random';
import { evenSteps } from './evenSteps';
import type { Anchor } from './stances';

const FRAME_TIME = 0.01;

/** A ball that stands at x, on a line, where it is copied, while the performer's rests at `rest`. */
const standing = (group: number, [first, last]: readonly [number, number], x: number, rest?: number): Anchor => ({
  part: 'ball',
  first,
  last,
  group,
  before: new Float64Array(0),
  after: new Float64Array(0),
  raised: false,
  over: 0,
  point: new Float64Array(3),
  up: 0,
  x,
  y: 0,
  z: -x,
  ...(rest !== undefined && { rest: Float64Array.of(rest, 0, -rest) }),
});

/** Steps from stance to stance. */
const stepsOf = (anchors: readonly Anchor[]): number[] => anchors.slice(1).map(({ x }, i) => x - anchors[i].x);

describe('steps of one foot', () => {
  it('are nearly as short as the performer’s where a foot is only put down anew', () => {
    const anchors = [standing(0, [0, 79], 0, 0), standing(1, [85, 160], 0.2, 0.02)];
    evenSteps(anchors, FRAME_TIME);
    expect(stepsOf(anchors)[0]).toBeLessThan(0.08);
    expect(stepsOf(anchors)[0]).toBeGreaterThan(0.02);
    // Both give way, the one that stands for longer by less; and over the floor alike.
    expect(anchors[0].x).toBeGreaterThan(0.05);
    for (const { x, z } of anchors) expect(z).toBeCloseTo(-x, 12);
  });

  it('hardly change where they take their time, as those of a walk', () => {
    const { normal } = random(5);
    const anchors = Array.from({ length: 12 }, (_, i) => standing(i, [i * 100, i * 100 + 60], 1.3 * i + 0.05 * normal(), 1.3 * i));
    const copied = anchors.map(({ x }) => x);
    evenSteps(anchors, FRAME_TIME);
    anchors.forEach(({ x }, i) => expect(Math.abs(x - copied[i])).toBeLessThan(0.01));
  });

  it('stay where they are copied as the performer goes, and where nobody knows where that one rests', () => {
    for (const rests of [[0, 0.2, 0.25], [undefined, 0.9, undefined], []]) {
      const anchors = [0, 0.2, 0.25].map((x, i) => standing(i, [i * 50, i * 50 + 45], x, rests[i]));
      evenSteps(anchors, FRAME_TIME);
      [0, 0.2, 0.25].forEach((x, i) => expect(anchors[i].x).toBeCloseTo(x, 12));
    }
  });

  it('move heel and ball of a stance together', () => {
    const anchors: Anchor[] = [
      standing(0, [0, 79], 0, 0),
      standing(1, [84, 160], 0.2, 0.02),
      { ...standing(1, [90, 150], 0.1, 0.5), part: 'heel' },
    ];
    evenSteps(anchors, FRAME_TIME);
    expect(anchors[1].x).toBeLessThan(0.17);
    expect(anchors[1].x - anchors[2].x).toBeCloseTo(0.1, 12);
  });
});
