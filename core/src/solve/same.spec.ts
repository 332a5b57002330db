import * as fc from 'fast-check';
import { ClipReader, type Clip } from '../clip';
import { fromAxisAngle, mul, rotate } from '../math/quat';
import { percentile } from '../math/filter';
import { mirrorRole } from '../label';
import { makePairing } from '../match';
import { prepareRig, type Rig } from '../rig';
import type { UpAxis } from '../skeleton';
import { makeFile, mirrored, performerOf, randomShape, walk, type Motion, type Performer, type Shape } from '../testing';
import { DEFAULT_SOLVE } from './settings';
import { solve } from './solve';

/**
 * Property 9: the same work seen otherwise gives the same result. Walkers roll over their feet and are captured with noise, so that
 * nothing falls on a limit by being exact.
 */
const seeds = fc.integer({ min: 1, max: 1_000_000 });
const RUNS = { numRuns: 6, seed: 9 };
const FRAMES = 300;
/** Degrees of the roll, and radians of the noise of a capture. */
const ROLL = 18;
const NOISE = 1e-3;

const shapeOf = (seed: number): Shape => randomShape(seed, { spine: 3, neck: 1, clavicles: true, fingers: 0 });
const characterOf = (seed: number, metres = 1, up: UpAxis = '+Y'): Rig =>
  prepareRig(makeFile(randomShape(seed + 1, { spine: 4, neck: 2, clavicles: true }), { axes: seed, metres, up }));
const motionOf = (shape: Shape, seed: number): Motion => walk(shape, { seed, frames: FRAMES, roll: ROLL, noise: NOISE, crouch: 0.02 });

function solved({ rig, clip }: Performer, character: Rig): Clip {
  return solve(makePairing(rig, character), clip, DEFAULT_SOLVE).clip;
}

/** A motion turned to the left about the vertical and moved over the floor. */
function elsewhere({ turns, hips, ...motion }: Motion, radians: number, x: number, z: number): Motion {
  const q = new Float64Array(4);
  fromAxisAngle(q, 0, 0, 1, 0, radians);
  const [turned, moved] = [turns.slice(), hips.slice()];
  for (let i = 0; i < turns.length; i += 4) mul(turned, i, q, 0, turns, i);
  for (let i = 0; i < hips.length; i += 3) {
    rotate(moved, i, q, 0, hips, i);
    moved[i] += x;
    moved[i + 2] += z;
  }
  return { ...motion, turns: turned, hips: moved };
}

/** Every so many frames of a motion, from a first one on. */
function picked({ turns, hips, frames, frameTime }: Motion, first: number, every: number): Motion {
  const count = turns.length / frames;
  const at = Array.from({ length: Math.floor((frames - 1 - first) / every) + 1 }, (_, i) => first + i * every);
  return {
    frames: at.length,
    frameTime: frameTime * every,
    turns: Float64Array.from(at.flatMap((f) => [...turns.subarray(f * count, (f + 1) * count)])),
    hips: Float64Array.from(at.flatMap((f) => [...hips.subarray(f * 3, f * 3 + 3)])),
  };
}

interface Seen {
  readonly rig: Rig;
  readonly clip: Clip;
  /** Puts a place back to where the first result has it. */
  readonly back?: (place: Float64Array) => void;
  /** The frame of the first result that one of this is. */
  readonly frameOf?: (f: number) => number;
  /** Joint of the first result's skeleton for one of this. */
  readonly jointOf?: (j: number) => number;
}

/**
 * Distances of all joints between two results in shares of the height, each seen from where the hips first are: where a take stands
 * is carried over by the stride.
 */
function apart(first: { readonly rig: Rig; readonly clip: Clip }, other: Seen): { most: number; nearly: number } {
  const { rig, clip, back = () => undefined, frameOf = (f) => f, jointOf = (j) => j } = other;
  const [a, b] = [new ClipReader(first.rig.skeleton, first.clip), new ClipReader(rig.skeleton, clip)];
  const hips = rig.roles.get('hips')!;
  const distances: number[] = [];
  const p = new Float64Array(3);
  let origin: number[] | undefined;
  const { positions: rest } = first.rig.restPose;
  const height = Math.max(...rest.filter((_, i) => i % 3 === 1)) - Math.min(...rest.filter((_, i) => i % 3 === 1));
  // Ends of a take have less about them to be judged by.
  for (let f = 1; f + 1 < clip.frames; f++) {
    const g = frameOf(f);
    if (g < 1 || g + 1 >= first.clip.frames) continue;
    const [theirs, mine] = [a.at(g).positions, b.at(f).positions];
    const place = (joint: number): number[] => {
      for (let c = 0; c < 3; c++) p[c] = mine[joint * 3 + c];
      back(p);
      return [p[0] - theirs[jointOf(joint) * 3], p[1] - theirs[jointOf(joint) * 3 + 1], p[2] - theirs[jointOf(joint) * 3 + 2]];
    };
    origin ??= place(hips).map((v, c) => (c === 1 ? 0 : v));
    for (let j = 0; j < rig.skeleton.names.length; j++) distances.push(Math.hypot(...place(j).map((v, c) => v - origin![c])) / height);
  }
  return { most: Math.max(...distances), nearly: percentile(distances, 0.99) };
}

