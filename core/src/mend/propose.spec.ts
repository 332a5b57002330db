import { FIGURE_IDS } from '../judge';
import { proposeLayer } from './propose';

describe('a proposed layer', () => {
  const of = (id: string, words = '', at: number | undefined = 2) => proposeLayer({ id, name: id, words }, at, () => true);

  it('stands at the worst moment, and is soft at its ends', () => {
    const { name, mask } = of('knees');
    expect([name, mask]).toEqual(['knees at 2.0 s', { from: 1.7, to: 2.3, fade: 0.2 }]);
    expect(of('sink', '', 0.1).mask!.from).toBe(0);
    expect(proposeLayer({ id: 'twist', name: 'twist', words: '' }, undefined, () => true).mask).toBeNull();
  });

  it('is about the side that the figure names', () => {
    expect(of('knees', 'left knee at 2.3 s').does).toEqual({ kind: 'calm', parts: ['way', 'left.leg'], seconds: 0.08 });
    const { does } = of('slide', 'the right ball at 1.0 s');
    expect(does.kind === 'reach' && does.tracks.map(({ end }) => end)).toEqual(['right.foot']);
    const both = of('inside', 'a hand').does;
    expect(both.kind === 'reach' && both.tracks.length).toBe(2);
  });

  it('makes a motion that has too much energy smaller, and one that has too little larger', () => {
    const factor = (words: string): number => {
      const { does } = of('energy.upper', words);
      return does.kind === 'amount' ? does.factor : NaN;
    };
    expect(factor('left forearm, slow: 2.25 of the performer’s')).toBeCloseTo(2 / 3, 3);
    expect(factor('left forearm, slow: 0.25 of the performer’s')).toBeCloseTo(2, 3);
    expect(of('energy.upper', 'left forearm, quick: 2.25 of the performer’s').does.kind).toBe('calm');
  });

  it('is there for every figure of the judge, and does nothing of its own but filter', () => {
    for (const id of FIGURE_IDS) {
      const { does } = of(id);
      if (does.kind !== 'turns' && does.kind !== 'reach') continue;
      expect(does.tracks.length).withContext(id).toBeGreaterThan(0);
      expect(does.tracks.every(({ keys }) => keys.every(({ value }) => value.every((x) => x === 0))))
        .withContext(id)
        .toBeTrue();
    }
  });
});
