import type { RunItemJson, SummaryJson } from '@hollow-stride/contract';
import type { FigureId, Mark } from '@hollow-stride/core';
import { gridOf, markIn, NO_FILTER, severity, worstFrameOf } from './grid';

let next = 0;
function item(
  take: string,
  character: string,
  figures: Partial<Record<FigureId, [value: number, mark: Mark, frame?: number]>>,
  change: Partial<RunItemJson> = {},
): RunItemJson {
  const list = Object.entries(figures);
  const summary: SummaryJson = {
    frames: 100,
    good: 1,
    cautions: 0,
    faults: 0,
    unseen: 0,
    worst: 'knees 2.6 ×',
    figures: Object.fromEntries(list.map(([id, [value]]) => [id, value])),
    marks: Object.fromEntries(list.map(([id, [, mark]]) => [id, mark])),
    frameOf: Object.fromEntries(list.flatMap(([id, [, , frame]]) => (frame === undefined ? [] : [[id, frame]]))),
  };
  return {
    id: `i${next++}`,
    version: 1,
    run: 'r',
    take,
    character,
    lane: null,
    takeName: take,
    characterName: character,
    tags: take === 'jog' ? ['run'] : ['walk'],
    state: 'done',
    fault: null,
    summary,
    fileName: 'f',
    format: 'glb',
    bytes: 1,
    reduced: null,
    seconds: 1,
    review: 'none',
    note: '',
    ...change,
  };
}

describe('the grid of a run', () => {
  const good = item('walk', 'heron', { slide: [2, 'good', 4] });
  const doubtful = item('walk', 'king', { slide: [12, 'caution', 7], knees: [1.4, 'caution', 50] });
  const bad = item('jog', 'king', { knees: [2.6, 'fault', 33], slide: [30, 'fault', 9] });
  const open = item('jog', 'heron', {}, { state: 'waiting', summary: null });
  const items = [good, doubtful, bad, open];

  it('has a row for each lane of a reel, though lanes play the same take', () => {
    const lanes = [0, 1].map((index) => item('walk', 'heron', {}, { lane: { reel: 'night', index }, takeName: `night: lane ${index}` }));
    const { rows } = gridOf([good, ...lanes], {}, NO_FILTER);
    expect(rows.map(({ name }) => name)).toEqual(['night: lane 0', 'night: lane 1', 'walk']);
    // Beside another run a lane stands by the same lane, and not by the take.
    const beside = [{ ...lanes[1], summary: bad.summary }];
    const compared = gridOf([good, ...lanes], {}, NO_FILTER, beside).rows.map(({ cells }) => cells[0]?.better);
    expect(compared.map((better) => better !== undefined)).toEqual([false, true, false]);
  });

  it('has the worst take and character first, and says what each cell is', () => {
    const grid = gridOf(items, {}, NO_FILTER);
    expect(grid.rows.map(({ name }) => name)).toEqual(['jog', 'walk']);
    expect(grid.characters.map(({ name }) => name)).toEqual(['king', 'heron']);
    expect(grid.rows.map(({ cells }) => cells.map((cell) => cell?.verdict))).toEqual([
      ['fault', undefined],
      ['caution', 'good'],
    ]);
    expect(grid.rows[0].cells[1]!.words).toBe('waiting');
    expect([grid.shown, grid.all]).toEqual([4, 4]);
  });

  it('is filtered by verdict, figure, tag, character and review', () => {
    const names = (filter: object): string[] =>
      gridOf(items, {}, { ...NO_FILTER, ...filter }).rows.flatMap(({ cells }) => cells.flatMap((cell) => (cell ? [cell.item.id] : [])));
    expect(names({ verdict: 'fault' })).toEqual([bad.id]);
    expect(names({ figure: 'knees' }).sort()).toEqual([doubtful.id, bad.id].sort());
    expect(names({ tag: 'run', character: 'king' })).toEqual([bad.id]);
    expect(names({ verdict: 'accepted' })).toEqual([]);
    expect(gridOf([{ ...good, review: 'accepted' }], {}, { ...NO_FILTER, verdict: 'accepted' }).shown).toBe(1);
  });

  it('judges by the production’s limits where there are some', () => {
    expect(markIn(good.summary!, 'slide', { slide: { good: 0.5, fault: 1 } })).toBe('fault');
    expect(markIn(bad.summary!, 'knees', { knees: { good: 3, fault: 5 } })).toBe('good');
    expect(gridOf([good], { slide: { good: 0.5, fault: 1 } }, NO_FILTER).rows[0].cells[0]!.verdict).toBe('fault');
    expect(markIn(good.summary!, 'pull', {})).toBe('unseen');
  });

  it('says how near to a fault a value stands, whichever way is better', () => {
    expect(severity('slide', 5, {})).toBe(0);
    expect(severity('slide', 15, {})).toBe(0.5);
    expect(severity('slide', 300, {})).toBe(1);
    expect(severity('held.feet', 97, {})).toBe(0);
    expect(severity('held.feet', 93.5, {})).toBeCloseTo(0.5, 6);
  });

  it('compares with another run: what got better, what worse', () => {
    const before = [
      item('walk', 'king', { knees: [3, 'fault', 1] }),
      item('walk', 'heron', { slide: [1, 'good'] }),
      item('jog', 'king', { slide: [2, 'good'] }),
    ];
    const cells = gridOf(items, {}, NO_FILTER, before).rows.flatMap((row) => row.cells);
    const of = (id: string): number | undefined => cells.find((cell) => cell?.item.id === id)?.better;
    expect(of(doubtful.id)).toBeGreaterThan(0);
    expect(of(good.id)).toBe(0);
    expect(of(bad.id)).toBeLessThan(0);
    expect(of(open.id)).toBeUndefined();
  });

  it('leads to the frame of the worst figure', () => {
    expect(worstFrameOf(bad, {})).toBe(9);
    expect(worstFrameOf(doubtful, {})).toBe(7);
    expect(worstFrameOf(open, {})).toBe(0);
    expect(worstFrameOf(doubtful, { slide: { good: 50, fault: 90 } })).toBe(50);
  });
});
