import * as fc from 'fast-check';
import { ClipReader, type Clip } from '../clip';
import { FaultError } from '../errors';
import { angleBetween, fromAxisAngle, mul } from '../math/quat';
import { random } from '../math/random';
import { DEG } from '../math/trig';
import { DEFAULT_TAKE, type TakeChoices } from '../recipe';
import { performerOf, randomShape, walk } from '../testing';
import { findSamplingFaults, lowPassSection, ownTimeOf, partsOfJoints, prepareTake, repair, smooth, zeroPhase } from '.';

const shape = randomShape(31, { clavicles: true, spine: 3, fingers: 2 });
const { file, rig: body, clip: clean } = performerOf(shape, walk(shape, { seed: 5, frames: 240, fps: 120 }));
const joints = body.skeleton.names.length;
const at = (f: number, j: number): number => (f * joints + j) * 4;
const elbow = body.roles.get('left.lowerArm')!;
const seeds = fc.integer({ min: 1, max: 1e6 });

const copy = (clip: Clip): Clip => ({
  ...clip,
  rotations: clip.rotations.slice(),
  moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })),
});

/** Turns one joint of one frame by so many degrees about its own x. */
function turn(clip: Clip, f: number, j: number, degrees: number): void {
  const q = new Float64Array(4);
  fromAxisAngle(q, 0, 1, 0, 0, degrees * DEG);
  const own = Float64Array.from(clip.rotations.subarray(at(f, j), at(f, j) + 4));
  mul(own, 0, own, 0, q, 0);
  clip.rotations.set(own, at(f, j));
}

/** Holds everything, or one joint, at frame `from` − 1 for some frames. */
function hold(clip: Clip, from: number, count: number, joint?: number): void {
  for (let f = from; f < from + count; f++) {
    for (let j = joint ?? 0; j < (joint === undefined ? joints : joint + 1); j++)
      clip.rotations.copyWithin(at(f, j), at(from - 1, j), at(from - 1, j) + 4);
    if (joint === undefined) for (const { values } of clip.moves) values.copyWithin(f * 3, (from - 1) * 3, from * 3);
  }
}

const faultsOf = (clip: Clip) => findSamplingFaults(body.skeleton, clip, body.roles, body.legLength);

describe('sampling faults', () => {
  it('are none in a clean take', () => expect(faultsOf(clean)).toEqual([]));

  it('are found where they were planted, each by its kind, and nowhere else', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 20, max: 200 }), fc.integer({ min: 3, max: 9 }), (seed, frame, count) => {
        const rng = random(seed);
        const whole = copy(clean);
        hold(whole, frame, count);
        expect(faultsOf(whole).map(({ kind, from, to, joint }) => [kind, from, to, joint])).toEqual([
          ['gap', frame, frame + count - 1, undefined],
        ]);
        const repeat = copy(clean);
        hold(repeat, frame, 1);
        expect(faultsOf(repeat).map(({ kind, from, to }) => [kind, from, to])).toEqual([['repeat', frame, frame]]);
        const spike = copy(clean);
        turn(spike, frame, elbow, rng.range(25, 80));
        expect(faultsOf(spike).map(({ kind, from, joint }) => [kind, from, joint])).toEqual([['spike', frame, elbow]]);
        const jump = copy(clean);
        for (let f = frame; f < clean.frames; f++) turn(jump, f, elbow, rng.range(40, 41));
        expect(faultsOf(jump).some(({ kind, from, joint }) => kind === 'jump' && from === frame && joint === elbow)).toBeTrue();
      }),
      { numRuns: 15, seed: 6 },
    );
  });

  it('name the joint that is held while the body moves', () => {
    const clip = copy(clean);
    // A joint that is moving fast where it is held.
    const moving = [...Array(joints).keys()].reduce((best, j) => {
      const speed = (k: number): number => angleBetween(clip.rotations, at(60, k), clip.rotations, at(61, k));
      return speed(j) > speed(best) ? j : best;
    }, 0);
    hold(clip, 61, 6, moving);
    expect(faultsOf(clip).map(({ kind, from, to, joint }) => [kind, from, to, joint])).toEqual([['gap', 61, 66, moving]]);
  });

  it('say how many leading frames are a rest pose', () => {
    const clip = copy(clean);
    for (let f = 0; f < 12; f++) {
      clip.rotations.set(body.skeleton.restR, at(f, 0));
      clip.moves[0].values.set(body.skeleton.restT.subarray(0, 3), f * 3);
    }
    const [rest] = faultsOf(clip);
    expect([rest.kind, rest.from, rest.to]).toEqual(['rest', 0, 11]);
    expect(rest.message).toContain('first 12 frames');
  });

  it('find a heading that drifts under standing feet, and its way', () => {
    for (const rate of [-1.5, 1.5]) {
      const clip = copy(clean);
      const q = new Float64Array(4);
      for (let f = 0; f < clip.frames; f++) {
        fromAxisAngle(q, 0, 0, 1, 0, rate * f * clip.frameTime * DEG);
        const own = Float64Array.from(clip.rotations.subarray(at(f, 0), at(f, 0) + 4));
        mul(own, 0, q, 0, own, 0);
        clip.rotations.set(own, at(f, 0));
      }
      const drift = faultsOf(clip).find(({ kind }) => kind === 'drift');
      expect(Number(/about (-?[\d.]+)°/.exec(drift?.message ?? '')?.[1])).toBeCloseTo(rate, 0);
    }
  });
});

