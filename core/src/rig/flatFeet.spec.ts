import * as fc from 'fast-check';
import { fromAxisAngle, mul } from '../math/quat';
import { makeFile, randomShape, walk, type Motion, type Shape } from '../testing';
import { prepareRig } from './rig';

/** Feet that a file draws otherwise than its performer stands: turned in the rest pose where both say so, and left where one does. */
describe('feet of a rest pose', () => {
  const seeds = fc.integer({ min: 1, max: 3000 });
  const RUNS = { numRuns: 12, seed: 3 };
  const shapeOf = (seed: number): Shape => randomShape(seed, { clavicles: true, spine: 2 });

  /** Pitches one foot with its toes in every frame, toes down positive, radians. */
  function pitched(shape: Shape, motion: Motion, side: string, angle: number): Motion {
    const turns = motion.turns.slice();
    const count = shape.joints.length;
    const q = new Float64Array(4);
    fromAxisAngle(q, 0, 1, 0, 0, angle);
    shape.joints.forEach(({ role }, j) => {
      if (role !== `${side}.foot` && role !== `${side}.toes`) return;
      for (let f = 0; f < motion.frames; f++) mul(turns, (f * count + j) * 4, turns, (f * count + j) * 4, q, 0);
    });
    return { ...motion, turns };
  }
  const isTurned = (rig: ReturnType<typeof prepareRig>): boolean => rig.rest.reason.includes('feet');
  /** How far heel and ball of each foot lie from one level at rest, metres. */
  const unlevel = ({ feet, restPose }: ReturnType<typeof prepareRig>): number =>
    Math.max(
      ...feet.map(({ foot, heel, ball }) => {
        const o = foot * 4;
        const [x, y, z, w] = restPose.rotations.slice(o, o + 4);
        const up = (v: Float64Array): number => 2 * (x * y + w * z) * v[0] + (1 - 2 * (x * x + z * z)) * v[1] + 2 * (y * z - w * x) * v[2];
        return Math.abs(up(heel) - up(ball));
      }),
    );

  it('that point down are turned to how both stand in the take', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 14, max: 40 }), (seed, degrees) => {
        const shape = shapeOf(seed);
        const rig = prepareRig(makeFile(shape, { pointedFeet: degrees }, walk(shape, { seed, frames: 240 })));
        expect(isTurned(rig)).withContext(`${seed}, ${degrees}°`).toBeTrue();
        expect(unlevel(rig)).toBeLessThan(0.01);
      }),
      RUNS,
    );
  });

  it('that are drawn as they stand are left', () => {
    fc.assert(
      fc.property(seeds, fc.constantFrom(30, 60, 120), (seed, fps) => {
        const shape = shapeOf(seed);
        expect(isTurned(prepareRig(makeFile(shape, {}, walk(shape, { seed, frames: 4 * fps, fps, roll: 15, noise: 5e-4 }))))).toBeFalse();
      }),
      RUNS,
    );
  });

  it('of which one alone stands otherwise are left: so the performer stood, on its ball or on something', () => {
    fc.assert(
      fc.property(seeds, fc.constantFrom('left', 'right'), fc.integer({ min: 14, max: 40 }), (seed, side, degrees) => {
        const shape = shapeOf(seed);
        const motion = pitched(shape, walk(shape, { seed, frames: 240 }), side, (degrees * Math.PI) / 180);
        expect(isTurned(prepareRig(makeFile(shape, {}, motion))))
          .withContext(`${seed}, ${side}, ${degrees}°`)
          .toBeFalse();
      }),
      RUNS,
    );
  });

  it('that are pitched against each other are left', () => {
    const shape = shapeOf(77);
    const motion = pitched(shape, pitched(shape, walk(shape, { seed: 77, frames: 240 }), 'left', 0.4), 'right', -0.4);
    expect(isTurned(prepareRig(makeFile(shape, {}, motion)))).toBeFalse();
  });
});
