import { labelFile, prepareRig } from '../rig';
import { makePairing } from '../match';
import { DEFAULT_SOLVE, solve } from '../solve';
import { hoofed, makeFile, onFourLegs, randomShape, Rebuild, walk, type Shape, judged, performerOf } from '../testing';
import { fillChain } from './fillChain';
import { chain } from './roles';

const base = (options = {}): Rebuild =>
  new Rebuild(randomShape(17, { spine: 3, neck: 1, clavicles: true, fingers: 3, ends: true, ...options }));

/** Roles of a shape as found: role → the role that the joint really has. */
function found(shape: Shape, names: (role: string) => string): Map<string, string> {
  const { roles } = labelFile(makeFile(shape, { names }));
  return new Map([...roles].map(([role, joint]) => [role, shape.joints[joint].role]));
}

const plain = (role: string): string => role.replace('left.', 'L_').replace('right.', 'R_').replace('.', '_');

describe('labelling odd bodies', () => {
  it('finds hips above legs that hang on a helper of the spine', () => {
    const shape = base()
      .add('pelvisHelper', 'hips', [0, 0, 0])
      .move('left.upperLeg', 'pelvisHelper')
      .move('right.upperLeg', 'pelvisHelper')
      .shape();
    const roles = found(shape, plain);
    expect(roles.get('hips')).toBe('hips');
    expect(roles.get('left.upperLeg')).toBe('left.upperLeg');
    expect(roles.get('spine.1')).toBe('spine.1');
  });

  it('takes a named joint on the way of a limb for a twist joint and not for the limb', () => {
    const shape = base()
      .divide('left.lowerArm', 'left.upperArmTwist', 0.5)
      .divide('right.lowerArm', 'right.upperArmTwist', 0.5)
      .add('left.lowerArmTwist', 'left.lowerArm', [0.1, 0, 0])
      .add('right.lowerArmTwist', 'right.lowerArm', [-0.1, 0, 0])
      .shape();
    const roles = found(shape, plain);
    expect(roles.get('left.upperArm')).toBe('left.upperArm');
    expect(roles.get('left.lowerArm')).toBe('left.lowerArm');
    expect(roles.get('left.upperArm.twist.1')).toBe('left.upperArmTwist');
    expect(roles.get('right.lowerArm.twist.1')).toBe('right.lowerArmTwist');
  });

  it('is not led astray by a prop in the hand, longer than the arm', () => {
    const shape = base().add('left.lantern', 'left.hand', [0.05, 0, 0]).add('left.lanternTop', 'left.lantern', [0, 1.1, 0]).shape();
    const roles = found(shape, plain);
    for (const part of ['upperArm', 'lowerArm', 'hand', 'index.1', 'thumb.1'])
      expect(roles.get(`left.${part}`))
        .withContext(part)
        .toBe(`left.${part}`);
  });

  it('tells the head from its face, and the body from a tail and a cloak', () => {
    const rebuilt = base()
      .add('left.eye', 'head', [0.03, 0.06, 0.09])
      .add('right.eye', 'head', [-0.03, 0.06, 0.09])
      .add('jaw', 'head', [0, 0.01, 0.06]);
    rebuilt.add('tail.1', 'hips', [0, 0, -0.1]);
    for (let i = 2; i <= 5; i++) rebuilt.add(`tail.${i}`, `tail.${i - 1}`, [0, -0.02, -0.12]);
    rebuilt.add('left.cloak.1', 'spine.3', [0.12, 0.1, -0.1]).add('left.cloak.2', 'left.cloak.1', [0, -0.4, -0.05]);
    rebuilt.add('right.cloak.1', 'spine.3', [-0.12, 0.1, -0.1]).add('right.cloak.2', 'right.cloak.1', [0, -0.4, -0.05]);
    const roles = found(rebuilt.shape(), plain);
    expect(roles.get('head')).toBe('head');
    expect(roles.get('neck.1')).toBe('neck.1');
    for (const part of ['upperArm', 'hand', 'upperLeg', 'foot']) expect(roles.get(`right.${part}`)).toBe(`right.${part}`);
  });

  it('finds a ground joint by its place where its name says nothing', () => {
    const shape = randomShape(18, { ground: true, spine: 2, clavicles: true });
    const names = (role: string): string => (role === 'ground' ? 'b0' : plain(role));
    expect(found(shape, names).get('ground')).toBe('ground');
    expect(found(shape, names).get('hips')).toBe('hips');
  });

  it('keeps arms that hang on the neck, and says nothing of a neck that is not there', () => {
    const shape = base({ neck: 1 })
      .move('left.clavicle', 'neck.1', [0.03, 0.01, 0])
      .move('right.clavicle', 'neck.1', [-0.03, 0.01, 0])
      .shape();
    const roles = found(shape, plain);
    expect(roles.get('left.upperArm')).toBe('left.upperArm');
    expect(roles.get('head')).toBe('head');
    expect(roles.get('neck.1')).toBe('neck.1');
  });

  it('numbers long chains from the hips outwards', () => {
    const shape = randomShape(19, { spine: 8, neck: 2, clavicles: true });
    const file = makeFile(shape, {}, walk(shape, { frames: 20 }));
    const { roles } = labelFile(file);
    expect(chain(roles, 'spine').map((j) => shape.joints[j].role)).toEqual(Array.from({ length: 8 }, (_, i) => `spine.${i + 1}`));
    expect(chain(roles, 'neck').map((j) => shape.joints[j].role)).toEqual(['neck.1', 'neck.2']);
  });

  it('orders unnamed fingers across the palm, the thumb apart', () => {
    const shape = randomShape(20, { fingers: 5, clavicles: true });
    const roles = found(shape, (role) =>
      /thumb|index|middle|ring|little/.test(role) ? `f${shape.joints.findIndex((j) => j.role === role)}` : plain(role),
    );
    for (const finger of ['thumb', 'index', 'middle', 'ring', 'little']) {
      for (const side of ['left', 'right'])
        expect(roles.get(`${side}.${finger}.1`))
          .withContext(finger)
          .toBe(`${side}.${finger}.1`);
    }
  });

  it('tells a fetlock by its name, and takes six joints of a leg for one with hock and fetlock', () => {
    const shape = hoofed(randomShape(17, { clavicles: true }), 4);
    for (const word of ['fetlock', 'pastern', 'Fesselgelenk', 'paturon']) {
      const roles = found(shape, (role) => plain(role.replace('fetlock', word)));
      for (const part of ['upperLeg', 'lowerLeg', 'hock', 'fetlock', 'foot', 'toes'])
        expect(roles.get(`right.${part}`))
          .withContext(`${part} by ${word}`)
          .toBe(`right.${part}`);
    }
    const { skeleton } = makeFile(shape, { names: plain });
    const joint = (role: string): number => shape.joints.findIndex((one) => one.role === role);
    const filled = fillChain(skeleton, new Map(), 'left.leg', joint('left.upperLeg'), joint('left.toes'));
    expect(typeof filled === 'string' ? filled : [...filled.roles.keys()].at(3)).toBe('left.fetlock');
  });

  it('carries a walk on four legs to another such body, all four feet planted', () => {
    for (const [mine, theirs] of [
      [1, 1],
      [6, 46],
      [10, 50],
    ]) {
      const shape = onFourLegs(randomShape(mine, { clavicles: true }));
      const { rig, clip } = performerOf(shape, walk(shape, { seed: mine, frames: 240, fours: true }));
      const body = prepareRig(makeFile(onFourLegs(randomShape(theirs, { clavicles: true }))));
      const verdict = judged(solve(makePairing(rig, body), clip, DEFAULT_SOLVE));
      const context = `${mine} onto ${theirs}`;
      expect(verdict.figures.filter(({ mark }) => mark === 'fault').map(({ words }) => words))
        .withContext(context)
        .toEqual([]);
      const rests = (id: string): number => parseFloat(verdict.figures.find((figure) => figure.id === id)!.looked);
      expect(rests('held.hands')).withContext(context).toBeGreaterThan(8);
      expect(rests('held.feet')).withContext(context).toBeGreaterThan(8);
    }
  });
});
