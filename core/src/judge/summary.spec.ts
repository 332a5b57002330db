import type { Figure, Verdict } from './figure';
import { FIGURE_IDS, LIMITS } from './limits';
import { limitFault, limitText } from './marks';
import { summaryOf, valueText, verdictOf, withLimits, worstFirst } from './summary';

const figure = (id: Figure['id'], value: number, mark: Figure['mark'], unit = ''): Figure => ({
  id,
  name: id,
  unit,
  value,
  performer: undefined,
  mark,
  limit: { good: 5, fault: 25 },
  looked: 'all',
  words: 'at 2.1 s, left heel',
  frame: undefined,
});

const verdict: Verdict = { frames: 150, frameTime: 1 / 60, figures: [], rests: [], skin: { points: 0, edges: 0 } as never };

describe('a verdict in short', () => {
  it('shows values in the places of their kind, with their unit, and no minus before nothing', () => {
    expect(valueText(figure('held.feet', 98.44, 'good', '%'))).toBe('98.4 %');
    expect(valueText(figure('flips', 0, 'good'))).toBe('0');
    expect(valueText(figure('slide', -0.0001, 'good', 'mm/s'))).toBe('0.0 mm/s');
    expect(valueText(figure('pull', NaN, 'unseen', '%'))).toBe('–');
  });

  it('puts faults first, then what to look at, what is good, and last what was not seen, each in the order of the judge', () => {
    const figures = [
      figure('held.feet', 99, 'good'),
      figure('slide', 8, 'caution'),
      figure('sink', 50, 'fault'),
      figure('pull', NaN, 'unseen'),
      figure('float', 9, 'caution'),
      figure('flips', 3, 'fault'),
    ];
    expect(worstFirst(figures).map(({ id }) => id)).toEqual(['sink', 'flips', 'slide', 'float', 'held.feet', 'pull']);
    expect(figures[0].id).toBe('held.feet');
  });

  it('keeps counts, every value, and the worst in words; nothing to say where all is well', () => {
    const good = summaryOf({ ...verdict, figures: [figure('held.feet', 99, 'good'), figure('pull', NaN, 'unseen')] });
    expect(good).toEqual({
      frames: verdict.frames,
      good: 1,
      cautions: 0,
      faults: 0,
      unseen: 1,
      worst: '',
      figures: { 'held.feet': 99, pull: null },
      marks: { 'held.feet': 'good', pull: 'unseen' },
      frameOf: {},
    });
    const bad = summaryOf({ ...verdict, figures: [figure('slide', 8, 'caution', 'mm/s'), figure('sink', 50, 'fault', 'mm')] });
    expect([bad.faults, bad.cautions, bad.worst]).toEqual([1, 1, 'sink 50.0 mm: at 2.1 s, left heel']);
  });

  it('is short enough to be kept, whatever the words', () => {
    const long = { ...figure('sink', 50, 'fault', 'mm'), words: 'x'.repeat(4000) };
    expect(summaryOf({ ...verdict, figures: [long] }).worst.length).toBeLessThanOrEqual(600);
  });

  it('is marked anew by the limits of a production, which must not contradict each other', () => {
    const figures = [figure('slide', 8, 'caution'), figure('held.feet', 99, 'good'), figure('sink', NaN, 'unseen')];
    const marked = withLimits(figures, { slide: { good: 10, fault: 20 }, 'held.feet': { good: 99.5, fault: 99.2 } });
    expect(marked.map(({ mark }) => mark)).toEqual(['good', 'fault', 'unseen']);
    expect(marked[0].limit).toEqual({ good: 10, fault: 20 });
    expect([verdictOf(marked), verdictOf(figures), verdictOf([figures[2]])]).toEqual(['fault', 'caution', 'unseen']);
    for (const id of FIGURE_IDS) {
      const { good, fault } = LIMITS[id];
      expect(limitFault(id, { good, fault })).withContext(id).toBeUndefined();
      expect(limitFault(id, { good: fault, fault: good }))
        .withContext(id)
        .toContain('must not be');
      expect(limitFault(id, { good: NaN, fault })).toContain('numbers');
    }
    expect(limitText('held.feet', { good: 97, fault: 90 })).toBe('good from 97, fault below 90 %');
    expect(limitText('slide', { good: 35.204, fault: 55 })).toBe('good up to 35.2, fault from 55 mm/s');
  });
});
