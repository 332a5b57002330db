import * as fc from 'fast-check';
import { FaultError } from '../errors';
import { parseScheme, SCHEME_FORMAT, SCHEME_VERSION } from '../label';
import {
  DEFAULT_DECISIONS,
  DEFAULT_PAIRING,
  DEFAULT_SKELETON,
  DEFAULT_TAKE,
  type PairingSettings,
  type SkeletonChoices,
  type TakeChoices,
} from './choices';
import { DEFAULT_BY_JOINT, PAIR_WAYS } from './byJoint';
import { DEFAULT_FACE_ROW, DEFAULT_NAME_TABLE } from './face';
import { makeLayer } from './layers';
import { parseRecipe, RECIPE_FORMAT, RECIPE_VERSION, writeRecipe, type Recipe } from './recipe';

const role = fc.constantFrom('hips', 'spine.2', 'left.upperArm', 'right.hand', 'left.index.1', 'extra.tail.3');
const degrees = fc.double({ min: -180, max: 180, noNaN: true });
const turns = fc.dictionary(role, fc.tuple(degrees, degrees, degrees));
const number = fc.double({ min: 0.05, max: 20, noNaN: true });

const pairing: fc.Arbitrary<PairingSettings> = fc.record({
  stride: fc.oneof(fc.constantFrom('legs' as const, 'marks' as const), number),
  lift: fc.oneof(fc.constant('hips' as const), number),
  clavicles: fc.constantFrom('keep' as const, 'match' as const, 0.4),
  palms: fc.constantFrom(0, 0.5, 1),
  thumbs: fc.constantFrom(0, 0.5, 1),
  head: fc.constantFrom('keep' as const, 'match' as const),
  turns,
  links: fc.dictionary(role, fc.option(fc.record({ a: role, b: role, t: fc.double({ min: 0, max: 1, noNaN: true }) }))),
  extras: fc.dictionary(fc.constantFrom('tail', 'left wing'), fc.option(fc.constantFrom('tail', 'cloak'))),
  props: fc.option(fc.constantFrom(0.5, 1, 2)),
  byJoint: fc.option(
    fc
      .record({ by: fc.constantFrom(...PAIR_WAYS), branch: fc.option(fc.constantFrom('Jib', 'Hook')), heading: fc.option(degrees) })
      .map((some) => ({ ...DEFAULT_BY_JOINT, ...some })),
  ),
  face: fc.option(
    fc
      .record({ exchange: fc.boolean(), strength: fc.double({ min: -10, max: 10, noNaN: true }) })
      .map(({ exchange, strength }) => ({ ...DEFAULT_NAME_TABLE, exchange, rows: { mouthOpen: { ...DEFAULT_FACE_ROW, strength } } })),
  ),
});
const skeleton: fc.Arbitrary<SkeletonChoices> = fc.record({
  unit: fc.option(fc.double({ min: 1e-5, max: 1e4, noNaN: true })),
  up: fc.option(fc.constantFrom('+X', '-Z', '+Y')),
  facing: fc.option(fc.double({ min: -360, max: 360, noNaN: true })),
  labels: fc.option(fc.dictionary(role, fc.string({ maxLength: 40 }))),
  rest: fc.constantFrom('auto' as const, 'file' as const, {
    name: 'calm',
    rotations: { Hips: [0, 0, 0, 1] as [number, number, number, number] },
  }),
  turns,
  reference: fc.constant(null),
});
const seconds = fc.double({ min: 0, max: 60, noNaN: true });
const take: fc.Arbitrary<TakeChoices> = fc.record({
  from: fc.constant(null),
  to: fc.option(seconds),
  floor: fc.constant(DEFAULT_TAKE.floor),
  clean: fc.constant(DEFAULT_TAKE.clean),
  rate: fc.option(fc.constantFrom(50, 120)),
  fps: fc.option(fc.constantFrom(24, 30)),
  plants: fc.array(
    fc.tuple(seconds, seconds).map(([a, b]) => ({
      kind: 'add' as const,
      side: 'left' as const,
      part: 'ball' as const,
      from: Math.min(a, b),
      to: Math.max(a, b),
      height: a < b ? null : 0.2,
    })),
    { maxLength: 3 },
  ),
  touches: fc.array(
    seconds.map((from) => ({ kind: 'remove' as const, on: 'rest' as const, side: 'right' as const, from, to: from + 1 })),
    { maxLength: 3 },
  ),
});
const share = fc.double({ min: 0, max: 1, noNaN: true });
const recipe: fc.Arbitrary<Recipe> = fc.record({
  format: fc.constant(RECIPE_FORMAT),
  version: fc.constant(RECIPE_VERSION),
  name: fc.constantFrom('to the Heron', 'ü ✓'),
  performer: skeleton,
  character: skeleton,
  take,
  pairing,
  touchUps: fc.array(
    fc.record({
      kind: fc.constantFrom('shoulders' as const, 'lean' as const, 'hips' as const),
      side: fc.constantFrom('both' as const, 'left' as const),
      role: fc.constant(null),
      axis: fc.constantFrom('left' as const, 'ahead' as const),
      value: fc.double({ min: -40, max: 40, noNaN: true }),
      keys: fc.array(fc.record({ at: seconds, value: fc.double({ min: -40, max: 40, noNaN: true }) }), { maxLength: 3 }),
      ease: fc.constantFrom('smooth' as const, 'step' as const),
      strength: fc.double({ min: 0, max: 1, noNaN: true }),
      on: fc.boolean(),
      mask: fc.option(seconds.map((from) => ({ from, to: from + 1, fade: 0.2 }))),
    }),
    { maxLength: 3 },
  ),
  layers: fc.array(
    fc
      .record({
        kind: fc.constantFrom('calm' as const, 'spikes' as const, 'mirror' as const),
        strength: share,
        from: fc.double({ min: 0, max: 50, noNaN: true }),
        alone: fc.boolean(),
      })
      .map(({ kind, from, ...rest }) => makeLayer({ name: `${kind} ✓`, does: { kind }, mask: { from, to: from + 1, fade: 0.1 }, ...rest })),
    { maxLength: 3 },
  ),
  delivery: fc.record({
    format: fc.constantFrom(null, 'bvh' as const),
    title: fc.constantFrom(null, 'ü ✓'),
    bare: fc.boolean(),
    tolerance: fc.option(fc.double({ min: 0.01, max: 100, noNaN: true })),
    loop: fc.double({ min: 0, max: 5, noNaN: true }),
    unlabelled: fc.boolean(),
    unit: fc.constantFrom(null, 0.01, 1),
    up: fc.constantFrom(null, '+Z' as const),
  }),
  solve: fc.record({
    plain: fc.boolean(),
    floor: fc.constantFrom('take' as const, 'zero' as const),
    inPlace: fc.boolean(),
    hands: fc.double({ min: 0, max: 1, noNaN: true }),
    keepOut: fc.boolean(),
    apart: fc.boolean(),
    balance: share,
    follow: fc.record({ leftArm: share, rightArm: share, leftLeg: share, rightLeg: share }),
    clavicleHelp: share,
    spineHelp: share,
    stretch: fc.double({ min: 0, max: 0.3, noNaN: true }),
    softReach: fc.double({ min: 0.9, max: 1, noNaN: true }),
    tails: share,
    fps: fc.option(fc.integer({ min: 1, max: 480 })),
  }),
});

