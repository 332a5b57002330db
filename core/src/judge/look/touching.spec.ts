import * as fc from 'fast-check';
import { random } from '../../math/random';
import { prepareRig, type Rig } from '../../rig';
import { carrying, CRATE, makeFile, randomShape, scaled } from '../../testing';
import { propsOf } from '../../rig';
import { capsulesOf } from './capsules';
import { holdingOf, lyingFrames, middle, type Standing } from './holding';
import { gripOf } from './grip';
import { ledOf } from './led';
import type { Look } from './look';
import { meetingOf, meetingsIn } from './meets';
import { placePoints, sharedPoints, type BodyPoint } from './points';
import { floorUnder } from './under';
import { unlikeness } from './unlike';
import { ClipReader, type Clip } from '../../clip';

const FRAME = 1 / 60;
const point = (name: string, kind: BodyPoint['kind']): BodyPoint => ({ name, kind, joint: 0, local: new Float64Array(3) });
const placesAlong = (frames: number, ...ways: ((f: number) => readonly [number, number, number])[]): Float64Array =>
  Float64Array.from({ length: frames * ways.length * 3 }, (_, i) => ways[((i / 3) | 0) % ways.length]((i / (3 * ways.length)) | 0)[i % 3]);

describe('where a point stands', () => {
  it('is the middle of its places, whatever a few of them are', () => {
    fc.assert(
      fc.property(fc.integer({ min: 12, max: 300 }), fc.integer({ min: 1, max: 9999 }), (count, seed) => {
        const rng = random(seed);
        const places = placesAlong(count, () => [1 + 0.001 * rng.normal(), 0.1, -2]);
        // Less than half of them elsewhere.
        for (let i = 0; i < count / 4; i++) places[rng.integer(0, count - 1) * 3] += 5;
        const [x, y, z] = middle(places, 1, { point: 0, kind: 'feet', first: 0, last: count - 1 });
        expect(Math.abs(x - 1)).toBeLessThan(0.01);
        expect([y, z]).toEqual([0.1, -2]);
      }),
    );
  });
});

describe('rests that are held', () => {
  const points = [point('left ball', 'feet'), point('left palm', 'hands')];
  const frames = 120;
  const still = placesAlong(
    frames,
    () => [0, 0, 0],
    () => [1, 1, 0],
  );
  const rest = (at: number, kind: 'feet' | 'hands', first: number, last: number): Standing => ({
    point: at,
    kind,
    first,
    last,
    mine: middle(still, 2, { point: at, kind, first, last }),
    theirs: middle(still, 2, { point: at, kind, first, last }),
  });
  const rests = [rest(0, 'feet', 10, 69), rest(1, 'hands', 20, 99)];
  const held = (mine: Float64Array, theirs: Float64Array, kind: 'feet' | 'hands') =>
    holdingOf(rests, kind, points, mine, theirs, { stride: 1, lift: 1 }, FRAME, 1);

  it('are held in all of their frames where nothing moves, each kind by itself', () => {
    expect(held(still, still, 'feet')).toEqual(
      jasmine.objectContaining({ rested: 60 * FRAME, held: 60 * FRAME, notHeld: 0, worst: undefined }),
    );
    expect(held(still, still, 'hands').rested).toBeCloseTo(80 * FRAME, 9);
  });

  it('are lost in the frames in which a point is away, and by as much', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 12, max: 40 }),
        fc.integer({ min: 5, max: 20 }),
        fc.double({ min: 0.02, max: 0.5, noNaN: true }),
        (from, count, by) => {
          const mine = still.slice();
          for (let f = from; f < from + count; f++) mine[f * 6 + 2] += by;
          const found = held(mine, still, 'feet');
          expect(found.held).toBeCloseTo((60 - count) * FRAME, 9);
          expect(found.worst!.away).toBeCloseTo(by, 9);
          expect(found.lost.get(rests[0])).toBeCloseTo(count * FRAME, 9);
          // Where the performer creeps as far, nothing is lost.
          expect(held(mine, mine, 'feet').held).toBeCloseTo(60 * FRAME, 9);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('give fingers more play than feet', () => {
    const mine = still.map((v, i) => v + (((i / 6) | 0) === 30 && i % 3 === 0 ? 0.008 : 0));
    expect([held(mine, still, 'feet').held < 60 * FRAME - 1e-6, held(mine, still, 'hands').held]).toEqual([true, 80 * FRAME]);
  });

  it('of a body that lies are those near the floor, and the part that lies longest counts', () => {
    const lying = (at: number, height: number, first: number, last: number): Standing => ({
      ...rest(0, 'feet', first, last),
      kind: 'body',
      point: at,
      theirs: [0, height, 0],
    });
    expect(lyingFrames([lying(0, 0.1, 0, 9), lying(0, 0.1, 20, 39), lying(1, 0.12, 0, 19), lying(2, 0.9, 0, 99)], 0, 0.9)).toBe(30);
    expect(lyingFrames([], 0, 0.9)).toBe(0);
  });
});

