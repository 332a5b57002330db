import { FaultError } from '../errors';
import { labelFile, prepareRig } from '../rig';
import type { MotionFile } from '../formats';
import { commonPrefix, restPose } from '../skeleton';
import { makeFile, NAMELESS, NAMINGS, onFourLegs, randomShape, type Shape, type ShapeOptions, walk } from '../testing';
import { labelSkeleton } from './label';
import { mirrorRole, REQUIRED_ROLES } from './roles';
import { splitName } from './lexicon';

const BODIES: readonly (readonly [string, ShapeOptions])[] = [
  ['plain', { spine: 3, neck: 1, clavicles: true }],
  ['one spine joint, no clavicles, no toes', { spine: 1, neck: 1, clavicles: false, toes: false }],
  ['long spine, fingers, ground joint', { spine: 6, neck: 2, clavicles: true, fingers: 5, ground: true }],
  ['helpers of zero length, bone ends', { spine: 4, neck: 1, clavicles: true, fingers: 3, helpers: true, ends: true }],
];

/** Roles that came out wrong, as "role: joint". */
function wrongRoles(file: MotionFile, shape: Shape, only: (role: string) => boolean): string[] {
  const { roles } = labelFile(file);
  const wrong: string[] = [];
  shape.joints.forEach(({ role }, j) => {
    if (!only(role)) return;
    const found = roles.get(role);
    if (found !== j) wrong.push(`${role}: ${found === undefined ? 'none' : file.skeleton.names[found]}`);
  });
  return wrong;
}

const isRequired = (role: string): boolean => REQUIRED_ROLES.includes(role);
const isLabelled = (role: string): boolean => !/end|palm|hipHelper/.test(role);

describe('labelling by names and structure', () => {
  for (const naming of NAMINGS) {
    it(`gets every role right: ${naming.title}`, () => {
      BODIES.forEach(([title, options], b) => {
        for (let seed = 1; seed <= 4; seed++) {
          const shape = randomShape(seed * 10 + b, options);
          const file = makeFile(shape, { names: naming.name.bind(naming), axes: seed }, walk(shape, { seed, frames: 30 }));
          expect(wrongRoles(file, shape, isLabelled))
            .withContext(`${title}, seed ${seed}`)
            .toEqual([]);
        }
      });
    });
  }

  it('gets required roles right from structure alone in 98 of 100', () => {
    let wrong = 0;
    let all = 0;
    BODIES.forEach(([, options], b) => {
      for (let seed = 1; seed <= 20; seed++) {
        const shape = randomShape(seed * 7 + b, options);
        const file = makeFile(
          shape,
          { names: (role) => `${NAMELESS.name(role)}_${shape.joints.findIndex((j) => j.role === role)}` },
          walk(shape, { seed, frames: 30 }),
        );
        wrong += wrongRoles(file, shape, isRequired).length;
        all += shape.joints.filter(({ role }) => isRequired(role)).length;
      }
    });
    expect(wrong / all).toBeLessThanOrEqual(0.02);
  });

  it('tells left from right by the feet where names do not', () => {
    const shape = randomShape(3, { clavicles: true });
    const file = makeFile(shape, { names: (role) => role.replace(/left|right/, '') + (role.startsWith('left') ? '_a' : '_b') });
    const { roles } = labelSkeleton(file.skeleton, [restPose(file.skeleton).positions]);
    expect(shape.joints[roles.get('left.hand')!].role).toBe('left.hand');
  });

  it('says so where names and feet disagree about the sides', () => {
    const shape = randomShape(3, { clavicles: true });
    const file = makeFile(shape, { names: (role) => plainExchanged(role) });
    expect(
      labelFile(file)
        .warnings.map((w) => w.message)
        .join(),
    ).toContain('exchanged');
  });

  it('names what is missing, and refuses the transfer', () => {
    const shape = randomShape(5, { clavicles: true });
    const keep = shape.joints.map(({ role }) => !/Leg|foot|toes/.test(role));
    const index = shape.joints.map((_, j) => keep.slice(0, j).filter(Boolean).length);
    const legless: Shape = {
      joints: shape.joints.filter((_, j) => keep[j]).map((joint) => ({ ...joint, parent: joint.parent < 0 ? -1 : index[joint.parent] })),
      tips: shape.tips,
    };
    const file = makeFile(legless);
    expect(labelFile(file).missing).toEqual(jasmine.arrayContaining(['left.upperLeg', 'right.foot']));
    expect(() => prepareRig(file)).toThrowMatching((e) => e instanceof FaultError && e.fault.code === 'label/missing');
  });

  it('labels the front legs of a body on four legs as arms', () => {
    for (let seed = 1; seed <= 6; seed++) {
      const shape = onFourLegs(randomShape(seed, { clavicles: true }));
      const file = makeFile(shape, {}, walk(shape, { seed, frames: 30, fours: true }));
      expect(wrongRoles(file, shape, isLabelled))
        .withContext(`seed ${seed}`)
        .toEqual([]);
    }
  });
});

function plainExchanged(role: string): string {
  return mirrorRole(role)
    .split('.')
    .map((w) => w[0].toUpperCase() + w.slice(1))
    .join('');
}

describe('names', () => {
  it('are split at separators, capitals and numbers', () => {
    expect(splitName('LeftUpLeg')).toEqual(['left', 'up', 'leg']);
    expect(splitName('hand_L.003')).toEqual(['hand', 'l', '003']);
    expect(splitName('IKHandle2Foot')).toEqual(['ik', 'handle', '2', 'foot']);
  });

  it('share a prefix only where nearly all have it', () => {
    expect(commonPrefix(['a:hips', 'a:spine', 'a:head'])).toBe('a:');
    expect(commonPrefix(['hips', 'spine', 'head'])).toBe('');
    expect(commonPrefix(['BellHips', 'BellSpine', 'BellHead', 'BellLeftArm'])).toBe('Bell');
  });
});
