import * as fc from 'fast-check';
import { ClipReader } from '..';
import { makeFile, randomShape, walk } from '../testing';
import { DEFAULT_SKELETON } from '../recipe';
import { bareBody, keepRest, prepareRig, rangeCheck, RANGE_FRAMES, wiggle } from '.';

describe('a skeleton to be looked at', () => {
  it('stands upright at the size of a person without any label, whatever its unit and axes', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 400 }),
        fc.constantFrom(0.01, 1, 0.0254),
        fc.constantFrom('+Y' as const, '+Z' as const),
        (seed, metres, up) => {
          const shape = randomShape(seed);
          const bare = bareBody(makeFile(shape, { metres, up, axes: seed % 5 }, walk(shape, { frames: 20 })));
          expect(bare.height).toBeGreaterThan(1.2);
          expect(bare.height).toBeLessThan(2.4);
          expect(bare.clip?.frames).toBe(20);
        },
      ),
      { numRuns: 30, seed: 9 },
    );
  });

  it('wiggles a joint with what hangs on it and nothing else', () => {
    const body = prepareRig(makeFile(randomShape(5, { fingers: 2 })));
    const arm = body.roles.get('left.lowerArm')!;
    const hand = body.roles.get('left.hand')!;
    const moved = wiggle(body.restPose, body.skeleton, arm, 0.25);
    const way = (j: number): number => Math.hypot(...[0, 1, 2].map((c) => moved.positions[j * 3 + c] - body.restPose.positions[j * 3 + c]));
    expect(way(arm)).toBe(0);
    expect(way(hand)).toBeGreaterThan(0.02);
    expect(way(body.roles.get('right.hand')!)).toBe(0);
  });

  it('keeps the rest pose that stands, with its turns by hand, in any axes', () => {
    const file = makeFile(randomShape(8), { metres: 0.01, up: '+Z', axes: 4 }, walk(randomShape(8), { frames: 30 }));
    const turned = prepareRig(file, 0, { ...DEFAULT_SKELETON, turns: { 'left.upperArm': [10, 20, -30], hips: [0, 15, 0] } });
    const kept = prepareRig(file, 0, { ...DEFAULT_SKELETON, rest: keepRest(turned, 'mine') });
    expect(kept.rest.reason).toContain('mine');
    const p = turned.restPose.positions;
    const hips = turned.roles.get('hips')! * 3;
    const base = kept.restPose.positions[hips + 1] - p[hips + 1];
    for (let i = 1; i < p.length; i += 3) expect(kept.restPose.positions[i] - base).toBeCloseTo(p[i], 5);
  });

  it('plays each limb in turn by its labels, left first, and starts and ends each movement at rest', () => {
    const body = prepareRig(makeFile(randomShape(6), { metres: 0.01 }));
    const { clip, steps } = rangeCheck(body.skeleton, body.restPose, body.roles, body);
    const reader = new ClipReader(body.skeleton, clip);
    const knee = steps.find(({ step }) => step.role === 'left.lowerLeg')!;
    const other = steps.find(({ step }) => step.role === 'right.lowerLeg')!;
    expect(knee.first).toBeLessThan(other.first);
    const foot = body.roles.get('left.foot')! * 3;
    const still = body.roles.get('right.foot')! * 3;
    const at = reader.at(knee.first).positions.slice();
    for (let i = 0; i < at.length; i++) expect(at[i]).toBeCloseTo(body.restPose.positions[i], 5);
    const top = reader.at(knee.first + RANGE_FRAMES / 2).positions;
    // A knee bends the shin back and up.
    const back = [0, 2].reduce((sum, c) => sum + (top[foot + c] - at[foot + c]) * body.forward[c], 0);
    expect(back).toBeLessThan(-0.1);
    expect(top[foot + 1] - at[foot + 1]).toBeGreaterThan(0.05);
    expect(top[still + 1]).toBeCloseTo(at[still + 1], 5);
  });
});
