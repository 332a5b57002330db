import * as fc from 'fast-check';
import { ClipReader, duration, resampledFrames, trim, type Clip } from '../clip';
import { angleBetween, fromAxisAngle, mul, normalize } from '../math/quat';
import { random } from '../math/random';
import { DEFAULT_TAKE, type TakeChoices } from '../recipe';
import { performerOf, randomShape, walk } from '../testing';
import { repair } from './clean';
import type { SamplingFault } from './fault';
import { findSamplingFaults } from './faults';
import { lengthOf, prepareTake, rangeOf } from './prepare';

/** Faults of a capture planted at random places of random walkers: they are found there, and repaired without a trace elsewhere. */
describe('a fault of the samples', () => {
  const FRAMES = 300;
  const performer = (seed: number) => {
    const shape = randomShape(seed, { clavicles: true, spine: 2 });
    return performerOf(shape, walk(shape, { seed, frames: FRAMES, fps: 120 }));
  };
  const moving = ['left.upperArm', 'right.upperArm', 'left.lowerArm', 'right.lowerArm'];
  const copyOf = (clip: Clip): Clip => ({
    ...clip,
    rotations: clip.rotations.slice(),
    moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })),
  });
  const turn = (clip: Clip, joints: number, joint: number, f: number, degrees: number, rng: ReturnType<typeof random>): void => {
    const q = new Float64Array(8);
    const axis = [rng.normal(), rng.normal(), rng.normal()];
    const size = Math.hypot(...axis);
    fromAxisAngle(q, 0, axis[0] / size, axis[1] / size, axis[2] / size, (degrees * Math.PI) / 180);
    const o = (f * joints + joint) * 4;
    mul(q, 4, Float64Array.from(clip.rotations.subarray(o, o + 4)), 0, q, 0);
    normalize(q, 4);
    clip.rotations.set(q.subarray(4), o);
  };
  /** The frames whose rotations or places differ. */
  const changed = (a: Clip, b: Clip): number[] => {
    const width = a.rotations.length / a.frames;
    return Array.from({ length: a.frames }, (_, f) => f).filter(
      (f) =>
        a.rotations
          .subarray(f * width, (f + 1) * width)
          .some((v, i) => Math.abs(Math.abs(v) - Math.abs(b.rotations[f * width + i])) > 1e-6) ||
        a.moves.some(({ values }, m) => [0, 1, 2].some((c) => values[f * 3 + c] !== b.moves[m].values[f * 3 + c])),
    );
  };
  const places = fc.record({ seed: fc.integer({ min: 1, max: 500 }), at: fc.integer({ min: 30, max: 260 }), which: fc.nat({ max: 3 }) });
  const RUNS = { numRuns: 25, seed: 5 };
  const faultsOf = ({ rig }: ReturnType<typeof performer>, clip: Clip): SamplingFault[] =>
    findSamplingFaults(rig.skeleton, clip, rig.roles, rig.legLength);

  it('that is one frame of one joint is found as a spike of that joint, and only that frame is mended', () => {
    fc.assert(
      fc.property(places, fc.integer({ min: 25, max: 120 }), ({ seed, at, which }, degrees) => {
        const one = performer(seed);
        const joint = one.rig.roles.get(moving[which])!;
        const spoilt = copyOf(one.clip);
        turn(spoilt, one.rig.skeleton.names.length, joint, at, degrees, random(seed));
        const [fault, ...others] = faultsOf(one, spoilt);
        expect([fault.kind, fault.from, fault.to, fault.joint, others.length]).toEqual(['spike', at, at, joint, 0]);
        const mended = repair(one.rig.skeleton, spoilt, [fault]);
        expect(changed(mended, spoilt)).toEqual([at]);
        const o = (at * one.rig.skeleton.names.length + joint) * 4;
        expect((angleBetween(mended.rotations, o, one.clip.rotations, o) * 180) / Math.PI).toBeLessThan(2);
        expect(faultsOf(one, mended)).toEqual([]);
      }),
      RUNS,
    );
  });

  it('that holds the whole body is found as a gap of so many frames, and is bridged', () => {
    fc.assert(
      fc.property(places, fc.integer({ min: 3, max: 14 }), ({ seed, at }, count) => {
        const one = performer(seed);
        const spoilt = copyOf(one.clip);
        const width = one.rig.skeleton.names.length * 4;
        for (let f = at; f < at + count; f++) {
          spoilt.rotations.copyWithin(f * width, (at - 1) * width, at * width);
          for (const { values } of spoilt.moves) values.copyWithin(f * 3, (at - 1) * 3, at * 3);
        }
        const found = faultsOf(one, spoilt).filter(({ kind }) => kind !== 'jump');
        expect(found.map(({ kind, from, to, joint }) => [kind, from, to, joint])).toEqual([['gap', at, at + count - 1, undefined]]);
        const mended = repair(one.rig.skeleton, spoilt, found);
        for (const f of changed(mended, spoilt)) {
          expect(f).toBeGreaterThanOrEqual(at);
          expect(f).toBeLessThan(at + count);
        }
        // Back to near where it was, which the held frames are not.
        const away = (clip: Clip): number => {
          const [a, b] = [new ClipReader(one.rig.skeleton, clip), new ClipReader(one.rig.skeleton, one.clip)];
          const f = at + count - 1;
          const [p, q] = [a.at(f).positions.slice(), b.at(f).positions];
          return Math.max(...p.map((v, i) => Math.abs(v - q[i])));
        };
        expect(away(mended)).toBeLessThan(0.5 * away(spoilt));
        expect(faultsOf(one, mended)).toEqual([]);
      }),
      RUNS,
    );
  });

  it('that is a frame doubled and another lost, before or after it, is found from one to the other, and played in time', () => {
    fc.assert(
      fc.property(places, fc.integer({ min: 0, max: 5 }), fc.boolean(), ({ seed, at, which }, later, isLate) => {
        const one = performer(seed);
        const joints = one.rig.skeleton.names.length;
        const spoilt = copyOf(one.clip);
        const take = (f: number, sample: number): void => {
          spoilt.rotations.set(one.clip.rotations.subarray(sample * joints * 4, (sample + 1) * joints * 4), f * joints * 4);
          spoilt.moves.forEach(({ values }, m) => values.set(one.clip.moves[m].values.subarray(sample * 3, sample * 3 + 3), f * 3));
        };
        for (let f = at; f <= at + later; f++) take(f, isLate ? f - 1 : f + 1);
        // The recorder finds a joint anew in the doubled frame.
        const doubled = isLate ? at : at + later + 1;
        turn(spoilt, joints, one.rig.roles.get(moving[which])!, doubled, 0.05, random(seed));
        const found = faultsOf(one, spoilt);
        const last = isLate || later === 0 ? at + later : doubled;
        expect(found.map(({ kind, joint }) => [kind, joint])).toEqual([['repeat', undefined]]);
        // Of a doubled frame right behind a leap either may be called the one out of time.
        expect(Math.abs(found[0].from - at)).toBeLessThanOrEqual(later === 0 ? 1 : 0);
        expect(Math.abs(found[0].to - last)).toBeLessThanOrEqual(later === 0 ? 1 : 0);
        const mended = repair(one.rig.skeleton, spoilt, found);
        const off = (clip: Clip): number => {
          let worst = 0;
          for (let o = 0; o < clip.rotations.length; o += 4)
            worst = Math.max(worst, angleBetween(clip.rotations, o, one.clip.rotations, o));
          return worst;
        };
        const width = joints * 4;
        const step = (f: number): number =>
          Math.max(
            ...Array.from({ length: joints }, (_, j) =>
              angleBetween(one.clip.rotations, f * width + j * 4, one.clip.rotations, (f - 1) * width + j * 4),
            ),
          );
        expect(off(mended)).toBeLessThan(0.3 * Math.max(off(spoilt), step(at)));
        expect(faultsOf(one, mended)).toEqual([]);
      }),
      RUNS,
    );
  });

  it('that does not come back is found as a jump, and is eased without touching what is far', () => {
    fc.assert(
      fc.property(places, fc.integer({ min: 45, max: 100 }), ({ seed, at, which }, degrees) => {
        const one = performer(seed);
        const joints = one.rig.skeleton.names.length;
        const joint = one.rig.roles.get(moving[which])!;
        const spoilt = copyOf(one.clip);
        for (let f = at; f < FRAMES; f++) turn(spoilt, joints, joint, f, degrees, random(seed));
        const found = faultsOf(one, spoilt);
        expect(found.map(({ kind, from, joint: j }) => [kind, from, j])).toEqual([['jump', at, joint]]);
        const mended = repair(one.rig.skeleton, spoilt, found);
        for (const f of changed(mended, spoilt)) expect(Math.abs(f - at)).toBeLessThanOrEqual(30);
        const step = (clip: Clip, f: number): number =>
          angleBetween(clip.rotations, (f * joints + joint) * 4, clip.rotations, ((f - 1) * joints + joint) * 4);
        expect(step(mended, at)).toBeLessThan(0.25 * step(spoilt, at));
        expect(faultsOf(one, mended)).toEqual([]);
      }),
      RUNS,
    );
  });

  it('is none where nothing is wrong, at any rate and with a capture’s noise', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), fc.constantFrom(24, 30, 60, 120, 240), fc.constantFrom(0, 5e-4), (seed, fps, noise) => {
        const shape = randomShape(seed, { clavicles: true });
        const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 3 * fps, fps, noise }));
        expect(findSamplingFaults(rig.skeleton, clip, rig.roles, rig.legLength).map(({ kind, from }) => `${kind} ${from}`))
          .withContext(`${fps}, ${noise}`)
          .toEqual([]);
      }),
      RUNS,
    );
  });
});