describe('the floor under a performer', () => {
  const points = [point('left heel', 'feet'), point('head', 'body')];
  const seen = (height: (f: number) => number): Look =>
    ({
      frames: 200,
      points,
      theirs: placesAlong(
        200,
        (f) => [0, height(f), 0],
        () => [0, -3, 0],
      ),
    }) as unknown as Look;
  const stands = (height: number): Standing => ({ point: 0, kind: 'feet', first: 0, last: 5, mine: [0, 0, 0], theirs: [0, height, 0] });

  it('is where the lowest of its feet rest, and not on a step', () => {
    expect(
      floorUnder(
        seen(() => 0.5),
        [stands(0.02), stands(0.02), stands(0.021), stands(0.4), stands(0.41)],
      ),
    ).toBeCloseTo(0.02, 2);
  });

  it('is the lowest that feet come where none rests; nothing but feet stands on it', () => {
    expect(
      floorUnder(
        seen((f) => 0.1 + 0.002 * f),
        [],
      ),
    ).toBeCloseTo(0.112, 2);
    expect(
      floorUnder(
        seen(() => 0.3),
        [{ ...stands(-1), kind: 'body' }],
      ),
    ).toBeCloseTo(0.3, 9);
  });
});

describe('parts of a body without a mesh', () => {
  it('are as thick as their own bones are long: long legs make no larger head, nor thicker arms', () => {
    const shape = randomShape(8, { clavicles: true, spine: 3 });
    const long = shape.joints.map(({ role, parent, offset: [x, y, z] }) => ({
      role,
      parent,
      offset: (/lowerLeg|foot$/.test(role) ? [x, 1.7 * y, z] : [x, y, z]) as [number, number, number],
    }));
    const [usual, other] = [shape, { ...shape, joints: long }].map((one) => {
      const rig = prepareRig(makeFile(one));
      return capsulesOf(rig, undefined, sharedPoints(rig, rig).performer);
    });
    const ratio = (name: string): number => other.get(name)!.radius / usual.get(name)!.radius;
    for (const name of ['head', 'trunk', 'left forearm', 'right hand']) expect(ratio(name)).withContext(name).toBeCloseTo(1, 6);
    for (const name of ['left thigh', 'right shin']) expect(ratio(name)).withContext(name).toBeCloseTo(1.7, 2);
  });
});

describe('hands that meet', () => {
  const shape = randomShape(3, { clavicles: true, spine: 2, spread: [1, 1] });
  const rig = prepareRig(makeFile(shape));
  const small = prepareRig(makeFile(scaled(shape, 0.6)));
  const points = [point('left palm', 'hands'), point('right palm', 'hands')];
  const frames = 200;
  const gap = (f: number): number => (f >= 80 && f < 140 ? 0.06 : 0.5);
  const apart = (by: (f: number) => number): Float64Array =>
    placesAlong(
      frames,
      (f) => [by(f) / 2, 1, 0],
      (f) => [-by(f) / 2, 1, 0],
    );
  const meetings = (by: (f: number) => number) => meetingsIn(points, apart(by), frames, FRAME, rig.legLength);
  const meeting = (mine: (f: number) => number, character = rig, left = new Uint8Array(frames)) =>
    meetingOf({ performer: rig, character, points, mine: apart(mine), theirs: apart(gap) }, meetings(gap), left);

  it('are seen for as long as the performer’s do, and in their place where they are as near', () => {
    expect(meeting(gap)).toEqual({ frames: 60, away: 0, first: -1 });
    expect(meeting((f) => 0.6 * gap(f), small).away).toBeLessThan(1e-9);
  });

  it('are away by what is missing between them', () => {
    for (const more of [0.05, 0.2]) {
      const found = meeting((f) => gap(f) + more);
      expect(found.away).withContext(`${more}`).toBeCloseTo(more, 6);
      expect(found.first).toBe(80);
    }
  });

  it('are not looked at where the take is at fault', () => {
    const left = new Uint8Array(frames).fill(1, 70, 150);
    expect(meeting((f) => gap(f) + 1, rig, left)).toEqual({ frames: 0, away: 0, first: -1 });
  });

  it('do so where they touch, however briefly, or stay near; not where they only come near', () => {
    const near = 0.13 * rig.legLength;
    const briefly = (least: number) => (f: number) => (f >= 80 && f < 90 ? least : 0.5);
    expect(meetings(briefly(0.04))).toEqual([{ first: 80, last: 89 }]);
    expect(meetings(briefly(near))).toEqual([]);
    const long = Math.ceil(1 / FRAME);
    expect(meetings((f) => (f >= 20 && f < 20 + long ? near : 0.5))).toEqual([{ first: 20, last: 19 + long }]);
  });

  it('lead their arms, and a while before and after, as any rest of a hand does', () => {
    const seen = {
      points,
      frames,
      crossings: { touching: { left: [10], right: [] } },
    } as unknown as Look;
    const led = ledOf(seen, [], meetings(gap), new Uint8Array(frames), FRAME);
    const reach = 30;
    for (const side of ['left', 'right']) {
      expect([led.get(side)![80 - reach], led.get(side)![110], led.get(side)![139 + reach], led.get(side)![80 - reach - 1]]).toEqual([
        1,
        1,
        1,
        side === 'left' ? 0 : 0,
      ]);
    }
    // The left hand alone touches something at the beginning.
    expect([led.get('left')![0], led.get('right')![0]]).toEqual([1, 0]);
    const rest: Standing = { point: 1, kind: 'hands', first: 190, last: 195, mine: [0, 0, 0], theirs: [0, 0, 0] };
    const more = ledOf(seen, [rest], [], new Uint8Array(frames), FRAME);
    expect([more.get('left')![192], more.get('right')![192]]).toEqual([0, 1]);
  });
});