describe('cleaning a take', () => {
  it('eases a jump over the frames about it, touches none farther away, and leaves no fault', () => {
    fc.assert(
      fc.property(fc.integer({ min: 40, max: 160 }), fc.integer({ min: 40, max: 120 }), (frame, degrees) => {
        const broken = copy(clean);
        for (let f = frame; f < clean.frames; f++) turn(broken, f, elbow, degrees);
        const root = broken.moves[0].values;
        for (let f = frame; f < clean.frames; f++) root[f * 3] += 0.8;
        const before = faultsOf(broken);
        expect(before.map(({ kind }) => kind)).toContain('jump');
        const eased = repair(body.skeleton, broken, before);
        expect(faultsOf(eased)).toEqual([]);
        const reach = Math.round(0.25 / clean.frameTime);
        for (let f = 0; f < clean.frames; f++) {
          if (f >= frame - reach && f < frame + reach) continue;
          expect(angleBetween(eased.rotations, at(f, elbow), broken.rotations, at(f, elbow))).toBeLessThan(3e-3);
          expect(eased.moves[0].values[f * 3]).toBe(root[f * 3]);
        }
        for (let f = frame - reach; f < frame + reach; f++) {
          const step = angleBetween(eased.rotations, at(f, elbow), eased.rotations, at(f - 1, elbow));
          const own = angleBetween(clean.rotations, at(f, elbow), clean.rotations, at(f - 1, elbow));
          expect((step - own) / DEG).toBeLessThan((0.9 * degrees) / reach);
          expect(Math.abs(eased.moves[0].values[f * 3] - eased.moves[0].values[f * 3 - 3])).toBeLessThan(0.8 / reach + 0.06);
        }
      }),
      { numRuns: 12, seed: 20 },
    );
  });

  it('fills gaps and removes spikes to near the clean take, touching no other frame', () => {
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 200 }), fc.integer({ min: 1, max: 6 }), (frame, count) => {
        const broken = copy(clean);
        hold(broken, frame, count);
        const filled = repair(body.skeleton, broken, faultsOf(broken));
        const spiked = copy(clean);
        turn(spiked, frame, elbow, 50);
        const mended = repair(body.skeleton, spiked, faultsOf(spiked));
        for (const [result, source, from, to, limit] of [
          [filled, broken, frame, frame + count - 1, 1.5],
          [mended, spiked, frame, frame, 0.5],
        ] as const) {
          for (let f = 0; f < clean.frames; f++) {
            for (let j = 0; j < joints; j++) {
              const inside = f >= from && f <= to;
              const reference = inside ? clean : source;
              expect(angleBetween(result.rotations, at(f, j), reference.rotations, at(f, j)) / DEG)
                .withContext(`frame ${f}, joint ${j}`)
                .toBeLessThan(inside ? limit : 0.05);
            }
          }
        }
      }),
      { numRuns: 8, seed: 3 },
    );
  });

  it('passes what lies well below the cut-off and stops what lies well above, with no shift in time', () => {
    const rate = 120;
    for (const [hz, least, most] of [
      [1, 0.98, 1.001],
      [8, 0.68, 0.73],
      [40, 0, 0.01],
    ]) {
      const wave = Float64Array.from({ length: 600 }, (_, f) => Math.sin((2 * Math.PI * hz * f) / rate));
      const filtered = wave.slice();
      zeroPhase(filtered, lowPassSection(8, rate)!, 60, new Float64Array(720));
      let inPhase = 0;
      let square = 0;
      let energy = 0;
      for (let f = 100; f < 500; f++) {
        inPhase += wave[f] * filtered[f];
        energy += wave[f] * wave[f];
        square += filtered[f] * filtered[f];
      }
      const gain = inPhase / energy;
      expect(gain).withContext(`${hz} Hz`).toBeGreaterThanOrEqual(least);
      expect(gain).withContext(`${hz} Hz`).toBeLessThanOrEqual(most);
      // All of what is left is in phase.
      if (gain > 0.1) expect(inPhase * inPhase).toBeGreaterThan(0.999 * square * energy);
    }
    expect(lowPassSection(60, 120)).toBeUndefined();
  });

  it('smooths the parts it is told to and no others, and keeps a straight line straight to its ends', () => {
    const noisy = copy(clean);
    const rng = random(9);
    for (let f = 0; f < noisy.frames; f++) for (let j = 0; j < joints; j++) turn(noisy, f, j, rng.normal());
    const cutoff = { ...DEFAULT_TAKE.clean.cutoff, arms: 6 };
    const result = smooth(body.skeleton, noisy, body.roles, cutoff);
    const parts = partsOfJoints(body.skeleton, body.roles);
    const error = (clip: Clip, j: number): number => {
      let sum = 0;
      for (let f = 0; f < clip.frames; f++) sum += angleBetween(clip.rotations, at(f, j), clean.rotations, at(f, j));
      return sum;
    };
    for (let j = 0; j < joints; j++) {
      const ratio = error(result, j) / error(noisy, j);
      if (parts[j] === 'arms') expect(ratio).toBeLessThan(0.5);
      else expect(ratio).toBeCloseTo(1, 5);
    }
    const line = Float64Array.from({ length: 50 }, (_, f) => f * 0.1);
    zeroPhase(line, lowPassSection(5, 60)!, 36, new Float64Array(130));
    line.forEach((v, f) => expect(v).toBeCloseTo(f * 0.1, 1));
  });
});