describe('property 9: the same take', () => {
  const expectSame = (first: { rig: Rig; clip: Clip }, other: Seen, nearly: number, most: number): void => {
    const found = apart(first, other);
    expect(found.nearly).withContext('99 % of all joints').toBeLessThan(nearly);
    expect(found.most).withContext('the worst joint').toBeLessThan(most);
  };

  it('turned and moved over the floor gives the turned and moved result', () => {
    fc.assert(
      fc.property(seeds, fc.double({ min: -3, max: 3, noNaN: true }), (seed, radians) => {
        const [shape, rig] = [shapeOf(seed), characterOf(seed)];
        const motion = motionOf(shape, seed);
        const q = new Float64Array(4);
        fromAxisAngle(q, 0, 0, 1, 0, -radians);
        expectSame(
          { rig, clip: solved(performerOf(shape, motion), rig) },
          {
            rig,
            clip: solved(performerOf(shape, elsewhere(motion, radians, 3, -1.2)), rig),
            back: (p) => rotate(p, 0, q, 0, p, 0),
          },
          0.001,
          0.005,
        );
      }),
      RUNS,
    );
  });

  it('in another unit, with another axis up, on a character in another unit, gives the same result', () => {
    fc.assert(
      fc.property(
        seeds,
        fc.constantFrom(0.01, 0.0254, 1),
        fc.constantFrom<UpAxis>('+Z', '-Y', '+X'),
        fc.constantFrom(0.01, 0.001),
        (seed, metres, up, unit) => {
          const [shape, rig] = [shapeOf(seed), characterOf(seed)];
          const motion = motionOf(shape, seed);
          const first = { rig, clip: solved(performerOf(shape, motion), rig) };
          expectSame(first, { rig, clip: solved(performerOf(shape, motion, { metres, up }), rig) }, 0.001, 0.005);
          const other = characterOf(seed, unit, up);
          expectSame(first, { rig: other, clip: solved(performerOf(shape, motion), other) }, 0.001, 0.005);
        },
      ),
      RUNS,
    );
  });

  it('seen in a mirror gives the mirrored result', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const [shape, rig] = [shapeOf(seed), characterOf(seed)];
        const motion = motionOf(shape, seed);
        const roleOf = new Map([...rig.roles].map(([role, joint]) => [joint, role]));
        const partner = (j: number): number => rig.roles.get(mirrorRole(roleOf.get(j) ?? '')) ?? j;
        expectSame(
          { rig, clip: solved(performerOf(shape, motion), rig) },
          {
            rig,
            clip: solved(performerOf(shape, mirrored(shape, motion)), rig),
            back: (p) => (p[0] = -p[0]),
            jointOf: partner,
          },
          0.003,
          0.01,
        );
      }),
      RUNS,
    );
  });

  it('cut at its beginning gives the end of the result', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 20, max: 90 }), (seed, cut) => {
        const [shape, rig] = [shapeOf(seed), characterOf(seed)];
        const motion = motionOf(shape, seed);
        expectSame(
          { rig, clip: solved(performerOf(shape, motion), rig) },
          // A plant that is cut is another one: what follows it is the same.
          {
            rig,
            clip: solved(performerOf(shape, picked(motion, cut, 1)), rig),
            frameOf: (f) => (f < 60 ? -1 : f + cut),
          },
          0.01,
          0.03,
        );
      }),
      RUNS,
    );
  });

  it('at half its rate gives every second frame of the result', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const [shape, rig] = [shapeOf(seed), characterOf(seed)];
        const motion = walk(shape, { seed, frames: 2 * FRAMES, fps: 120, roll: ROLL, noise: NOISE, crouch: 0.02 });
        expectSame(
          { rig, clip: solved(performerOf(shape, motion), rig) },
          { rig, clip: solved(performerOf(shape, picked(motion, 0, 2)), rig), frameOf: (f) => 2 * f },
          0.005,
          0.02,
        );
      }),
      RUNS,
    );
  });
});
