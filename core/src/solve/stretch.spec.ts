import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { DEFAULT_PAIRING } from '../recipe';
import { prepareRig } from '../rig';
import { figureOf, makeFile, performerOf, randomShape, walk } from '../testing';
import { DEFAULT_SOLVE, solve, type SolveSettings, type Transfer } from '.';

/** A character that is carried too high for its legs. */
function short(seed: number) {
  const shape = randomShape(seed, { clavicles: true });
  const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 150, fps: 60 }));
  const own = randomShape(seed + 30, { clavicles: true });
  const joints = own.joints.map((joint) =>
    /lowerLeg|foot/.test(joint.role) ? { ...joint, offset: joint.offset.map((v) => v * 0.72) as [number, number, number] } : joint,
  );
  const character = prepareRig(makeFile({ ...own, joints }, { places: true }));
  // Hips carried higher than the legs are long.
  const lift = 1.1 * makePairing(rig, character).scale.lift;
  const pairing = makePairing(rig, character, { ...DEFAULT_PAIRING, lift });
  return (settings: Partial<SolveSettings>): Transfer => solve(pairing, clip, { ...DEFAULT_SOLVE, ...settings });
}

/** The longest that thigh and shin are, over their lengths at rest. */
function longest({ pairing: { character }, clip }: Transfer): number {
  const reader = new ClipReader(character.skeleton, clip);
  let most = 0;
  for (const side of ['left', 'right']) {
    for (const part of ['lowerLeg', 'foot', 'lowerArm', 'hand']) {
      const joint = character.roles.get(`${side}.${part}`)!;
      const parent = character.skeleton.parents[joint];
      const rest = Math.hypot(...character.skeleton.restT.slice(joint * 3, joint * 3 + 3));
      for (let f = 0; f < clip.frames; f++) {
        const { positions: p } = reader.at(f);
        most = Math.max(most, Math.hypot(...[0, 1, 2].map((c) => p[joint * 3 + c] - p[parent * 3 + c])) / rest);
      }
    }
  }
  return most;
}

/** The lowest that the hips go. */
function lowest({ pairing: { character }, clip }: Transfer): number {
  const reader = new ClipReader(character.skeleton, clip);
  const hips = character.roles.get('left.upperLeg')! * 3 + 1;
  return Math.min(...Array.from({ length: clip.frames }, (_, f) => reader.at(f).positions[hips]));
}

describe('limbs that may be drawn out', () => {
  for (const seed of [5, 6]) {
    const run = short(seed);
    it(`keep their length unless it is asked for, and never go beyond what is (body ${seed})`, () => {
      expect(longest(run({}))).toBeLessThan(1 + 1e-5);
      const some = longest(run({ stretch: 0.03 }));
      const more = longest(run({ stretch: 0.08 }));
      expect(some).toBeGreaterThan(1.002);
      expect(some).toBeLessThan(1.03 + 1e-4);
      expect(more).toBeGreaterThan(some);
      expect(more).toBeLessThan(1.08 + 1e-4);
    });

    it(`spare the hips, hold the feet, and part nothing beyond what was allowed (body ${seed})`, () => {
      const [none, some] = [run({}), run({ stretch: 0.1 })];
      expect(lowest(some)).toBeGreaterThan(lowest(none) + 0.005);
      expect(figureOf(some, 'held.feet')).toBeGreaterThan(figureOf(none, 'held.feet') - 5);
      expect(figureOf(some, 'parting')).toBeLessThan(0.1);
      // The same motion, judged as if nothing had been allowed, is caught.
      expect(figureOf({ ...some, settings: { ...some.settings, stretch: 0 } }, 'parting')).toBeGreaterThan(5);
    });
  }
});
