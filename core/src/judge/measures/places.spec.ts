import { cos, DEG, sin } from '../../math/trig';
import type { Scene } from '../scene';
import { FRAME, placesAlong, sceneOf, swinging, swings } from './madeScenes';
import { crossing } from './crossing';
import { flight, flightsOf } from './flight';
import { leftOut } from './leftOut';
import { likenessOfFeet, likenessOfHands } from './parts';
import { placesOfFeet, placesOfHands } from './places';
import { timingOfFeet, timingOfHands } from './timing';

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
    theirs: new Float32Array(frames * 3),
    bones: { mine: [], theirs: [] },
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
    const at = (high: number): Scene => sceneOf({ frames, points, rests, seen: { copied }, overFloor: () => high });
    const scene = at(0.9);
    expect(placesOfFeet(scene).value).toBeCloseTo((100 * 0.1) / 0.8, 4);
    expect(placesOfHands(scene).value).toBeCloseTo((100 * 0.2) / 0.8, 4);
    // A hand on the floor is as high as the floor.
    expect(placesOfHands(at(0.02)).value).toBe(0);
    expect([placesOfFeet(scene).frame, placesOfHands(scene).frame]).toEqual([10, 20]);
  });

  it('are those of whole stances: a tip that comes down while the ball stands tells of no other place', () => {
    // Directions lead elsewhere while the knees bend; the foot stands where it stood.
    const copied = [
      { ...end('left foot', 'feet', [0, 0, 0]), copied: Float32Array.from(placesAlong(frames, (f) => [f > 49 ? 0.12 : 0, 0, 0])) },
    ];
    const tips = [...points, ['left toe tip', 'feet']] as const;
    const over = (...spans: (readonly [number, number])[]): number =>
      placesOfFeet(
        sceneOf({
          frames,
          points: tips,
          rests: spans.map(([first, last], i) => ({ point: 2 * i, kind: 'feet', first, last })),
          seen: { copied },
        }),
      ).value;
    const whole = over([10, 60]);
    expect(over([10, 60], [50, 58])).toBe(whole);
    expect(over([10, 60], [10, 60])).toBe(whole);
    // One that goes on alone is a place of its own.
    expect(over([10, 60], [50, 70])).toBeCloseTo((100 * 0.12) / 0.8, 4);
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
