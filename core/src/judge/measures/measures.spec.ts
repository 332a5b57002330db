import * as fc from 'fast-check';
import { random } from '../../math/random';
import { cos, DEG, sin } from '../../math/trig';
import type { Direction, Part } from '../look/directions';
import type { Standing } from '../look/holding';
import type { BodyPoint } from '../look/points';
import type { Scene } from '../scene';
import { calmOf, usualOf } from './calm';
import { crossing } from './crossing';
import { energyOfUpper } from './energy';
import { flight, flightsOf } from './flight';
import { jumpOf } from './jumps';
import { lagsOf } from './lag';
import { leftOut } from './leftOut';
import { momentOfArms } from './moments';
import { order } from './order';
import { likenessOfFeet, likenessOfHands } from './parts';
import { placesOfFeet, placesOfHands } from './places';
import { flipsOf, frozenOf } from './still';
import { worstStretch } from './stretch';
import { timingOfFeet, timingOfHands } from './timing';

/** What one measure looks at, made by hand: places and directions that no solver has seen. */
interface Made {
  readonly frames?: number;
  readonly frameTime?: number;
  readonly directions?: readonly Direction[];
  readonly points?: readonly (readonly [name: string, kind: BodyPoint['kind']])[];
  readonly mine?: Float64Array;
  readonly theirs?: Float64Array;
  readonly hips?: { readonly mine: Float64Array; readonly theirs: Float64Array };
  readonly rests?: readonly Partial<Standing>[];
  readonly left?: Uint8Array;
  readonly led?: ReadonlyMap<string, Uint8Array>;
  readonly heading?: Float64Array;
  readonly seen?: Partial<Scene['seen']>;
  readonly inPlace?: boolean;
  readonly meeting?: number;
}

const FRAME = 1 / 60;
const LEG = 0.9;

function sceneOf(made: Made): Scene {
  const { frames = 240, frameTime = FRAME, left = new Uint8Array(made.frames ?? 240), rests = [], points = [] } = made;
  const empty = new Float64Array(frames * 3);
  return {
    given: {
      performer: { legLength: LEG },
      character: { legLength: LEG },
      take: { frames, frameTime },
      result: { frames, frameTime },
      scale: { stride: 1, lift: 1 },
      inPlace: made.inPlace ?? false,
      heading: made.heading,
    },
    seen: {
      frames,
      points: points.map(([name, kind]) => ({ name, kind })),
      mine: made.mine ?? empty,
      theirs: made.theirs ?? empty,
      directions: made.directions ?? [],
      hips: made.hips ?? { mine: empty, theirs: empty },
      crossings: { found: [], frames: [], touching: { left: [], right: [] } },
      copied: [],
      ...made.seen,
    },
    left,
    leftFrames: left.reduce((sum, v) => sum + v, 0),
    led: made.led ?? new Map<string, Uint8Array>(),
    rests,
    floor: 0,
    meeting: { frames: made.meeting ?? 0 },
    grip: undefined,
    at: (frame: number) => `frame ${frame}`,
  } as unknown as Scene;
}

/** A direction that swings in a plane; the character's by another angle. */
function swinging(name: string, part: Part, frames: number, theirs: (f: number) => number, mine: (f: number) => number): Direction {
  const along = (angle: (f: number) => number): Float32Array =>
    Float32Array.from({ length: frames * 3 }, (_, i) => [sin(angle((i / 3) | 0)), cos(angle((i / 3) | 0)), 0][i % 3]);
  return { name, part, mine: along(mine), theirs: along(theirs) };
}

/** Two sums of swings of a few hertz, smooth and without a period. */
const swings = (f: number): number => 0.6 * sin(0.11 * f) + 0.25 * sin(0.047 * f + 1);

const placesAlong = (frames: number, place: (f: number) => readonly [number, number, number]): Float64Array =>
  Float64Array.from({ length: frames * 3 }, (_, i) => place((i / 3) | 0)[i % 3]);

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

