import { clipFromBasis, clipToBasis } from '.';
import * as fc from 'fast-check';
import { angle, invMul } from '../math/quat';
import { makeFile, randomShape, walk } from '../testing';
import { makeBasis, makeSkeleton, restPose, toBasis, UP_AXES, upVector } from '../skeleton';
import { FaultError } from '../errors';
import { ClipReader, duration, makeContinuous, resample, trim } from './clip';

const shape = randomShape(7, { clavicles: true });
const file = makeFile(shape, { metres: 0.01, up: '+Z' }, walk(shape, { frames: 61, fps: 60 }));
const [clip] = file.clips;

describe('a clip', () => {
  it('is a second long from the first of 61 frames to the last', () => {
    expect(duration(clip)).toBeCloseTo(1, 9);
  });

  it('keeps its length and its poses at another rate', () => {
    const half = resample(file.skeleton, clip, 1 / 30);
    expect(half.frames).toBe(31);
    const [a, b] = [new ClipReader(file.skeleton, clip), new ClipReader(file.skeleton, half)];
    for (let f = 0; f < 31; f += 5) a.at(f * 2).positions.forEach((x, i) => expect(b.at(f).positions[i]).toBeCloseTo(x, 2));
    const back = new ClipReader(file.skeleton, resample(file.skeleton, half, 1 / 60));
    for (let f = 0; f < 60; f += 7) a.at(f).positions.forEach((x, i) => expect(Math.abs(back.at(f).positions[i] - x)).toBeLessThan(1.5));
    expect(resample(file.skeleton, clip, clip.frameTime)).toBe(clip);
  });

  it('is cut to a span without touching what is in it', () => {
    const part = trim(file.skeleton, clip, 10, 19);
    expect(part.frames).toBe(10);
    expect(new ClipReader(file.skeleton, part).at(3).positions).toEqual(new ClipReader(file.skeleton, clip).at(13).positions);
  });

  it('has rotations that are continuous in sign', () => {
    const flipped = clip.rotations.map((v, i) => (Math.floor(i / 4) % 3 === 1 ? -v : v));
    makeContinuous(flipped, shape.joints.length);
    const stride = shape.joints.length * 4;
    for (let o = stride; o < flipped.length; o += 4) {
      const dot =
        flipped[o] * flipped[o - stride] +
        flipped[o + 1] * flipped[o - stride + 1] +
        flipped[o + 2] * flipped[o - stride + 2] +
        flipped[o + 3] * flipped[o - stride + 3];
      expect(dot).toBeGreaterThan(0);
    }
  });
});

describe('a basis', () => {
  it('brings any up axis to +Y, and a file back to where it was', () => {
    fc.assert(
      fc.property(fc.constantFrom(...UP_AXES), fc.constantFrom(1, 0.01, 0.0254), (up, metres) => {
        const basis = makeBasis(metres, up);
        const stood = makeFile(shape, { metres, up }, walk(shape, { frames: 5 }));
        const ours = clipToBasis(stood.skeleton, stood.clips[0], basis);
        const back = clipFromBasis(stood.skeleton, ours, basis);
        ours.moves[0].values.forEach((_, i) =>
          expect(back.moves[0].values[i] * metres).toBeCloseTo(stood.clips[0].moves[0].values[i] * metres, 4),
        );
        const q = new Float64Array(4);
        for (let o = 0; o < back.rotations.length; o += 4) {
          invMul(q, 0, back.rotations, o, stood.clips[0].rotations, o);
          expect(angle(q, 0)).toBeLessThan(1e-5);
        }
        const head = shape.joints.findIndex((j) => j.role === 'head');
        expect(restPose(toBasis(stood.skeleton, basis)).positions[head * 3 + 1]).toBeGreaterThan(1);
        expect(Math.hypot(...upVector(up))).toBe(1);
      }),
    );
  });
});

describe('a skeleton', () => {
  it('is refused without joints, with too many, or with a child before its parent', () => {
    const code = (names: string[], parents: number[]): string => {
      try {
        makeSkeleton({ names, parents, restT: new Float64Array(names.length * 3) });
      } catch (error) {
        if (error instanceof FaultError) return error.fault.code;
      }
      return 'none';
    };
    expect(code([], [])).toBe('skeleton/none');
    expect(code(['a', 'b'], [1, -1])).toBe('skeleton/loop');
    expect(
      code(
        Array.from({ length: 5000 }, (_, i) => `j${i}`),
        Array.from({ length: 5000 }, (_, i) => i - 1),
      ),
    ).toBe('skeleton/limit');
    expect(code(['a'], [-1])).toBe('none');
  });
});
