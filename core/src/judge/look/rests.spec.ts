import { random } from '../../math/random';
import { sin } from '../../math/trig';
import { calmOf } from '../measures/calm';
import { holdingOf, middle, slidingOf, type Standing } from './holding';
import { lagsOf } from '../measures/lag';
import { LIMITS, type FigureId, type Limit } from '../limits';
import { markBy } from '../marks';
import type { BodyPoint, PointKind } from './points';
import { findRests } from './rests';
import { flipsOf, frozenOf } from '../measures/still';

const FRAME = 1 / 60;
const point = (name: string, kind: PointKind): BodyPoint => ({ name, kind, joint: 0, local: new Float64Array(3) });
const POINTS = [point('left heel', 'feet'), point('left palm', 'hands'), point('seat', 'body')];

/** Places of the three points: each goes at a steady pace but for a rest at a height of its own. */
function places(
  frames: number,
  noise = 0,
  rests: readonly (readonly [number, number])[] = [
    [60, 120],
    [90, 200],
    [150, 210],
  ],
): Float64Array {
  const rng = random(7);
  const out = new Float64Array(frames * 9);
  const at = [0, 0, 0];
  for (let f = 0; f < frames; f++) {
    for (let i = 0; i < 3; i++) {
      const [first, last] = rests[i];
      if (f <= first || f > last) at[i] += 0.8 * FRAME;
      out.set([at[i] + noise * rng.normal(), [0.05, 1.7, 0.5][i] + noise * rng.normal(), 0.3 + noise * rng.normal()], (f * 3 + i) * 3);
    }
  }
  return out;
}

describe('rests of the performer', () => {
  it('are found at any height, by speed and time alone, each point for itself', () => {
    const rests = findRests(places(240), POINTS, FRAME, 0.9);
    expect(rests.map(({ point: p, kind }) => [p, kind])).toEqual([
      [0, 'feet'],
      [1, 'hands'],
      [2, 'body'],
    ]);
    for (const [i, [first, last]] of [
      [60, 120],
      [90, 200],
      [150, 210],
    ].entries()) {
      expect(Math.abs(rests[i].first - first))
        .withContext(POINTS[i].name)
        .toBeLessThan(4);
      expect(Math.abs(rests[i].last - last))
        .withContext(POINTS[i].name)
        .toBeLessThan(4);
    }
  });

  it('are found through the noise of a capture, and not made of it', () => {
    const noisy = findRests(places(240, 0.0006), POINTS, FRAME, 0.9);
    expect(new Set(noisy.map(({ point: p }) => p)).size).toBe(3);
    const moving = findRests(
      places(240, 0.0006, [
        [0, 0],
        [0, 0],
        [0, 0],
      ]),
      POINTS,
      FRAME,
      0.9,
    );
    expect(moving).toEqual([]);
  });

  it('are too short to count where a point only slows down', () => {
    expect(
      findRests(
        places(240, 0, [
          [60, 63],
          [90, 102],
          [150, 170],
        ]),
        POINTS,
        FRAME,
        0.9,
      ),
    ).toEqual([]);
  });

  it('are as short for a palm that is on the floor as for a foot', () => {
    const brief = (high: number): number => {
      const all = places(240, 0, [
        [60, 120],
        [90, 102],
        [150, 150],
      ]);
      for (let i = 4; i < all.length; i += 9) all[i] = high;
      return findRests(all, POINTS, FRAME, 0.9).filter(({ kind }) => kind === 'hands').length;
    };
    expect(brief(0.08)).toBe(1);
    expect(brief(0.3)).toBe(0);
  });

  it('are cut where a point creeps on: no rest is wider than a foot', () => {
    const frames = 600;
    const creep = new Float64Array(frames * 9);
    for (let f = 0; f < frames; f++) for (let i = 0; i < 3; i++) creep.set([0.03 * f * FRAME, 0, 0], (f * 3 + i) * 3);
    const feet = findRests(creep, POINTS, FRAME, 0.9).filter(({ kind }) => kind === 'feet');
    expect(feet.length).toBeGreaterThan(2);
    for (const { first, last } of feet) expect((last - first) * FRAME * 0.03).toBeLessThan(0.08);
  });
});

