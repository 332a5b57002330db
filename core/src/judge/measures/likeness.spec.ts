import * as fc from 'fast-check';
import { random } from '../../math/random';
import { cos, DEG, sin } from '../../math/trig';
import type { Direction, Part } from '../look/directions';
import { FRAME, placesAlong, sceneOf, swinging, swings } from './madeScenes';
import { calmOf, usualOf } from './calm';
import { energyOfUpper } from './energy';
import { jumpOf } from './jumps';
import { lagsOf } from './lag';
import { momentOfArms } from './moments';
import { order } from './order';
import { flipsOf, frozenOf } from './still';
import { worstStretch } from './stretch';

describe('the worst quarter of a second', () => {
  it('is where a series is highest in the mean, never at a known fault', () => {
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 180 }), fc.integer({ min: 0, max: 1 }), (middle, known) => {
        const series = new Float64Array(200).fill(0.1);
        series.fill(0.9, middle - 7, middle + 8);
        const left = new Uint8Array(200);
        if (known === 1) left.fill(1, middle - 15, middle + 16);
        const { value, frame } = worstStretch(series, left, FRAME);
        expect(value).toBeCloseTo(known === 1 ? 0.1 : 0.9, 6);
        if (known === 0) expect(Math.abs(frame - middle)).toBeLessThanOrEqual(1);
      }),
    );
  });

  it('is nowhere in a series that is shorter', () => {
    expect(worstStretch(new Float64Array(10).fill(1), new Uint8Array(10), FRAME)).toEqual({ value: -Infinity, frame: -1 });
  });

  it('lays a flicker of three frames at less than it is', () => {
    const series = new Float64Array(100);
    series.fill(1, 50, 53);
    expect(worstStretch(series, new Uint8Array(100), FRAME).value).toBeCloseTo(3 / 15, 9);
  });
});

describe('an arm that is elsewhere for a moment', () => {
  const frames = 600;
  const arm = (mine: (f: number) => number): Direction => swinging('left upper arm', 'arms', frames, swings, mine);

  it('is told with its frame, whatever its size, beyond what it is off usually', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 60, max: 540 }),
        fc.integer({ min: 20, max: 70 }),
        fc.integer({ min: 0, max: 10 }),
        (at, off, usual) => {
          const found = momentOfArms(
            sceneOf({
              frames,
              directions: [arm((f) => swings(f) + (usual + (f >= at - 9 && f < at + 9 ? off : 0)) * DEG)],
            }),
          );
          expect(found.value).toBeCloseTo(off, 3);
          expect(Math.abs(found.frame! - at)).toBeLessThanOrEqual(2);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('is not told while its hand is led by what it touches', () => {
    const led = new Uint8Array(frames);
    led.fill(1, 280, 330);
    const directions = [arm((f) => swings(f) + (f >= 290 && f < 320 ? 50 * DEG : 0))];
    expect(momentOfArms(sceneOf({ frames, directions, led: new Map([['left', led]]) })).value).toBeLessThan(0.1);
    expect(momentOfArms(sceneOf({ frames, directions, led: new Map([['right', led]]) })).value).toBeGreaterThan(49);
  });
});

describe('the energy of a motion', () => {
  const frames = 900;
  const quick = (f: number): number => 0.3 * sin(0.7 * f);
  const slow = (f: number): number => 0.5 * sin(0.12 * f);
  const energyOf = (mine: (f: number) => number, part: Part = 'arms'): ReturnType<typeof energyOfUpper> =>
    energyOfUpper(sceneOf({ frames, directions: [swinging('left forearm', part, frames, (f) => quick(f) + slow(f), mine)] }));

  it('is all there in the motion itself, and in none that hardly moves', () => {
    expect(energyOf((f) => quick(f) + slow(f)).value).toBeLessThan(1e-6);
    const still = energyOfUpper(
      sceneOf({
        frames,
        directions: [
          swinging(
            'head',
            'head',
            frames,
            () => 0.2,
            () => 0.2,
          ),
        ],
      }),
    );
    expect(still.value).toBeNaN();
  });

  it('tells a quick part that was smoothed away from a slow one that was exaggerated', () => {
    const smoothed = energyOf((f) => 0.5 * quick(f) + slow(f));
    expect(smoothed.words).toContain('left forearm, quick');
    expect(smoothed.value).toBeGreaterThan(50);
    const exaggerated = energyOf((f) => quick(f) + 1.3 * slow(f));
    expect(exaggerated.words).toContain('left forearm, slow');
    expect(exaggerated.value).toBeGreaterThan(40);
  });

  it('does not count legs among the upper body', () => {
    expect(energyOf(() => 0, 'legs').value).toBeNaN();
  });
});

