import { prepareRig } from '../rig';
import { DEFAULT_PAIRING } from '../recipe';
import { makeFile, randomShape } from '../testing';
import { laddersOf, makePairing, rungAt } from '.';

describe('limb ladders', () => {
  const performer = prepareRig(makeFile(randomShape(3, { spine: 3, clavicles: true })));
  const character = prepareRig(makeFile(randomShape(9, { spine: 5, clavicles: true })));

  it('join joints of unlike counts at like shares of the way', () => {
    const ladders = laddersOf(makePairing(performer, character), {});
    const trunk = ladders.find(({ chain }) => chain === 'trunk')!;
    expect([trunk.performer.length, trunk.character.length]).toEqual([4, 6]);
    expect(trunk.rungs.map(({ role }) => role)).toEqual(trunk.character.map(({ role }) => role));
    for (let i = 1; i < trunk.rungs.length; i++) expect(trunk.rungs[i].place).toBeGreaterThanOrEqual(trunk.rungs[i - 1].place);
    for (const rung of trunk.rungs.slice(1)) {
      expect(Math.abs(rung.place - trunk.character.find(({ role }) => role === rung.role)!.place)).toBeLessThan(0.25);
    }
  });

  it('follow rungs set by hand, and call cut ones loose', () => {
    const links = { 'left.lowerArm': null, 'spine.5': { a: 'spine.1', b: 'spine.2', t: 0.5 } };
    const ladders = laddersOf(makePairing(performer, character, { ...DEFAULT_PAIRING, links }), links);
    const arm = ladders.find(({ chain }) => chain === 'left.arm')!;
    expect(arm.loose).toEqual(['left.lowerArm']);
    const set = ladders.find(({ chain }) => chain === 'trunk')!.rungs.find(({ role }) => role === 'spine.5')!;
    expect([set.a, set.b, set.t, set.byHand]).toEqual(['spine.1', 'spine.2', 0.5, true]);
  });

  it('read a place on the rail as the joint there, or as the way between two', () => {
    const [trunk] = laddersOf(makePairing(performer, character), {});
    const [, first, second] = trunk.performer;
    expect(rungAt(trunk, first.place + 0.01)).toEqual({ a: first.role, b: first.role, t: 0 });
    const between = rungAt(trunk, (first.place + second.place) / 2)!;
    expect([between.a, between.b]).toEqual([first.role, second.role]);
    expect(between.t).toBeCloseTo(0.5, 9);
    expect(rungAt({ performer: [] }, 0.5)).toBeUndefined();
  });
});
