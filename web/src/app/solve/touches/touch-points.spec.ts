import { partnersOf, sourcesOf } from './touch-points';

describe('places that a touch is made from', () => {
  it('are both hands, and what can lie on the floor', () => {
    const sources = sourcesOf('spine.3');
    expect(sources.filter(({ hand }) => hand).map(({ role }) => role)).toEqual(['left.hand', 'right.hand']);
    expect(sources.filter(({ of }) => of?.kind === 'body').map(({ name }) => name)).toEqual([
      'left knee on the floor',
      'right knee on the floor',
      'seat on the floor',
      'back on the floor',
      'head on the floor',
    ]);
    expect(sources.find(({ name }) => name.startsWith('back'))!.role).toBe('spine.3');
    // Each either goes on to a partner or is a touch already.
    expect(sources.every(({ hand, of }) => (hand === undefined) !== (of === undefined))).toBeTrue();
  });

  it('have no back on a body without a spine', () => {
    expect(sourcesOf(undefined).some(({ name }) => name.startsWith('back'))).toBeFalse();
  });
});

describe('partners of a hand', () => {
  for (const [side, other] of [
    ['left', 'right'],
    ['right', 'left'],
  ] as const) {
    it(`of the ${side} are never its own arm, and all are touches of that hand`, () => {
      const partners = partnersOf(side, []);
      expect(partners.map(({ name }) => name)).toContain(`${other} forearm`);
      expect(partners.map(({ name }) => name)).not.toContain(`${side} forearm`);
      expect(partners.filter(({ of }) => of?.kind === 'touch' && of.on !== 'hand' && of.side !== side)).toEqual([]);
      // Hands that meet are one lane, whichever was pressed first.
      expect(partners.find(({ name }) => name === `${other} hand`)!.of).toEqual({ kind: 'touch', side: 'left', on: 'hand' });
      expect(new Set(partners.map(({ name }) => name)).size).toBe(partners.length);
    });
  }

  it('are the things too that this character has a joint for', () => {
    const props = [
      { role: 'extra.crate.1', joint: 12 },
      { role: 'extra.rope.1', joint: undefined },
    ] as never;
    const things = partnersOf('left', props).filter(({ of }) => of?.kind === 'touch' && of.on === 'prop');
    expect(things.map(({ joint, role }) => [joint, role])).toEqual([[12, 'extra.crate.1']]);
    expect(things[0].name).toContain('crate');
  });
});