/** Only a fault that can be shown may come of a bad file. */
function isRefused(read: () => unknown): boolean {
  try {
    read();
    return false;
  } catch (error) {
    if (!(error instanceof FaultError)) throw error;
    return error.fault.message.length > 10 && error.fault.where.file === 'x.json';
  }
}

describe('recipes and schemes from anywhere', () => {
  it('come back from text as they went out, whatever was decided', () => {
    fc.assert(
      fc.property(recipe, (of) => {
        // Zero has one sign in JSON.
        expect(parseRecipe(writeRecipe(of))).toEqual(JSON.parse(JSON.stringify(of)) as Recipe);
      }),
      { numRuns: 200, seed: 12 },
    );
  });

  it('have their defaults where parts are left out', () => {
    const least = parseRecipe(JSON.stringify({ format: RECIPE_FORMAT, version: RECIPE_VERSION, name: 'least' }));
    expect(least).toEqual(
      jasmine.objectContaining({
        performer: DEFAULT_SKELETON,
        character: DEFAULT_SKELETON,
        pairing: DEFAULT_PAIRING,
        solve: DEFAULT_DECISIONS,
      }),
    );
  });

  it('are refused with a word and a place when they are anything else', () => {
    fc.assert(
      fc.property(fc.oneof(fc.json(), fc.string()), (text) => {
        expect(isRefused(() => parseRecipe(text, 'x.json'))).toBeTrue();
        expect(isRefused(() => parseScheme(text, 'x.json'))).toBeTrue();
      }),
      { numRuns: 300, seed: 13 },
    );
  });

  it('are refused when one value in them is broken', () => {
    const broken = [null, 'much', NaN, 1e300, [], {}, -1];
    fc.assert(
      fc.property(
        recipe,
        fc.constantFrom('stride', 'lift', 'clavicles', 'turns', 'links'),
        fc.constantFrom(...broken),
        (of, part, value) => {
          // Nothing turned and nothing linked may be said in either bracket.
          const isStillFine = (part === 'turns' || part === 'links') && ['{}', '[]'].includes(JSON.stringify(value));
          const text = JSON.stringify({ ...of, pairing: { ...of.pairing, [part]: value } });
          if (!isStillFine)
            expect(isRefused(() => parseRecipe(text, 'x.json')))
              .withContext(`${part}: ${String(value)}`)
              .toBeTrue();
        },
      ),
      { numRuns: 150, seed: 14 },
    );
    const scheme = { format: SCHEME_FORMAT, version: SCHEME_VERSION, name: 'suit', roles: { hips: 'Hips' } };
    for (const change of [{ version: 2 }, { name: '' }, { roles: { 'hips;': 'a' } }, { roles: { hips: 3 } }, { format: 'other' }]) {
      expect(isRefused(() => parseScheme(JSON.stringify({ ...scheme, ...change }), 'x.json')))
        .withContext(JSON.stringify(change))
        .toBeTrue();
    }
  });
});