describe('a take made ready', () => {
  const shape = randomShape(7, { clavicles: true });
  const { file, rig, clip } = performerOf(shape, walk(shape, { seed: 7, frames: 240, fps: 60 }));
  const choices = fc
    .record({
      from: fc.option(fc.double({ min: 0, max: 1.5, noNaN: true }), { nil: null }),
      to: fc.option(fc.double({ min: 2, max: 9, noNaN: true }), { nil: null }),
      rate: fc.option(fc.constantFrom(30, 60, 120), { nil: null }),
      fps: fc.option(fc.constantFrom(24, 25, 30, 50, 60, 120), { nil: null }),
    })
    .map((change): TakeChoices => ({ ...DEFAULT_TAKE, ...change }));

  it('has the frames and the rate that are told of it beforehand', () => {
    fc.assert(
      fc.property(choices, (chosen) => {
        const made = prepareTake(file, rig, 0, chosen);
        const told = lengthOf(clip, chosen, null);
        expect([made.frames, Math.round(1e6 / made.frameTime)]).toEqual([told.frames, Math.round(1e6 * told.fps)]);
        expect(made.rotations.length).toBe(made.frames * rig.skeleton.names.length * 4);
        expect(made.moves.every(({ values }) => values.length === made.frames * 3)).toBeTrue();
      }),
      { numRuns: 60 },
    );
  });

  it('lasts as long as its handles are apart, whatever rate it is delivered at', () => {
    fc.assert(
      fc.property(choices, (chosen) => {
        const { first, last } = rangeOf(clip, chosen, 'walk');
        const own = chosen.rate === null ? clip.frameTime : 1 / chosen.rate;
        const made = prepareTake(file, rig, 0, chosen);
        expect(duration(made)).toBeLessThanOrEqual((last - first) * own + 1e-6);
        expect(duration(made)).toBeGreaterThan((last - first) * own - made.frameTime - 1e-6);
      }),
      { numRuns: 60 },
    );
  });

  it('is the recording itself, frame for frame, where only its handles are set', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 100 }), fc.integer({ min: 110, max: 239 }), (first, last) => {
        const made = prepareTake(file, rig, 0, { ...DEFAULT_TAKE, from: first / 60, to: last / 60 });
        const cut = trim(rig.skeleton, clip, first, last);
        expect(made.frames).toBe(cut.frames);
        expect(made.rotations).toEqual(cut.rotations);
      }),
      { numRuns: 30 },
    );
  });

  it('keeps its last frame on a coarser grid only where one falls on it', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 400 }), fc.integer({ min: 2, max: 6 }), (frames, every) => {
        const left = resampledFrames(frames, 1 / 120, every / 120);
        expect((left - 1) * every).toBeLessThanOrEqual(frames - 1);
        expect(left * every).toBeGreaterThan(frames - 1);
        expect(resampledFrames(frames, 1 / 60, 1 / 60)).toBe(frames);
      }),
    );
  });
});
