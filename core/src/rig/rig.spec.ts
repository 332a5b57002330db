import * as fc from 'fast-check';
import { ClipReader, restClip } from '../clip';
import { FaultError } from '../errors';
import { readMotionFile } from '../formats';
import { makePairing } from '../match';
import { DEFAULT_SKELETON } from '../recipe';
import { restPose } from '../skeleton';
import { solve } from '../solve';
import { makeFile, makeGlb, positionsOf, randomShape, walk, type Motion, type Shape, performerOf } from '../testing';
import { clipOf, labelFile, legChain, prepareRig } from '.';
import { measureReference } from './reference';
import { chooseRest, CLEAN, scoreRest } from './restDetector';
import { guessUnit } from './unit';
import { guessUp } from './upAxis';

const shape = randomShape(21, { clavicles: true, spine: 3 });

/** A motion that starts in the T-pose for some frames. */
function withLeadIn(motion: Motion, of: Shape, frames: number): Motion {
  const count = of.joints.length;
  const turns = new Float64Array((motion.frames + frames) * count * 4);
  const hips = new Float64Array((motion.frames + frames) * 3);
  for (let f = 0; f < frames; f++) {
    for (let j = 0; j < count; j++) turns[(f * count + j) * 4 + 3] = 1;
    hips.set(of.joints[0].offset, f * 3);
  }
  turns.set(motion.turns, frames * count * 4);
  hips.set(motion.hips, frames * 3);
  return { ...motion, frames: motion.frames + frames, turns, hips };
}

describe('guessing the unit', () => {
  it('finds the unit that makes an adult, and says why', () => {
    const cases: readonly (readonly [number, string])[] = [
      [0.92, 'm'],
      [92, 'cm'],
      [920, 'mm'],
      [36, 'inch'],
      [3, 'foot'],
      [17, 'unknown'],
      [1.4, 'm'],
      [0.5, 'm'],
      [52, 'cm'],
    ];
    for (const [leg, unit] of cases) {
      const guess = guessUnit(leg, false);
      expect(guess.unit)
        .withContext(String(leg))
        .toBe(unit as never);
      expect(guess.reason).toContain('hip to floor');
    }
    expect(guessUnit(17, false).metres * 17).toBeCloseTo(0.9, 6);
  });

  it('believes a format that is in metres, within reason', () => {
    expect(guessUnit(3, true).unit).toBe('m');
    expect(guessUnit(92, true).unit).toBe('cm');
    expect(guessUnit(NaN, true)).toEqual(jasmine.objectContaining({ unit: 'unknown', metres: 1 }));
  });
});

describe('finding the rest pose', () => {
  const roles = labelFile(makeFile(shape)).roles;

  it('calls T and A poses clean and walking frames not', () => {
    const motion = walk(shape, { seed: 2, frames: 60 });
    expect(scoreRest(restPose(makeFile(shape).skeleton).positions, roles)).toBeGreaterThan(0.95);
    const lowered = makeFile(shape, { rest: { seed: 3, degrees: 20 } });
    expect(scoreRest(restPose(lowered.skeleton).positions, roles)).toBeGreaterThan(CLEAN);
    for (let f = 10; f < 60; f += 10) expect(scoreRest(positionsOf(shape, motion, f), roles)).toBeLessThan(0.5);
  });

  it('takes the file’s own where that is clean', () => {
    const file = makeFile(shape, {}, walk(shape, { seed: 2 }));
    expect(chooseRest(file.skeleton, file.clips[0], roles)).toEqual(jasmine.objectContaining({ source: 'file', frame: undefined }));
  });

  it('takes the first clean frame where the file’s own says nothing', () => {
    const file = makeFile(shape, {}, withLeadIn(walk(shape, { seed: 2 }), shape, 6));
    // A rest in which every bone points up, as some writers leave it; the motion is untouched.
    const bare = { ...file.skeleton, restR: Float64Array.from(file.skeleton.restR, (_, i) => (i % 4 === 3 ? 1 : 0)) };
    const flat = {
      ...bare,
      restT: bare.restT.map((_, i) => (i % 3 === 1 ? Math.hypot(bare.restT[i - 1], bare.restT[i], bare.restT[i + 1]) : 0)),
    };
    const choice = chooseRest(flat, file.clips[0], roles);
    expect(choice.source === 'frame' || choice.score < CLEAN).toBeTrue();
    const walking = chooseRest(flat, undefined, roles);
    expect([walking.source, walking.score < CLEAN]).toEqual(['file', true]);
  });

  it('needs arms and legs to be labelled', () => {
    expect(scoreRest(restPose(makeFile(shape).skeleton).positions, new Map([['hips', 0]]))).toBe(0);
  });
});

describe('finding the up axis', () => {
  it('goes by the standing frames, whatever the rest pose', () => {
    for (const up of ['+Y', '-Y', '+Z', '-Z', '+X', '-X'] as const) {
      const file = makeFile(shape, { up }, walk(shape, { seed: 4, frames: 40 }));
      const { roles } = labelFile(file);
      expect(guessUp(file.skeleton, file.clips[0], restPose(file.skeleton).positions, roles).up).toBe(up);
    }
  });

  it('takes +Y where nothing stands', () => {
    const file = makeFile(shape);
    expect(guessUp(file.skeleton, undefined, new Float64Array(shape.joints.length * 3), labelFile(file).roles).up).toBe('+Y');
    expect(guessUp(file.skeleton, undefined, restPose(file.skeleton).positions, new Map()).up).toBe('+Y');
  });
});

