import { summaryOf, valueText, worstFirst } from '@hollow-stride/core';
import { TestBed } from '@angular/core/testing';
import type { Figure } from '@hollow-stride/core';
import { PlaybackService } from '../timeline/playback.service';
import { makeSolved } from '../testing/solved';
import { FiguresPanelComponent } from './figures-panel.component';

describe('FiguresPanelComponent', () => {
  const solved = makeSolved();
  const figureOf = (id: string, of = solved.report.verdict): Figure => of.figures.find((figure) => figure.id === id)!;

  async function show(given = solved): Promise<HTMLElement> {
    const fixture = TestBed.createComponent(FiguresPanelComponent);
    fixture.componentRef.setInput('solved', given);
    await fixture.whenStable();
    return fixture.nativeElement as HTMLElement;
  }

  /** The result with one figure spoiled. */
  const spoiled = (id: string, change: Partial<Figure>) => ({
    ...solved,
    report: {
      ...solved.report,
      verdict: {
        ...solved.report.verdict,
        figures: solved.report.verdict.figures.map((figure) => (figure.id === id ? { ...figure, ...change } : figure)),
      },
    },
  });

  it('shows each figure before and after, and says by word and shape how it stands', async () => {
    const host = await show();
    const rows = [...host.querySelectorAll('tbody tr')].map((row) => row.textContent ?? '');
    const slide = rows.find((text) => text.trim().startsWith('slide'))!;
    expect(slide).toContain(`${figureOf('slide', solved.report.plain).value.toFixed(1)} mm/s`);
    expect(slide).toContain(`${figureOf('slide').value.toFixed(1)} mm/s`);
    expect(slide).toContain('good');
  });

  it('puts what is over its limit first, in words, and leads to its frame', async () => {
    const host = await show(spoiled('knees', { mark: 'fault', value: 3.4, words: 'most at 1.2 s, left knee', frame: 72 }));
    const rows = [...host.querySelectorAll('tbody tr')].map((row) => row.textContent ?? '');
    expect(rows[0]).toMatch(/knees.*3\.40 ×.*fault/s);
    expect(rows[1]).toContain('most at 1.2 s, left knee');
    const playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === 'knees')!.click();
    expect(playback.state.frame).toBe(72);
  });

  it('shows the figures that are looked at first, all of them by a press, and remembers it', async () => {
    localStorage.removeItem('hollow-stride.figures.all');
    const host = await show();
    const rows = (): number => host.querySelectorAll('tbody tr').length;
    const few = rows();
    const button = host.querySelector<HTMLButtonElement>('.all')!;
    expect(button.textContent).toContain(`all ${solved.report.verdict.figures.length} figures`);
    button.click();
    await new Promise((resolve) => setTimeout(resolve));
    expect(rows()).toBeGreaterThan(few);
    expect((await show()).querySelectorAll('tbody tr').length).toBe(rows());
    localStorage.removeItem('hollow-stride.figures.all');
  });

  it('shows no tick where there was nothing to look at', async () => {
    const host = await show(spoiled('held.hands', { mark: 'unseen', value: NaN }));
    const row = [...host.querySelectorAll('tbody tr')].find((r) => r.textContent?.includes('held, hands'))!;
    expect(row.querySelector('.bi-check2')).toBeNull();
    expect(row.textContent).toContain('not seen');
    expect(row.textContent).toContain('–');
  });

  it('says how much was looked at and where the limits stand', async () => {
    const host = await show();
    const knees = [...host.querySelectorAll<HTMLElement>('th [title]')].find((e) => e.textContent?.trim() === 'knees')!;
    expect(knees.title).toMatch(/Looked at \d+ frames.*good up to 1\.3, fault from 2\.5 ×/);
  });
});

describe('the summary of a verdict', () => {
  const { verdict, plain } = makeSolved().report;

  it('counts figures by their mark, and names the worst', () => {
    const bad = summaryOf(plain!);
    expect(bad.good + bad.cautions + bad.faults + bad.unseen).toBe(plain!.figures.length);
    expect(bad.faults + bad.cautions).toBeGreaterThan(0);
    expect(bad.worst.startsWith(worstFirst(plain!.figures)[0].name)).toBeTrue();
    expect(summaryOf(verdict).figures['slide']).toBe(verdict.figures.find(({ id }) => id === 'slide')!.value);
    expect(summaryOf(verdict).figures['pull']).toBeNull();
  });

  it('gives a figure that rounds to zero no sign', () => {
    expect(valueText({ id: 'float', value: -0.00001, unit: 'mm' })).toBe('0.0 mm');
    expect(valueText({ id: 'float', value: NaN, unit: 'mm' })).toBe('–');
  });
});