describe('a flight', () => {
  const frames = 120;
  /** A hop from frame 40, of so many frames and so high a fall. */
  const hop = (length: number, gravity: number): ((f: number) => number) => {
    const half = (length * FRAME) / 2;
    return (f) => {
      const t = (f - 40) * FRAME - half;
      return Math.abs(t) > half ? 0 : (gravity / 2) * (half * half - t * t);
    };
  };
  const made = (theirs: (f: number) => number, mine = theirs): Scene =>
    sceneOf({
      frames,
      points: [
        ['left ball', 'feet'],
        ['right ball', 'feet'],
      ],
      theirs: Float64Array.from({ length: frames * 6 }, (_, i) => (i % 3 === 1 ? theirs((i / 6) | 0) : 0)),
      hips: {
        theirs: placesAlong(frames, (f) => [0, 0.9 + theirs(f), 0]),
        mine: placesAlong(frames, (f) => [0, 0.9 + mine(f), 0]),
      },
    });

  it('is found where the body falls freely, and not where it is lowered or stands', () => {
    const [span, ...others] = flightsOf(made(hop(36, 9.81)));
    expect(others).toEqual([]);
    expect(span.first).toBeGreaterThan(40);
    expect(span.last).toBeLessThan(76);
    expect(flightsOf(made(hop(60, 2)))).toEqual([]);
    expect(flightsOf(made(() => 0))).toEqual([]);
  });

  it('is off by the share that the hips rise less or more', () => {
    const theirs = hop(36, 9.81);
    expect(flight(made(theirs)).value).toBeCloseTo(0, 9);
    for (const by of [0.5, 0.8, 1.4]) {
      expect(flight(made(theirs, (f) => by * theirs(f))).value)
        .withContext(`${by}`)
        .toBeCloseTo(100 * Math.abs(by - 1), 6);
    }
    expect(flight(made(() => 0)).value).toBeNaN();
  });

  it('is followed by landings that come in time, or late by so many frames', () => {
    const theirs = hop(36, 9.81);
    const landing = (late: number): Scene => {
      const places = (shift: number): Float64Array =>
        Float64Array.from({ length: frames * 3 }, (_, i) => (i % 3 === 1 ? theirs(((i / 3) | 0) - shift) : 0));
      return sceneOf({
        frames,
        points: [['left ball', 'feet']],
        theirs: places(0),
        mine: places(late),
        hips: { theirs: placesAlong(frames, (f) => [0, theirs(f), 0]), mine: placesAlong(frames, (f) => [0, theirs(f), 0]) },
        rests: [{ point: 0, kind: 'feet', first: 77, last: 100 }],
      });
    };
    for (const late of [0, 1, 3])
      expect(timingOfFeet(landing(late)).value)
        .withContext(`${late}`)
        .toBeCloseTo(late, 9);
  });
});

describe('hands that come to a rest', () => {
  const frames = 200;
  /** Goes half a metre in half a second, and rests. */
  const reach = (f: number): number => {
    const t = Math.max(0, Math.min(1, (f - 60) / 30));
    return 0.5 * t * t * (3 - 2 * t);
  };
  const made = (late: number, factor = 1): Scene =>
    sceneOf({
      frames,
      points: [['left palm', 'hands']],
      theirs: placesAlong(frames, (f) => [reach(f), 1, 0]),
      mine: placesAlong(frames, (f) => [factor * reach(f - late), 1, 0]),
      rests: [{ point: 0, kind: 'hands', first: 90, last: 150 }],
    });

  it('are told by their milliseconds, on bodies of any size', () => {
    for (const [late, factor] of [
      [0, 1],
      [0, 0.6],
      [6, 1],
      [-4, 1.3],
    ]) {
      const found = timingOfHands(made(late, factor));
      expect(found.value)
        .withContext(`${late}, ${factor}`)
        .toBeCloseTo(Math.abs(late) * FRAME * 1000, 6);
      if (late !== 0) expect(found.words).toContain(late > 0 ? 'late' : 'early');
    }
    expect(timingOfHands(sceneOf({})).value).toBeNaN();
  });
});

