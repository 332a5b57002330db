import * as fc from 'fast-check';
import { labelFile, samplePoses } from '../rig';
import type { MotionFile } from '../formats';
import { makeFile, randomShape, walk } from '../testing';
import { applyFix, findMistakes, fillChain, mirrorLabels, partnersOfJoints, rolesOfChain, type Mistake, type Role } from '.';

const seeds = fc.integer({ min: 1, max: 1e6 });
const NAMES = (role: string): string => `bell:${role.replace('left.', 'L_').replace('right.', 'R_').replace('.', '')}`;

function body(seed: number, names: (role: string) => string = NAMES): MotionFile {
  const shape = randomShape(seed, { clavicles: true, spine: 3, fingers: 3, ground: true, ends: true });
  return makeFile(shape, { names }, walk(shape, { seed, frames: 20 }));
}

/** The mistakes in a file's labels after some were changed: role → role of the joint that it is put on, or a joint's name. */
function mistakesOf(file: MotionFile, change: Readonly<Record<Role, string>> = {}): Mistake[] {
  const automatic = labelFile(file);
  const roles = new Map(automatic.roles);
  for (const [role, to] of Object.entries(change)) {
    roles.set(role, automatic.roles.get(to) ?? file.skeleton.names.findIndex((name) => name.endsWith(to)));
  }
  return findMistakes(file.skeleton, roles, samplePoses(file), automatic);
}

describe('likely mistakes', () => {
  it('are none in right labels, over random bodies, with names and without', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        for (const names of [NAMES, (role: string) => `j${[...role].reduce((h, c) => (h * 31 + c.charCodeAt(0)) % 99991, 7)}`]) {
          const found = mistakesOf(body(seed, names)).filter(({ kind }) => kind !== 'length');
          expect(found.map(({ why }) => why))
            .withContext(`seed ${seed}`)
            .toEqual([]);
        }
      }),
      { numRuns: 25, seed: 4 },
    );
  });

  it('name sides that were exchanged, by name and by shape, and put them right', () => {
    for (const names of [
      NAMES,
      (role: string) => `j${role.length}${role.charCodeAt(0) % 7}${[...role].reduce((h, c) => (h * 33 + c.charCodeAt(0)) % 9973, 5)}`,
    ]) {
      const file = body(12, names);
      const right = labelFile(file).roles;
      const exchanged = new Map(
        [...right].map(([role, joint]) => [role.replace(/^(left|right)/, (s) => (s === 'left' ? 'right' : 'left')), joint]),
      );
      const [mistake, ...others] = findMistakes(file.skeleton, exchanged, samplePoses(file), undefined).filter(
        ({ kind }) => kind === 'sides',
      );
      expect(mistake?.why).toMatch(/left|faces the other way/);
      expect(others.length).toBe(0);
      let fixed = applyFix(exchanged, mistake.fix!);
      // By name arms and legs are found one after the other.
      const again = findMistakes(file.skeleton, fixed, samplePoses(file), undefined).find(({ kind }) => kind === 'sides');
      if (again) fixed = applyFix(fixed, again.fix!);
      expect([...fixed].sort()).toEqual([...right].sort());
    }
  });

  it('name the ground joint labelled as hips and say which joint is the hips', () => {
    const file = body(7);
    const found = mistakesOf(file, { hips: 'ground', ground: 'none' });
    const mistake = found.find(({ role }) => role === 'hips')!;
    expect([mistake.kind, mistake.instead]).toEqual(['ground', 'give hips to bell:hips and ground to bell:ground']);
  });

  it('name a twist joint labelled as an arm, beside the bone or on it', () => {
    for (const seed of [3, 8]) {
      const shape = randomShape(seed, { clavicles: true, spine: 2 });
      const upper = shape.joints.findIndex(({ role }) => role === 'left.upperArm');
      const twisted = {
        ...shape,
        joints: [...shape.joints, { role: 'left.upperArmTwist', parent: upper, offset: [0.14, 0, 0] as const }],
      };
      const file = makeFile(twisted, { names: NAMES });
      const mistake = mistakesOf(file, { 'left.lowerArm': 'L_upperArmTwist' }).find(({ role }) => role === 'left.lowerArm')!;
      expect(mistake.kind).toBe('twist');
      expect(mistake.instead).toBe('give left.lowerArm to bell:L_lowerArm');
      // Without names it is found out of line.
      const nameless = makeFile(twisted, { names: (role) => `n${twisted.joints.findIndex((j) => j.role === role)}` });
      const wrong = mistakesOf(nameless, { 'left.lowerArm': `n${twisted.joints.length - 1}` });
      expect(wrong.some(({ kind }) => kind === 'order' || kind === 'length')).toBeTrue();
    }
  });

  it('name an end joint as hand, a prop, an arm on a leg, a chain that skips, and a doubled joint', () => {
    const file = body(21);
    const kinds = (change: Readonly<Record<Role, string>>) => mistakesOf(file, change).map(({ kind, role }) => `${kind} ${role}`);
    expect(kinds({ 'left.foot': 'L_toesend' })).toContain('end left.foot');
    expect(kinds({ 'left.upperArm': 'left.upperLeg', 'left.upperLeg': 'left.upperArm' })).toContain('limb left.upperArm');
    expect(kinds({ 'right.hand': 'right.lowerArm' })).toContain('double right.hand');
    const skipped = new Map(labelFile(file).roles);
    skipped.set('spine.2', skipped.get('spine.3')!);
    skipped.delete('spine.3');
    const [skip] = findMistakes(file.skeleton, skipped, samplePoses(file), undefined);
    expect([skip.kind, skip.why]).toEqual(['skip', 'spine.1 to spine.2 skips bell:spine2']);
    expect(applyFix(skipped, skip.fix!).get('spine.3')).toBe(labelFile(file).roles.get('spine.3'));
    const shape = randomShape(21, { clavicles: true, spine: 2 });
    const hand = shape.joints.findIndex(({ role }) => role === 'right.hand');
    const prop = makeFile(
      { ...shape, joints: [...shape.joints, { role: 'lanternProp', parent: hand, offset: [-0.1, 0, 0] as const }] },
      { names: NAMES },
    );
    expect(mistakesOf(prop, { 'right.hand': 'lanternProp' }).map(({ kind, instead }) => [kind, instead])).toContain([
      'prop',
      'give right.hand to bell:R_hand',
    ]);
  });
});