describe('smoothed legs', () => {
  it('hold their feet stiller than captured ones, as the hips that they make up for are smoothed alike', () => {
    for (const seed of [1, 2, 3]) {
      const shape = randomShape(seed, { clavicles: true });
      const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 300, fps: 120, pace: 0, noise: 0.002, crouch: 0.05 }));
      /** Way of both feet of a body that stands, metres. */
      const wayOf = (motion: Clip): number => {
        const reader = new ClipReader(rig.skeleton, motion);
        const feet = rig.feet.map(({ foot }) => foot * 3);
        let before: readonly number[] = [];
        let way = 0;
        for (let f = 0; f < motion.frames; f++) {
          const { positions } = reader.at(f);
          const now = feet.flatMap((o) => [...positions.subarray(o, o + 3)]);
          if (f > 0) for (const o of [0, 3]) way += Math.hypot(...[0, 1, 2].map((c) => now[o + c] - before[o + c]));
          before = now;
        }
        return way;
      };
      const smoothed = smooth(rig.skeleton, clip, rig.roles, { ...DEFAULT_TAKE.clean.cutoff, legs: 6 });
      expect(wayOf(smoothed))
        .withContext(`seed ${seed}: ${wayOf(clip)}`)
        .toBeLessThan(0.6 * wayOf(clip));
    }
  });
});