describe('the up axis of glTF files', () => {
  it('is +Y whatever the labels say', async () => {
    const file = await readMotionFile(await makeGlb(makeFile(shape).skeleton), 'body.glb');
    const labels = labelFile(file);
    const { up, rest } = measureReference(file, labels, 0, DEFAULT_SKELETON);
    expect(up).toBe('+Y');
    // With a hand taken for its head it would seem to lie.
    const roles = new Map(labels.roles);
    const hand = roles.get('right.hand')!;
    roles.set('neck.1', hand).set('head', hand);
    expect(guessUp(file.skeleton, undefined, restPose(file.skeleton).positions, roles).up).not.toBe('+Y');
    const mistaken = measureReference(file, { ...labels, roles }, 0, DEFAULT_SKELETON);
    expect([mistaken.up, mistaken.rest.places]).toEqual(['+Y', rest.places]);
  });
});

describe('feet of a rest pose that no one stood in', () => {
  const motion = walk(shape, { seed: 6, frames: 200 });

  it('are turned to stand as they stand in the take, and nothing else is', () => {
    const flat = prepareRig(makeFile(shape, {}, motion));
    const pointed = prepareRig(makeFile(shape, { pointedFeet: 25, axes: 3 }, motion));
    expect(pointed.rest.reason).toContain('turned by 25°');
    expect(flat.rest.reason).not.toContain('turned');
    pointed.feet.forEach((foot, i) => expect(foot.ankleHeight).toBeCloseTo(flat.feet[i].ankleHeight, 3));
    const head = pointed.roles.get('head')!;
    for (let c = 0; c < 3; c++) expect(pointed.restPose.positions[head * 3 + c]).toBeCloseTo(flat.restPose.positions[head * 3 + c], 5);
  });

  it('give the same transfer as feet that were level', () => {
    const character = prepareRig(makeFile(randomShape(23, { clavicles: true }), { axes: 5 }));
    const [a, b] = [{}, { pointedFeet: 25 }].map((style) => {
      const { rig, clip } = performerOf(shape, motion, style);
      return new ClipReader(character.skeleton, solve(makePairing(rig, character), clip).clip);
    });
    for (let f = 0; f < 200; f += 13) a.at(f).positions.forEach((x, i) => expect(Math.abs(b.at(f).positions[i] - x)).toBeLessThan(2e-3));
  });
});

describe('a body made ready', () => {
  it('measures the same in any unit, axes and names', () => {
    const reference = prepareRig(makeFile(shape, {}, walk(shape, { frames: 30 })));
    fc.assert(
      fc.property(
        fc.constantFrom(0.01, 0.001, 0.0254),
        fc.constantFrom('+Y' as const, '+Z' as const, '-X' as const),
        fc.integer({ min: 1, max: 99 }),
        (metres, up, axes) => {
          const body = prepareRig(makeFile(shape, { metres, up, axes }, walk(shape, { frames: 30 })));
          expect(body.legLength).toBeCloseTo(reference.legLength, 5);
          expect(body.hipHeight).toBeCloseTo(reference.hipHeight, 5);
          expect(body.sole.depth).toBeCloseTo(reference.sole.depth, 5);
          expect(body.facing).toBeCloseTo(reference.facing, 5);
        },
      ),
      { numRuns: 10, seed: 5 },
    );
  });

  it('places the probes on the floor, heel behind and tip ahead', () => {
    const body = prepareRig(makeFile(shape));
    for (const foot of body.feet) {
      const [ankle, height] = [foot.foot * 3, body.restPose.positions[foot.foot * 3 + 1]];
      expect(foot.heel[1]).toBeCloseTo(foot.ball[1], 9);
      expect(height + foot.ball[1]).toBeCloseTo(body.restPose.positions[ankle + 1] - foot.ankleHeight, 9);
      expect(foot.heel[2]).toBeLessThan(0);
      expect(foot.ball[2]).toBeGreaterThan(0.05);
      expect(foot.heading[2]).toBeGreaterThan(0.95);
    }
  });

  it('rolls off over the tip where there is no joint at the ball', () => {
    const flat = randomShape(22, { toes: false });
    const [foot] = prepareRig(makeFile(flat)).feet;
    expect(foot.toes).toBe(-1);
    expect(foot.ball).toEqual(foot.tip);
  });

  it('faces where it faces', () => {
    const body = prepareRig(makeFile(shape, {}, walk(shape, { heading: 0 })));
    expect(Math.abs(body.facing)).toBeLessThan(1e-6);
    expect(body.left[0]).toBeCloseTo(1, 6);
    expect(legChain(body.roles, 'left').length).toBe(3);
  });

  it('gives its clip in metres, and says when there is none', () => {
    const { rig: body, clip } = performerOf(shape, walk(shape, { frames: 12 }), { metres: 0.01 });
    const reader = new ClipReader(body.skeleton, clip);
    expect(reader.at(0).positions[1]).toBeCloseTo(positionsOf(shape, walk(shape, { frames: 12 }), 0)[1], 4);
    expect(() => clipOf(makeFile(shape), body)).toThrowMatching((e) => e instanceof FaultError && e.fault.code === 'clip/none');
    expect(restClip(body.skeleton, 3).frames).toBe(3);
  });
});
