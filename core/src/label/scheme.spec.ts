import * as fc from 'fast-check';
import { labelFile, prepareRig } from '../rig';
import { type FaultError } from '../errors';
import { DEFAULT_SKELETON } from '../recipe';
import { printOf, samePrint } from '../skeleton';
import { makeFile, NAMINGS, randomShape, scaled, walk } from '../testing';
import { assignRoles, fitScheme, namesOfRoles, parseScheme, schemeOf } from '.';

const shape = randomShape(41, { clavicles: true, spine: 3, neck: 1, fingers: 3, ends: true });

describe('naming schemes', () => {
  it('label another skeleton of their kind whole, whatever its prefix, proportions and axes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: NAMINGS.length - 1 }), fc.integer({ min: 1, max: 1e6 }), (i, seed) => {
        const { name } = NAMINGS[i];
        const first = makeFile(shape, { names: name });
        const scheme = schemeOf('kept', first.skeleton, labelFile(first).roles);
        const other = makeFile(randomShape(seed, { clavicles: true, spine: 3, neck: 1, fingers: 3, ends: true }), {
          names: (role) => `troupe${seed}:${name(role)}`,
          axes: seed,
        });
        const fit = fitScheme(scheme, other.skeleton);
        expect(fit.score).toBe(1);
        expect(fit.misses).toEqual([]);
        expect([...fit.roles].sort()).toEqual([...labelFile(first).roles].sort());
      }),
      { numRuns: 20, seed: 8 },
    );
  });

  it('apply what fits and list what does not', () => {
    const whole = makeFile(shape);
    const scheme = schemeOf('whole', whole.skeleton, labelFile(whole).roles);
    const fewer = makeFile(randomShape(42, { clavicles: true, spine: 2, neck: 1, fingers: 0 }));
    const fit = fitScheme(scheme, fewer.skeleton);
    expect(fit.misses).toContain('left.thumb.1');
    expect(fit.misses).toContain('spine.3');
    expect(fit.roles.has('left.hand')).toBeTrue();
    expect(fit.score).toBeGreaterThan(0.7);
    expect(fit.score).toBeLessThan(1);
  });

  it('go out to text and come back, and say what is wrong with text that is none', () => {
    const file = makeFile(shape);
    const scheme = schemeOf('kept', file.skeleton, labelFile(file).roles);
    expect(parseScheme(JSON.stringify(scheme))).toEqual(scheme);
    const message = (text: string): string => {
      try {
        parseScheme(text, 'a.json');
        return 'none';
      } catch (error) {
        return (error as FaultError).message;
      }
    };
    expect(message('{')).toContain('not valid JSON');
    expect(message(JSON.stringify({ ...scheme, version: 2 }))).toContain('version must be 1');
    expect(message(JSON.stringify({ ...scheme, roles: { hips: 3 } }))).toContain('roles.hips');
    expect(message(JSON.stringify({ ...scheme, roles: {} }))).toContain('holds no role');
    expect(message('null')).toContain('a.json');
  });
});

describe('labels by hand', () => {
  it('hold in place of the automatic ones, and name each joint that is not there', () => {
    const file = makeFile(shape, { names: (role) => `x:${role}` });
    const names = namesOfRoles(file.skeleton, labelFile(file).roles);
    expect(names['left.hand']).toBe('left.hand');
    const changed = { ...names, 'spine.1': 'spine.2', 'left.toes': 'nothing' };
    const body = prepareRig(file, 0, { ...DEFAULT_SKELETON, labels: changed });
    expect(file.skeleton.names[body.roles.get('spine.1')!]).toBe('x:spine.2');
    expect(body.roles.has('left.toes')).toBeFalse();
    expect(body.warnings.map(({ code, where }) => [code, where.joint])).toContain(['label/unknown-joint', 'nothing']);
    expect(assignRoles(file.skeleton, { hips: 'hips' }, 'label').missing).toContain('left.hand');
  });
});

describe('the print of a skeleton', () => {
  it('is the same for takes of one performer, prefix apart, and for no other', () => {
    const print = (style: Parameters<typeof makeFile>[1], own = shape) => printOf(makeFile(own, style, walk(own, { frames: 4 })).skeleton);
    const first = print({ names: (role) => `a:${role}` });
    expect(samePrint(first, print({ names: (role) => `other_${role}`, axes: 4, rest: { seed: 2, degrees: 30 } }))).toBeTrue();
    expect(samePrint(first, print({ names: (role) => `a:${role}` }, scaled(shape, 1.005)))).toBeTrue();
    expect(samePrint(first, print({ names: (role) => `a:${role}` }, scaled(shape, 1.05)))).toBeFalse();
    expect(samePrint(first, print({ names: (role) => `a:${role}x` }))).toBeFalse();
  });
});
