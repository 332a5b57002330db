import * as fc from 'fast-check';
import { ClipReader, duration, type Clip } from '../clip';
import { angleBetween, fromAxisAngle, mul, normalize } from '../math/quat';
import { random } from '../math/random';
import { prepareRig, type Rig } from '../rig';
import { makeFile, performerOf, randomShape, walk } from '../testing';
import { withAncestors } from '../skeleton';
import { makeLoop } from './loop';
import { labelledOnly } from './prune';
import { reduceKeys, sampleKeys, worstOf } from './reduce';

const seeds = fc.integer({ min: 1, max: 5000 });
const walker = (seed: number): { rig: Rig; clip: Clip } => {
  const shape = randomShape(seed, { clavicles: true });
  return performerOf(shape, walk(shape, { seed, frames: 150, roll: 12 }));
};
const watchedOf = ({ roles }: Rig): number[] =>
  ['left.hand', 'right.hand', 'left.foot', 'right.foot', 'head'].map((role) => roles.get(role)!);

describe('a motion with fewer keys', () => {
  it('is off at hands, feet and head by no more than is allowed, told by posing it', () => {
    fc.assert(
      fc.property(seeds, fc.constantFrom(0.0005, 0.002, 0.01), (seed, tolerance) => {
        const { rig, clip } = walker(seed);
        const watched = watchedOf(rig);
        const reduced = reduceKeys(rig.skeleton, clip, watched, tolerance);
        const [a, b] = [new ClipReader(rig.skeleton, clip), new ClipReader(rig.skeleton, reduced.clip)];
        let worst = 0;
        for (let f = 0; f < clip.frames; f++) {
          const [p, q] = [a.at(f).positions, b.at(f).positions];
          for (const j of watched) worst = Math.max(worst, Math.hypot(...[0, 1, 2].map((c) => p[j * 3 + c] - q[j * 3 + c])));
        }
        expect(worst).toBeLessThanOrEqual(tolerance + 1e-9);
        expect(Math.abs(worst - reduced.worst)).toBeLessThan(1e-9);
        expect(worstOf(rig.skeleton, clip, clip, watched)).toBe(0);
      }),
      { numRuns: 15 },
    );
  });

  it('keeps its first and last frame, in order, and says truly how many are left', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const { rig, clip } = walker(seed);
        const { keys, share } = reduceKeys(rig.skeleton, clip, watchedOf(rig), 0.003);
        const lists = [...keys.turns, ...keys.moves];
        for (const list of lists) {
          expect(list[0]).toBe(0);
          if (list.length > 1) expect(list[list.length - 1]).toBe(clip.frames - 1);
          for (let i = 1; i < list.length; i++) expect(list[i]).toBeGreaterThan(list[i - 1]);
        }
        const count = lists.reduce((sum, list) => sum + list.length, 0);
        expect(share).toBeCloseTo(count / (lists.length * clip.frames), 9);
        expect(share).toBeLessThan(0.6);
        // The same keys give the same motion.
        expect(sampleKeys(rig.skeleton, clip, keys).rotations).toEqual(sampleKeys(rig.skeleton, clip, keys).rotations);
      }),
      { numRuns: 10 },
    );
  });

  it('is the frame itself at every key', () => {
    const { rig, clip } = walker(11);
    const { keys, clip: sampled } = reduceKeys(rig.skeleton, clip, watchedOf(rig), 0.005);
    const joints = rig.skeleton.names.length;
    keys.turns.forEach((list, j) => {
      for (const f of list)
        expect(angleBetween(sampled.rotations, (f * joints + j) * 4, clip.rotations, (f * joints + j) * 4)).toBeLessThan(1e-3);
    });
  });
});