describe('frames out of their order', () => {
  const frames = 300;
  // Each turns on and on: where one turns about, the step after it is like none, and order cannot be seen.
  const turning = (f: number, i: number): number => 0.03 * (1 + 0.2 * i) * f + 0.2 * sin(0.02 * f + i);
  const upper = (index: (f: number) => number): Direction[] =>
    ['left upper arm', 'right upper arm', 'chest', 'head'].map((name, i) =>
      swinging(
        name,
        'trunk',
        frames,
        (f) => turning(f, i),
        (f) => turning(index(f), i),
      ),
    );

  it('are none in the motion itself, nor in one that is smaller or larger', () => {
    expect(order(sceneOf({ frames, directions: upper((f) => f) })).value).toBe(0);
    const larger = ['chest', 'head', 'neck'].map((name, i) =>
      swinging(
        name,
        'trunk',
        frames,
        (f) => swings(f + 40 * i),
        (f) => 1.3 * swings(f + 40 * i),
      ),
    );
    expect(order(sceneOf({ frames, directions: larger })).value).toBe(0);
  });

  it('are told wherever one is doubled, left out or exchanged', () => {
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 270 }), fc.constantFrom('doubled', 'left out', 'exchanged'), (at, fault) => {
        const index = {
          doubled: (f: number) => (f === at ? at - 1 : f),
          'left out': (f: number) => (f >= at ? f + 1 : f),
          exchanged: (f: number) => (f === at ? at + 1 : f === at + 1 ? at : f),
        }[fault];
        const found = order(sceneOf({ frames, directions: upper(index) }));
        expect(found.value).withContext(fault).toBeGreaterThan(0);
        expect(Math.abs(found.frame! - at)).toBeLessThanOrEqual(2);
      }),
      { numRuns: 60 },
    );
  });
});

describe('a point that leaves its way', () => {
  const frames = 120;
  const walker = placesAlong(frames, (f) => [0.4 * sin(0.05 * f), 0.9 + 0.02 * cos(0.2 * f), 0.02 * f]);

  it('is told with its frame and point, and not where the performer does the same', () => {
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 114 }), fc.double({ min: 0.03, max: 0.3, noNaN: true }), (at, by) => {
        const mine = walker.slice();
        mine[at * 3 + 1] += by;
        const found = jumpOf(mine, walker, 1, 1, new Uint8Array(frames), FRAME);
        expect([found.point, found.frame]).toEqual([0, at]);
        expect(found.away).toBeGreaterThan(by);
        expect(jumpOf(mine, mine, 1, 1, new Uint8Array(frames), FRAME).frame).toBe(-1);
        const left = new Uint8Array(frames);
        left.fill(1, at - 1, at + 2);
        expect(jumpOf(mine, walker, 1, 1, left, FRAME).frame).toBe(-1);
      }),
      { numRuns: 60 },
    );
  });

  it('is the worst of several', () => {
    const mine = new Float64Array(frames * 6);
    const theirs = new Float64Array(frames * 6);
    mine[60 * 6 + 3] = 0.2;
    mine[80 * 6] = 0.1;
    expect(jumpOf(mine, theirs, 2, 1, new Uint8Array(frames), FRAME)).toEqual(jasmine.objectContaining({ point: 1, frame: 60 }));
  });
});