describe('hands on what they carry', () => {
  const shape = randomShape(8, { clavicles: true, spine: 2, spread: [1, 1] });
  const { rig, clip } = carrying(shape, 8);
  const [{ joint }] = propsOf(rig);
  const points = sharedPoints(rig, rig).performer;
  const placesOf = (one: Rig, motion: Clip): Float64Array => {
    const reader = new ClipReader(one.skeleton, motion);
    const out = new Float64Array(motion.frames * points.length * 3);
    for (let f = 0; f < motion.frames; f++) {
      const { positions, rotations } = reader.at(f);
      placePoints(out, f * points.length * 3, points, positions, rotations);
    }
    return out;
  };
  const theirs = placesOf(rig, clip);
  const given = { performer: rig, character: rig, take: clip, result: clip, props: [{ name: 'crate', mine: joint, theirs: joint }] };
  const grip = (mine: Float64Array) => gripOf(given as unknown as Parameters<typeof gripOf>[0], points, mine, theirs)!;

  it('are seen while it moves with them, for about as long as it is carried', () => {
    const { seconds, away } = grip(theirs);
    const [from, to] = CRATE.held;
    expect(seconds / 2).toBeGreaterThan((0.6 * (to - from)) / 60);
    expect(seconds / 2).toBeLessThan((1.4 * (to - from)) / 60);
    expect(away).toBeLessThan(1e-6);
  });

  it('are away by what a palm slips on it', () => {
    const palm = points.findIndex(({ name }) => name === 'left palm');
    const mine = theirs.slice();
    const [from, to] = CRATE.held;
    for (let f = from; f < to; f++) mine[(f * points.length + palm) * 3 + 1] += (0.12 * (f - from)) / (to - from);
    const found = grip(mine);
    expect(found.away).toBeGreaterThan(0.03);
    expect(found.what).toContain('left palm on the crate');
  });

  it('are none without a thing that both have', () => {
    expect(gripOf({ ...given, props: [] } as unknown as Parameters<typeof gripOf>[0], points, theirs, theirs)).toBeUndefined();
  });
});

describe('legs of unlike kinds', () => {
  const plain = prepareRig(makeFile(randomShape(4)));

  it('are compared joint by joint between like bodies', () => {
    const { isShared, isCompared } = unlikeness(plain, plain);
    const knee: Standing = { point: 0, kind: 'body', first: 0, last: 9, mine: [0, 0, 0], theirs: [0, 0.5, 0] };
    expect([isShared(knee, 'left knee', 0), isCompared('left.lowerLeg')]).toEqual([true, true]);
  });
});

describe('points that are watched', () => {
  it('are on both bodies the same, in the same order, and go with their joints', () => {
    const performer = prepareRig(makeFile(randomShape(5, { fingers: 3, clavicles: true }), {}, undefined));
    const character = prepareRig(makeFile(randomShape(6, { fingers: 0, spine: 4 }), { axes: 3 }));
    const shared = sharedPoints(performer, character);
    expect(shared.performer.map(({ name }) => name)).toEqual(shared.character.map(({ name }) => name));
    expect(shared.character.map(({ name }) => name)).toContain('right toe tip');
    const out = new Float64Array(shared.character.length * 3);
    placePoints(out, 0, shared.character, character.restPose.positions, character.restPose.rotations);
    const heightOf = (name: string): number => out[shared.character.findIndex((one) => one.name === name) * 3 + 1];
    // At rest soles lie on one plane, hands and head above the hips, the seat below them.
    for (const name of ['left ball', 'right heel', 'right ball']) expect(heightOf(name)).toBeCloseTo(heightOf('left heel'), 6);
    expect(heightOf('head')).toBeGreaterThan(heightOf('left palm'));
    expect(heightOf('seat')).toBeLessThan(heightOf('back'));
    expect(heightOf('seat')).toBeGreaterThan(heightOf('left knee'));
  });
});