describe('a prepared take', () => {
  const prepare = (choices: Partial<TakeChoices>): Clip => prepareTake(file, body, 0, { ...DEFAULT_TAKE, ...choices });

  it('is the whole take by default', () => {
    const clip = prepare({});
    expect([clip.frames, clip.frameTime]).toEqual([clean.frames, clean.frameTime]);
    expect(clip.rotations).toEqual(clean.rotations);
  });

  it('is trimmed by its handles, both frames included, and refuses handles outside', () => {
    const clip = prepare({ from: 10 / 120, to: 29 / 120 });
    expect(clip.frames).toBe(20);
    expect(clip.rotations.slice(0, joints * 4)).toEqual(clean.rotations.slice(at(10, 0), at(11, 0)));
    expect(prepare({ to: 99 }).frames).toBe(clean.frames);
    expect(() => prepare({ from: 99 })).toThrowMatching((e) => e instanceof FaultError && e.fault.code === 'take/range');
  });

  it('is laid on the floor as a whole: raised, turned and shifted, the body itself unchanged', () => {
    const clip = prepare({ floor: { height: 0.02, heading: 90, place: [1, -2] } });
    const [a, b] = [new ClipReader(body.skeleton, clean), new ClipReader(body.skeleton, clip)];
    for (const f of [0, 120, 239]) {
      const p = a.at(f).positions;
      const q = b.at(f).positions;
      for (let j = 0; j < joints; j++) {
        expect(q[j * 3]).toBeCloseTo(p[j * 3 + 2] + 1, 5);
        expect(q[j * 3 + 1]).toBeCloseTo(p[j * 3 + 1] + 0.02, 5);
        expect(q[j * 3 + 2]).toBeCloseTo(-p[j * 3] - 2, 5);
      }
    }
  });

  it('begins and ends at the same moments of the recording at any rate', () => {
    const handles = { from: 0.5, to: 1.5 };
    for (const change of [{}, { fps: 30 }, { rate: 60 }]) {
      const clip = prepare({ ...handles, ...change });
      const joint = elbow * 4;
      const [first, last] = [0, clip.frames - 1].map((f) => f * joints * 4 + joint);
      expect(angleBetween(clip.rotations, first, clean.rotations, at(60, elbow)) / DEG)
        .withContext(JSON.stringify(change))
        .toBeLessThan(0.05);
      expect(angleBetween(clip.rotations, last, clean.rotations, at(180, elbow)) / DEG)
        .withContext(JSON.stringify(change))
        .toBeLessThan(0.05);
      const { start, pace } = ownTimeOf(file, 0, { ...DEFAULT_TAKE, ...handles, ...change });
      // One second of the recording lies one second, or what the overruled rate makes of it, into the clip.
      expect(((1 - start) * pace) / clip.frameTime)
        .withContext(JSON.stringify(change))
        .toBeCloseTo((clip.frames - 1) / 2, 6);
    }
  });

  it('plays backwards from its out to its in, at any rate, and the file’s seconds still name its moments', () => {
    const handles = { from: 0.5, to: 1.5 };
    for (const change of [{}, { fps: 30 }, { rate: 60 }]) {
      const [ahead, back] = [false, true].map((reversed) => prepare({ ...handles, ...change, reversed }));
      expect(back.frames).toBe(ahead.frames);
      const own = ownTimeOf(file, 0, { ...DEFAULT_TAKE, ...handles, ...change, reversed: true });
      for (const f of [0, Math.floor(back.frames / 3), back.frames - 1]) {
        const seconds = own.start + (f * back.frameTime) / own.pace;
        const there = Math.round(seconds * 120);
        expect(angleBetween(back.rotations, f * joints * 4 + elbow * 4, clean.rotations, at(there, elbow)) / DEG)
          .withContext(`${JSON.stringify(change)}, frame ${f}`)
          .toBeLessThan(1.5);
        expect(
          angleBetween(back.rotations, f * joints * 4 + elbow * 4, ahead.rotations, (back.frames - 1 - f) * joints * 4 + elbow * 4),
        ).toBeLessThan(1e-3);
      }
    }
  });

  it('is played at another rate, or taken to have been recorded at one', () => {
    expect(prepare({ fps: 60 }).frames).toBe(120);
    const slow = prepare({ rate: 60 });
    expect([slow.frames, slow.frameTime]).toEqual([240, 1 / 60]);
  });
});
