import { DEFAULT_TAKE } from '../recipe';
import { performerOf, randomShape, walk } from '../testing';
import { prepareTake, turnCurves } from '.';

describe('the curve of a joint', () => {
  const shape = randomShape(31);
  const { file, rig: body, clip } = performerOf(shape, walk(shape, { frames: 240, seed: 5 }), { axes: 3 });
  const knee = body.roles.get('left.lowerLeg')!;

  it('swings about its mean as far as the joint turns, whatever the axes of its frame', () => {
    const { before, after } = turnCurves(clip, clip, knee);
    expect(after).toEqual(before);
    const range = Math.max(...before) - Math.min(...before);
    expect(range).toBeGreaterThan(15);
    expect(range).toBeLessThan(120);
    expect(Math.abs(before.reduce((sum, v) => sum + v, 0) / before.length)).toBeLessThan(0.25 * range);
  });

  it('shows a spike whichever way it points', () => {
    for (const c of [0, 1, 2]) {
      const torn = { ...clip, rotations: clip.rotations.slice() };
      torn.rotations[(100 * body.skeleton.names.length + knee) * 4 + c] += 0.3;
      const { before, after } = turnCurves(torn, clip, knee);
      expect(Math.abs(before[100] - after[100]))
        .withContext(`axis ${c}`)
        .toBeGreaterThan(15);
      expect(before[99]).toBeCloseTo(after[99], 4);
    }
  });

  it('shows what smoothing takes away', () => {
    const noisy = { ...clip, rotations: clip.rotations.slice() };
    const joints = body.skeleton.names.length;
    for (let f = 0; f < clip.frames; f += 2) for (const c of [0, 1, 2]) noisy.rotations[(f * joints + knee) * 4 + c] += 0.03;
    const smoothed = prepareTake({ ...file, clips: [noisy] }, body, 0, {
      ...DEFAULT_TAKE,
      clean: { ...DEFAULT_TAKE.clean, cutoff: { ...DEFAULT_TAKE.clean.cutoff, legs: 6 } },
    });
    const { before, after } = turnCurves(noisy, smoothed, knee);
    const rough = (curve: Float32Array): number => curve.slice(2).reduce((sum, v, i) => sum + Math.abs(v - 2 * curve[i + 1] + curve[i]), 0);
    expect(rough(after)).toBeLessThan(0.3 * rough(before));
  });
});
