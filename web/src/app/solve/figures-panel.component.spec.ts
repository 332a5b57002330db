import { TestBed } from '@angular/core/testing';
import { PlaybackService } from '../timeline/playback.service';
import { makeSolved } from '../testing/solved';
import { FiguresPanelComponent, rowsOf, verdict } from './figures-panel.component';

describe('FiguresPanelComponent', () => {
  const solved = makeSolved();

  it('shows each figure before and after, and says by word and shape how it stands', async () => {
    const fixture = TestBed.createComponent(FiguresPanelComponent);
    fixture.componentRef.setInput('solved', solved);
    await fixture.whenStable();
    const rows = [...(fixture.nativeElement as HTMLElement).querySelectorAll('tbody tr')].map((row) => row.textContent ?? '');
    const slide = rows.find((text) => text.trim().startsWith('slide'))!;
    expect(slide).toContain(`${solved.report.plain!.slide.sum.toFixed(1)} mm`);
    expect(slide).toContain(`${solved.report.figures.slide.sum.toFixed(1)} mm`);
    expect(slide).toContain('good');
  });

  it('leads to the worst frame', async () => {
    const fixture = TestBed.createComponent(FiguresPanelComponent);
    fixture.componentRef.setInput('solved', solved);
    await fixture.whenStable();
    const playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    const buttons = [...(fixture.nativeElement as HTMLElement).querySelectorAll('button')];
    buttons.find((b) => b.textContent?.trim() === 'pop')!.click();
    expect(playback.state.frame).toBe(solved.report.figures.pop.frame);
  });

  it('judges by the limits', () => {
    expect([verdict(1, 1, 5), verdict(3, 1, 5), verdict(6, 1, 5)]).toEqual(['good', 'caution', 'fault']);
    expect(rowsOf(solved.report.figures, undefined)[0].before).toBe('–');
  });

  it('gives a figure that rounds to zero no sign', () => {
    const { figures } = solved.report;
    const row = rowsOf({ ...figures, float: -0.00001 }, undefined).find(({ name }) => name === 'float')!;
    expect(row.after).toBe('0.0 mm');
  });
});