describe('a limb that follows late', () => {
  const frames = 600;
  const pace = (shift: number): Float64Array => Float64Array.from({ length: frames }, (_, f) => Math.abs(swings((f - shift) * 1.7)));

  it('is told by its frames, late and early, and not where it comes in time', () => {
    for (const shift of [-6, -2, 0, 3, 7]) {
      const [{ frames: found }] = lagsOf([{ name: 'the left arm', mine: pace(shift), theirs: pace(0) }], FRAME);
      expect(found).withContext(`${shift}`).toBe(shift);
    }
  });

  it('is none where it moves otherwise and no later', () => {
    const rng = random(5);
    const noise = Float64Array.from({ length: frames }, () => Math.abs(rng.normal()));
    expect(lagsOf([{ name: 'x', mine: noise, theirs: pace(0) }], FRAME)[0].frames).toBe(0);
  });
});

describe('joints that stand still or turn over', () => {
  const roles = ['left.lowerArm', 'head'];
  const turns = (f: (frame: number, role: number) => number): Float32Array =>
    Float32Array.from({ length: 200 * 2 }, (_, i) => f((i / 2) | 0, i % 2));

  it('are told with their role and span', () => {
    const theirs = turns(() => 0.02);
    const mine = turns((f, role) => (role === 1 && f > 80 && f < 150 ? 0 : 0.02));
    const found = frozenOf(roles, mine, theirs, FRAME);
    expect(found.length).toBe(1);
    expect(found[0].role).toBe('head');
    expect(found[0].first).toBeGreaterThanOrEqual(75);
    expect(found[0].last).toBeLessThanOrEqual(155);
    expect(frozenOf(roles, theirs, theirs, FRAME)).toEqual([]);
  });

  it('are counted as flips only beyond what the performer does', () => {
    const mine = turns((f, role) => (f === 50 && role === 0 ? 1.2 : 0.01));
    expect(
      flipsOf(
        roles,
        mine,
        turns(() => 0.01),
      ),
    ).toEqual({ count: 1, role: 'left.lowerArm', frame: 50 });
    expect(flipsOf(roles, mine, mine).count).toBe(0);
  });
});

describe('shaking', () => {
  const frames = 300;
  const series = (seed: number, size: number): Float64Array => {
    const rng = random(seed);
    return Float64Array.from({ length: frames }, () => size * Math.abs(rng.normal()));
  };

  it('is the ratio of the calmest but one in a hundred, whatever the sizes', () => {
    for (const by of [0.5, 1, 2.5]) {
      const theirs = series(3, 1);
      const { ratio } = calmOf([{ name: 'knee', mine: theirs.map((v) => by * v), theirs }], new Uint8Array(frames), 1e-9);
      expect(ratio).toBeCloseTo(by, 9);
    }
  });

  it('does not look below what is seen, nor at known faults, nor at too little', () => {
    const [mine, theirs] = [series(1, 1), series(2, 1)];
    expect(
      calmOf([{ name: 'knee', mine: mine.map((v) => v / 100), theirs: theirs.map((v) => v / 1e4) }], new Uint8Array(frames), 0.1).ratio,
    ).toBe(1);
    const left = new Uint8Array(frames).fill(1, 100, 140);
    const spoilt = theirs.slice();
    spoilt.fill(50, 110, 120);
    expect(calmOf([{ name: 'knee', mine: spoilt, theirs }], left, 1e-9).ratio).toBeCloseTo(1, 9);
    expect(calmOf([{ name: 'knee', mine: spoilt, theirs }], new Uint8Array(frames), 1e-9).frame).toBeGreaterThanOrEqual(109);
    expect(calmOf([{ name: 'knee', mine: mine.slice(0, 30), theirs: theirs.slice(0, 30) }], new Uint8Array(30), 1e-9).ratio).toBeNaN();
    expect(usualOf([{ theirs: spoilt }], left)).toBeLessThan(10);
  });
});
