import * as v from 'valibot';
import { FIGURE_IDS, LIMITS, type Figure, type FigureId, type Mark } from '../judge';
import {
  checkSheetRecord,
  checkSheetSchema,
  limitsInForce,
  sheetCsv,
  sheetFigure,
  sheetHtml,
  textOf,
  worstVerdict,
  type SheetItem,
} from '.';

const MADE = '2026-03-01T10:20:30.000Z';

function figure(id: FigureId, value: number, mark: Mark, more: Partial<Figure> = {}): Figure {
  const { name, unit, good, fault } = LIMITS[id];
  return {
    id,
    name,
    unit,
    value,
    performer: undefined,
    mark,
    limit: { good, fault },
    looked: '3.0 s',
    words: 'left heel at 2.0 s',
    frame: 119,
    ...more,
  };
}

function item(figures: readonly Figure[], more: Partial<SheetItem> = {}): SheetItem {
  return {
    take: 'quay-walk.bvh',
    character: 'heron.glb',
    fileName: 'quay-walk-heron.glb',
    frames: 1060,
    fps: 120,
    figures: figures.map(sheetFigure),
    plain: [sheetFigure(figure('slide', 88.123, 'fault'))],
    cautions: [],
    note: '',
    review: 'none',
    looked: undefined,
    ...more,
  };
}

/** Cells of comma-separated values, by RFC 4180. */
function cellsOf(csv: string): string[][] {
  const rows: string[][] = [[]];
  let cell = '';
  let quoted = false;
  for (let i = 0; i < csv.length; i++) {
    const c = csv[i];
    if (quoted) {
      if (c === '"' && csv[i + 1] === '"') cell += csv[++i];
      else if (c === '"') quoted = false;
      else cell += c;
    } else if (c === '"') quoted = true;
    else if (c === ',' || c === '\n') {
      rows[rows.length - 1].push(cell);
      cell = '';
      if (c === '\n') rows.push([]);
    } else cell += c;
  }
  return rows.slice(0, -1);
}

describe('a figure on a sheet', () => {
  it('is rounded to what it means, without the sign of a zero, and null where there was nothing to look at', () => {
    expect(sheetFigure(figure('slide', 3.14159, 'good')).value).toBe(3.1);
    expect(Object.is(sheetFigure(figure('slide', -0.0001, 'good')).value, 0)).toBeTrue();
    const unseen = sheetFigure(figure('meet', NaN, 'unseen', { looked: 'no hands' }));
    expect([unseen.value, unseen.words]).toEqual([null, 'nothing to look at: no hands']);
    expect(textOf(unseen)).toBe('–');
  });

  it('has its limits in the places of its values, every one of them', () => {
    for (const id of FIGURE_IDS) {
      const { limit, id: same } = sheetFigure(figure(id, 1, 'good', { limit: { good: 1.23456, fault: 9.87654 } }));
      expect(same).toBe(id);
      expect(limit)
        .withContext(id)
        .toEqual({ good: Number((1.23456).toFixed(LIMITS[id].places)), fault: Number((9.87654).toFixed(LIMITS[id].places)) });
    }
  });
});

describe('a check sheet', () => {
  const good = item([figure('slide', 2, 'good', { performer: 12.34 }), figure('held.feet', 99.5, 'good', { frame: undefined })]);
  const bad = item([figure('sink', 41, 'fault'), figure('meet', NaN, 'unseen')], { take: 'clap.bvh', review: 'rejected' });

  it('as values has one line a figure with the same id, value, limits and frame as the data, frames from 1', () => {
    const [head, ...rows] = cellsOf(sheetCsv([good, bad]));
    expect(rows.length).toBe(4);
    const record = checkSheetRecord('Night run', [good, bad], MADE);
    const figures = record.items.flatMap(({ take, figures: list }) => list.map((one) => ({ take, ...one })));
    rows.forEach((row, i) => {
      const of = (name: string): string => row[head.indexOf(name)];
      const { take, id, value, good: from, fault, frame, plain, performer } = figures[i];
      const text = (number: number | null): string => (number === null ? '' : String(number));
      expect([of('take'), of('id'), of('value'), of('good'), of('fault'), of('frame'), of('plain'), of('performer')]).toEqual([
        take,
        id,
        text(value),
        text(from),
        text(fault),
        text(frame),
        text(plain),
        text(performer),
      ]);
    });
    expect(rows[0][head.indexOf('frame')]).toBe('120');
  });

  it('as values holds nothing that a spreadsheet would run, and comes back whole through quotes, commas and lines', () => {
    const nasty = item([figure('slide', 2, 'good', { words: 'a, "b"\nc' })], {
      take: '=HYPERLINK("x")',
      character: '+1',
      fileName: '@sum',
      review: '-2',
    });
    const [head, row] = cellsOf(sheetCsv([nasty]));
    expect(row.length).toBe(head.length);
    expect(row.slice(0, 4)).toEqual([`'=HYPERLINK("x")`, `'+1`, `'@sum`, `'-2`]);
    expect(row[head.indexOf('seen')]).toBe('a, "b"\nc');
    // A number that is less than nothing is no formula.
    expect(cellsOf(sheetCsv([item([figure('slide', -3, 'good')])]))[1][head.indexOf('value')]).toBe('-3');
  });

  it('as data is what its schema says, and takes the worst verdict of its items', () => {
    const record = checkSheetRecord('Night run', [good, bad], MADE);
    expect(() => v.parse(checkSheetSchema, JSON.parse(JSON.stringify(record)))).not.toThrow();
    expect(record.verdict).toBe('fault');
    expect(record.items.map(({ verdict }) => verdict)).toEqual(['good', 'fault']);
    expect(checkSheetRecord('Empty', [], MADE).verdict).toBe('unseen');
    expect(worstVerdict([{ verdict: 'good' }, { verdict: null }, { verdict: 'caution' }])).toBe('caution');
  });

  it('as a page says verdict, date and limits, and runs nothing that a name brings along', () => {
    const page = sheetHtml(
      '<b>Night</b> & run',
      [good, item([figure('sink', 41, 'fault')], { take: '<script>alert(1)</script>', note: '"quoted"' })],
      MADE,
    );
    expect(page).toContain('some figures are over their fault limit');
    expect(page).toContain('2026-03-01 10:20');
    expect(page).toContain('&lt;b&gt;Night&lt;/b&gt; &amp; run');
    expect(page).toContain('&lt;script&gt;alert(1)&lt;/script&gt;');
    expect(page).not.toMatch(/<script/i);
    expect(page).toContain(`default-src 'none'`);
    expect(page).toContain('good up to 8, fault from 30 mm');
    expect(page).toContain('(frame 120)');
  });

  it('states the limits in force: a person’s own where there are some, the program’s for all others', () => {
    const limits = limitsInForce({ slide: { good: 1, fault: 2 } });
    expect(limits['slide']).toEqual({ good: 1, fault: 2 });
    expect(Object.keys(limits).sort()).toEqual([...FIGURE_IDS].sort());
    expect(limits['sink']).toEqual({ good: LIMITS.sink.good, fault: LIMITS.sink.fault });
  });
});