describe('holding', () => {
  const theirs = places(240);
  const rests = findRests(theirs, POINTS, FRAME, 0.9);
  const scale = { stride: 1, lift: 1 };
  const standing = (mine: Float64Array): Standing[] =>
    rests.map((rest) => ({ ...rest, mine: middle(mine, 3, rest), theirs: middle(theirs, 3, rest) }));
  const held = (mine: Float64Array, kind: PointKind) => holdingOf(standing(mine), kind, POINTS, mine, theirs, scale, FRAME, 0.9);

  it('is whole where the character does as the performer, wherever it does it', () => {
    const mine = theirs.map((v, i) => v + [3, 0.2, -1][i % 3]);
    for (const kind of ['feet', 'hands', 'body'] as const) {
      const { rested, held: kept, notHeld } = held(mine, kind);
      expect(kept).withContext(kind).toBeCloseTo(rested, 9);
      expect(notHeld).withContext(kind).toBe(0);
    }
  });

  it('loses the time in which a point is away, and says which rest and how far', () => {
    const mine = theirs.slice();
    for (let f = 100; f < 120; f++) mine[(f * 3 + 1) * 3] += 0.08;
    const { rested, held: kept, worst, notHeld } = held(mine, 'hands');
    expect(rested - kept).toBeCloseTo(20 * FRAME, 1);
    expect(notHeld).toBe(1);
    expect(worst!.away).toBeCloseTo(0.08, 3);
    expect(held(mine, 'feet').notHeld).toBe(0);
  });

  it('counts the way that feet slide over the performer’s own', () => {
    const mine = theirs.slice();
    for (let f = 60; f < 240; f++) mine[f * 9] += Math.min(0.05, (f - 60) * 0.001);
    const { travel, performerTravel, worst } = slidingOf(standing(mine), POINTS, mine, theirs, 1, FRAME);
    expect(travel).toBeGreaterThan(0.04);
    expect(performerTravel).toBeLessThan(0.01);
    expect(worst!.rest.point).toBe(0);
  });
});

describe('what is compared frame by frame', () => {
  const wave = (frames: number, late: number): Float64Array =>
    Float64Array.from({ length: frames }, (_, f) => 0.02 + 0.015 * sin((f - late) / 6) + 0.004 * sin((f - late) / 1.7));

  it('finds by how many frames a limb is late or early, and none where both are of one time', () => {
    const theirs = wave(300, 0);
    for (const late of [-3, -1, 0, 2, 4]) {
      const [lag] = lagsOf([{ name: 'arm', mine: wave(300, late), theirs }], FRAME);
      expect(lag.frames).withContext(`${late}`).toBe(late);
    }
  });

  it('calls only those joints frozen that stand while the performer’s move', () => {
    const roles = ['head', 'left.hand'];
    const theirs = new Float32Array(200 * 2).fill(0.02);
    const mine = theirs.slice();
    for (let f = 60; f < 140; f++) mine[f * 2 + 1] = 0;
    const found = frozenOf(roles, mine, theirs, FRAME);
    expect(found.map(({ role }) => role)).toEqual(['left.hand']);
    expect(found[0].first).toBeLessThan(100);
    expect(frozenOf(roles, new Float32Array(400), new Float32Array(400), FRAME)).toEqual([]);
  });

  it('counts turns over that the performer does not make', () => {
    const theirs = new Float32Array(20).fill(0.1);
    const mine = theirs.slice();
    mine[13] = 2;
    expect(flipsOf(['head', 'left.hand'], mine, theirs)).toEqual({ count: 1, role: 'left.hand', frame: 6 });
    theirs[13] = 1.9;
    expect(flipsOf(['head', 'left.hand'], mine, theirs).count).toBe(0);
  });

  it('leaves known faults of the take out of how calm a joint is', () => {
    const frames = 200;
    const theirs = new Float64Array(frames).fill(0.01);
    const mine = theirs.slice();
    for (let f = 100; f < 110; f++) mine[f] = 0.1;
    const shaken = calmOf([{ name: 'left knee', mine, theirs }], new Uint8Array(frames), 1e-4);
    expect(shaken.ratio).toBeCloseTo(10, 6);
    expect(shaken.frame).toBe(99);
    const left = new Uint8Array(frames).fill(1, 98, 112);
    expect(calmOf([{ name: 'left knee', mine, theirs }], left, 1e-4).ratio).toBeCloseTo(1, 6);
    expect(calmOf([{ name: 'left knee', mine, theirs }], new Uint8Array(frames).fill(1, 20), 1e-4).ratio).toBeNaN();
  });
});

describe('limits', () => {
  it('go from good over caution to fault, and give no mark to what was not seen', () => {
    for (const [id, limit] of Object.entries(LIMITS) as [FigureId, Limit][]) {
      const { good, fault, rising, why } = limit;
      expect(rising ? good > fault : good < fault)
        .withContext(id)
        .toBeTrue();
      expect(why.length).withContext(id).toBeGreaterThan(10);
      expect([markBy(id, good, LIMITS[id]), markBy(id, NaN, LIMITS[id])])
        .withContext(id)
        .toEqual(['good', 'unseen']);
      expect(markBy(id, rising ? fault - 0.01 : fault, LIMITS[id]))
        .withContext(id)
        .toBe('fault');
      if (Math.abs(good - fault) > 1)
        expect(markBy(id, (good + fault) / 2, LIMITS[id]))
          .withContext(id)
          .toBe('caution');
    }
  });
});