describe('a motion closed to a loop', () => {
  it('meets itself in every joint, whatever it was, and keeps its way over the floor', () => {
    fc.assert(
      fc.property(seeds, fc.double({ min: 0.1, max: 2, noNaN: true }), (seed, seconds) => {
        const { rig, clip } = walker(seed);
        const joints = rig.skeleton.names.length;
        const { clip: looped, gap } = makeLoop(rig.skeleton, clip, seconds, new Set([0]));
        const last = clip.frames - 1;
        let before = 0;
        for (let j = 0; j < joints; j++) {
          before = Math.max(before, angleBetween(clip.rotations, j * 4, clip.rotations, (last * joints + j) * 4));
          expect(angleBetween(looped.rotations, j * 4, looped.rotations, (last * joints + j) * 4)).toBeLessThan(2e-3);
        }
        expect(gap).toBeCloseTo(before, 3);
        const [{ values }] = looped.moves;
        expect(values[last * 3 + 1]).toBeCloseTo(values[1], 5);
        for (const c of [0, 2])
          expect(values[last * 3 + c] - values[c]).toBeCloseTo(clip.moves[0].values[last * 3 + c] - clip.moves[0].values[c], 5);
        expect([looped.frames, duration(looped)]).toEqual([clip.frames, duration(clip)]);
      }),
      { numRuns: 20 },
    );
  });

  it('is as it was in its middle, and changes without a corner', () => {
    const { rig, clip } = walker(21);
    const joints = rig.skeleton.names.length;
    const { clip: looped } = makeLoop(rig.skeleton, clip, 0.5, new Set([0]));
    const off = (f: number, j: number): number =>
      angleBetween(looped.rotations, (f * joints + j) * 4, clip.rotations, (f * joints + j) * 4);
    for (let j = 0; j < joints; j++) {
      for (let f = 31; f < clip.frames - 31; f++) expect(off(f, j)).toBeLessThan(1e-3);
      for (let f = 1; f < 30; f++) expect(off(f, j)).toBeLessThanOrEqual(off(f - 1, j) + 2e-3);
    }
  });

  it('is left alone where it is too short, or where no time is given', () => {
    const { rig, clip } = walker(3);
    expect(makeLoop(rig.skeleton, clip, 0, new Set()).clip).toBe(clip);
    const short = { ...clip, frames: 3 };
    expect(makeLoop(rig.skeleton, short, 1, new Set())).toEqual({ clip: short, gap: 0 });
  });
});

describe('a skeleton of labelled joints alone', () => {
  it('stands and moves in the world as the whole one does', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 1, max: 6 }), (seed, count) => {
        const rng = random(seed);
        const shape = randomShape(seed, { clavicles: true });
        // Cloth hangs on any joint, in runs of two.
        const joints = [...shape.joints];
        for (let i = 0; i < count; i++) {
          const parent = rng.integer(0, shape.joints.length - 1);
          joints.push({ role: `cloth${i}a`, parent, offset: [0.02, -0.1, 0.03] });
          joints.push({ role: `cloth${i}b`, parent: joints.length - 1, offset: [0, -0.1, 0] });
        }
        const file = makeFile({ ...shape, joints }, { axes: seed });
        const rig = prepareRig(file);
        const frames = 5;
        const rotations = new Float32Array(frames * joints.length * 4);
        const q = new Float64Array(8);
        for (let f = 0; f < frames; f++) {
          for (let j = 0; j < joints.length; j++) {
            const [x, y, z] = [rng.normal(), rng.normal(), rng.normal()];
            const size = Math.hypot(x, y, z);
            fromAxisAngle(q, 0, x / size, y / size, z / size, 0.4 * rng.normal());
            mul(q, 4, rig.skeleton.restR, j * 4, q, 0);
            normalize(q, 4);
            rotations.set(q.subarray(4), (f * joints.length + j) * 4);
          }
        }
        const clip: Clip = { name: 'x', frameTime: 1 / 30, frames, rotations, moves: [] };
        const bare = labelledOnly(rig.skeleton, clip, rig.roles);
        // Cloth that hangs on a hand may be taken for a finger: what has a role stays, and what it hangs on.
        const wanted = withAncestors(rig.skeleton.parents, rig.roles.values());
        expect(bare.skeleton.names).toEqual([...wanted].map((j) => rig.skeleton.names[j]));
        for (const joint of rig.roles.values()) expect(bare.skeleton.names).toContain(rig.skeleton.names[joint]);
        const [a, b] = [new ClipReader(rig.skeleton, clip), new ClipReader(bare.skeleton, bare.clip)];
        for (let f = 0; f < frames; f++) {
          const [p, r] = [a.at(f), b.at(f)];
          bare.skeleton.names.forEach((name, k) => {
            const j = rig.skeleton.names.indexOf(name);
            for (let c = 0; c < 3; c++) expect(r.positions[k * 3 + c]).toBeCloseTo(p.positions[j * 3 + c], 6);
            expect(angleBetween(r.rotations, k * 4, p.rotations, j * 4)).toBeLessThan(3e-3);
          });
        }
      }),
      { numRuns: 15 },
    );
  });

  it('is the same one where every joint has a role', () => {
    const { rig, clip } = walker(8);
    expect(labelledOnly(rig.skeleton, clip, rig.roles).clip).toBe(clip);
  });
});