describe('places of rests', () => {
  const frames = 100;
  const end = (name: string, kind: 'feet' | 'hands', off: readonly [number, number, number]): Scene['seen']['copied'][number] => ({
    name,
    kind,
    mine: Float32Array.from({ length: frames * 3 }, (_, i) => off[i % 3]),
    copied: new Float32Array(frames * 3),
    length: 0.8,
  });
  const rests = [
    { point: 0, kind: 'feet', first: 10, last: 60 },
    { point: 1, kind: 'hands', first: 20, last: 80 },
  ] as const;
  const points = [
    ['left ball', 'feet'],
    ['right palm', 'hands'],
  ] as const;

  it('are off by what a limb rests elsewhere than where its directions put it; feet over the floor alone', () => {
    const copied = [end('left foot', 'feet', [0.06, 0.5, 0.08]), end('right hand', 'hands', [0, 0.2, 0])];
    const scene = sceneOf({ frames, points, rests, seen: { copied } });
    expect(placesOfFeet(scene).value).toBeCloseTo((100 * 0.1) / 0.8, 4);
    expect(placesOfHands(scene).value).toBeCloseTo((100 * 0.2) / 0.8, 4);
    expect([placesOfFeet(scene).frame, placesOfHands(scene).frame]).toEqual([10, 20]);
  });

  it('are not looked at in place, nor for hands that are led', () => {
    const copied = [end('left foot', 'feet', [0.1, 0, 0]), end('right hand', 'hands', [0.1, 0, 0])];
    expect(placesOfFeet(sceneOf({ frames, points, rests, seen: { copied }, inPlace: true })).value).toBeNaN();
    expect(placesOfHands(sceneOf({ frames, points, rests, seen: { copied }, meeting: 12 })).value).toBeNaN();
  });
});

describe('likeness of single parts', () => {
  const frames = 400;

  it('of hands is the angle that is kept for all but a twentieth of the time', () => {
    const hand = (mine: (f: number) => number): Scene =>
      sceneOf({ frames, directions: [swinging('left hand', 'hands', frames, swings, mine)] });
    expect(likenessOfHands(hand((f) => swings(f) + 20 * DEG)).value).toBeCloseTo(20, 3);
    expect(likenessOfHands(hand((f) => swings(f) + (f < 12 ? 60 * DEG : 0))).value).toBeLessThan(0.1);
    expect(likenessOfHands(hand((f) => swings(f) + (f < 60 ? 60 * DEG : 0))).value).toBeCloseTo(60, 2);
    expect(likenessOfHands(sceneOf({ frames })).value).toBeNaN();
  });

  it('of feet is the angle over the floor, also where the body is sent another way', () => {
    const points = [
      ['left heel', 'feet'],
      ['left ball', 'feet'],
    ] as const;
    const standing = (angle: number): Float64Array =>
      Float64Array.from({ length: frames * 6 }, (_, i) => (i % 6 < 3 ? 0 : [0.2 * sin(angle), -0.05, 0.2 * cos(angle)][i % 3]));
    const rests = [{ point: 1, kind: 'feet', first: 100, last: 160 }] as const;
    for (const degrees of [0, 15, 40]) {
      const scene = sceneOf({ frames, points, rests, theirs: standing(0.3), mine: standing(0.3 + degrees * DEG) });
      expect(likenessOfFeet(scene).value).toBeCloseTo(degrees, 4);
    }
    const heading = new Float64Array(frames).fill(25 * DEG);
    const steered = sceneOf({ frames, points, rests, heading, theirs: standing(0.3), mine: standing(0.3 + 25 * DEG) });
    expect(likenessOfFeet(steered).value).toBeLessThan(1e-4);
  });
});

describe('limbs in limbs', () => {
  const made = (depths: readonly number[]): Scene =>
    sceneOf({
      seen: {
        crossings: {
          found: [{ name: 'left forearm and trunk', depths: Float32Array.from(depths) }],
          frames: depths.map((_, i) => i * 2),
          touching: { left: [], right: [] },
        } as unknown as Scene['seen']['crossings'],
      },
    });

  it('are seen once they last for three looks, as deep as they are through all of them', () => {
    expect(crossing(made([0, 0.3, 0.5, 0, 0])).value).toBe(0);
    const found = crossing(made([0, 0.3, 0.5, 0.4, 0]));
    expect(found.value).toBeCloseTo(30, 4);
    expect(found.frame).toBe(4);
    expect(crossing(made([0.5])).value).toBeNaN();
  });
});

describe('frames left out', () => {
  it('are a share that is told with the first of them', () => {
    const left = new Uint8Array(200).fill(1, 50, 70);
    expect(leftOut(sceneOf({ frames: 200, left }))).toEqual(jasmine.objectContaining({ value: 10, frame: 50 }));
    expect(leftOut(sceneOf({ frames: 200 }))).toEqual(jasmine.objectContaining({ value: 0, frame: undefined }));
  });
});