describe('labelling a chain by its ends', () => {
  const file = body(5);
  const { skeleton } = file;
  const right = labelFile(file).roles;
  const joint = (role: Role): number => right.get(role)!;

  it('fills spine, arm, leg and finger from base to tip', () => {
    fc.assert(
      fc.property(fc.constantFrom('spine', 'left.arm', 'right.leg', 'left.index'), (name) => {
        const parts: Record<string, Role[]> = {
          spine: ['spine.1', 'spine.2', 'spine.3'],
          'left.arm': ['left.clavicle', 'left.upperArm', 'left.lowerArm', 'left.hand'],
          'right.leg': ['right.upperLeg', 'right.lowerLeg', 'right.foot', 'right.toes'],
          'left.index': ['left.index.1', 'left.index.2'],
        };
        const wanted = parts[name];
        const empty = new Map([...right].filter(([role]) => !wanted.includes(role)));
        const filled = fillChain(skeleton, empty, name, joint(wanted[0]), joint(wanted[wanted.length - 1]));
        if (typeof filled === 'string') return fail(filled);
        for (const role of wanted) expect(filled.roles.get(role)).withContext(role).toBe(joint(role));
        expect(filled.notes).toEqual([]);
      }),
      { numRuns: 8, seed: 15 },
    );
  });

  it('says at once what is out of order, unconnected, too long or taken over', () => {
    expect(fillChain(skeleton, right, 'left.arm', joint('left.hand'), joint('left.upperArm'))).toContain('out of order');
    expect(fillChain(skeleton, right, 'left.arm', joint('left.upperArm'), joint('right.hand'))).toContain('does not hang below');
    expect(fillChain(skeleton, right, 'left.arm', joint('hips'), joint('left.hand'))).toContain('which is no left arm');
    const taken = fillChain(skeleton, right, 'spine', joint('hips'), joint('spine.3'));
    expect(typeof taken === 'string' ? taken : taken.notes).toEqual(['bell:hips was hips: it is in the chain now']);
    const skipping = fillChain(skeleton, right, 'spine', joint('spine.1'), joint('spine.3'), new Set([joint('spine.2')]));
    expect(typeof skipping === 'string' ? skipping : skipping.joints).toEqual([joint('spine.1'), joint('spine.3')]);
    expect(rolesOfChain('extra.tail', 3)).toEqual(['extra.tail.1', 'extra.tail.2', 'extra.tail.3']);
    expect(rolesOfChain('left.leg', 5)).toContain('left.hock');
  });

  it('exchanges a pair when one side is given the other side’s joint, mirrored', () => {
    const file = makeFile(randomShape(12, { clavicles: true }));
    const { skeleton } = file;
    const { roles } = labelFile(file);
    const [left, right] = ['left.upperLeg', 'right.upperLeg'].map((role) => roles.get(role)!);
    const given = new Map(roles);
    given.delete('right.upperLeg');
    given.set('left.upperLeg', right);
    const both = mirrorLabels(given, ['left.upperLeg', 'right.upperLeg'], partnersOfJoints(skeleton));
    expect([both.get('left.upperLeg'), both.get('right.upperLeg')]).toEqual([right, left]);
    expect(both.size).toBe(roles.size);
  });

  it('does on the right what was done on the left, by names and by shape alone', () => {
    for (const names of [NAMES, (role: string) => `q${[...role].reduce((h, c) => (h * 37 + c.charCodeAt(0)) % 99991, 11)}`]) {
      const own = body(5, names);
      const partner = partnersOfJoints(own.skeleton);
      const all = new Map(own.skeleton.names.map((name, j) => [name, j]));
      for (const [role, at] of right) {
        const expected = right.get(role.replace(/^left/, 'right'))!;
        if (role.startsWith('left.') && !role.includes('.end')) expect(partner[at]).withContext(role).toBe(expected);
      }
      expect(partner[all.get(own.skeleton.names[joint('hips')])!]).toBe(-1);
      const left = new Map([...right].filter(([role]) => !role.startsWith('right.')));
      const both = mirrorLabels(left, [...left.keys()], partner);
      expect([...both].sort()).toEqual([...right].sort());
    }
  });
});
