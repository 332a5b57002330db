import { TestBed } from '@angular/core/testing';
import { Component, ChangeDetectionStrategy, input } from '@angular/core';
import { provideRouter } from '@angular/router';
import type { ProductionLimits } from '@hollow-stride/contract';
import { BehaviorSubject, map } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { SolveStore } from '../solve/solve.store';
import { StageComponent } from '../stage/stage.component';
import { makePair } from '../testing/pair';
import { PlaybackService } from '../timeline/playback.service';
import { editsToProject } from '../testing/edits';
import { CheckSheetComponent } from './sheet.component';

@Component({ selector: 'hs-stage', template: '', changeDetection: ChangeDetectionStrategy.OnPush })
class FakeStage {
  readonly solved = input<unknown>();
  readonly options = input<unknown>();
}

describe('CheckSheetComponent', () => {
  async function show() {
    const pair = makePair();
    const rack = new BehaviorSubject<{ limits: ProductionLimits; sets: [] }>({ limits: {}, sets: [] });
    const steps: string[] = [];
    const state = { solved: pair.solved, take: { name: 'Quay walk' }, character: { name: 'Heron' }, busy: false, fault: undefined };
    TestBed.configureTestingModule({
      providers: [
        ...pair.providers,
        provideRouter([]),
        { provide: SolveStore, useValue: { state, state$: new BehaviorSubject(state) } },
        ...editsToProject,
        {
          provide: ProjectStore,
          useValue: {
            get state() {
              return { rack: rack.value };
            },
            rack$: rack.pipe(map((value) => value)),
            setLimits: (limits: ProductionLimits, text: string) => {
              steps.push(text);
              rack.next({ ...rack.value, limits });
            },
          },
        },
      ],
    });
    TestBed.overrideComponent(CheckSheetComponent, { remove: { imports: [StageComponent] }, add: { imports: [FakeStage] } });
    const fixture = TestBed.createComponent(CheckSheetComponent);
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement, solved: pair.solved, rack, steps };
  }

  it('has every figure of the judge, with performer, plain and this beside each other', async () => {
    const { host, solved } = await show();
    const rows = [...host.querySelectorAll('tbody tr')];
    expect(rows.length).toBe(solved.report.verdict.figures.length);
    const slide = rows.find((row) => row.querySelector('th')!.textContent!.trim() === 'slide')!;
    const [, plain, now] = [...slide.querySelectorAll('td.num')].map((cell) => parseFloat(cell.textContent!));
    expect(now).toBeCloseTo(solved.report.verdict.figures.find(({ id }) => id === 'slide')!.value, 0);
    expect(plain).toBeCloseTo(solved.report.plain!.figures.find(({ id }) => id === 'slide')!.value, 0);
  });

  it('takes limits of the production, by which it then judges, and gives them back', async () => {
    const { host, fixture, rack, steps } = await show();
    const verdict = (): string =>
      [...host.querySelectorAll('tbody tr')]
        .find((row) => row.querySelector('th')!.textContent!.trim() === 'held, feet')!
        .querySelector('td .visually-hidden')!.textContent!;
    expect(verdict()).toBe('good');
    const type = async (label: string, value: string): Promise<HTMLInputElement> => {
      const field = host.querySelector<HTMLInputElement>(`[aria-label="${label}"]`)!;
      field.value = value;
      field.dispatchEvent(new Event('change'));
      await fixture.whenStable();
      return field;
    };
    // Limits that contradict each other are refused beside the field, and what was typed stays.
    for (const typed of ['100.5', 'many', '']) {
      const field = await type('held, feet, fault below', typed);
      expect([field.value, field.getAttribute('aria-invalid')]).toEqual([typed, 'true']);
      expect(host.querySelector('#wrong-limit')!.textContent).toMatch(/must not be less|must be numbers/);
    }
    expect(steps).toEqual([]);
    await type('held, feet, good from', '101');
    expect(host.querySelector('#wrong-limit')).toBeNull();
    expect(rack.value.limits['held.feet']).toEqual({ good: 101, fault: 90 });
    await type('held, feet, fault below', '100.5');
    expect(verdict()).toBe('fault');
    expect(host.querySelector('.overall')!.textContent).toContain('over their fault limit');
    [...host.querySelectorAll('button')].find((button) => button.textContent!.includes('Reset all'))!.click();
    await fixture.whenStable();
    expect(verdict()).toBe('good');
    expect(steps).toEqual(['set a limit', 'set a limit', 'reset all limits']);
  });

  it('has charts that share the playhead: keys and presses in one lead to a frame', async () => {
    const { host, fixture, solved } = await show();
    const playback = TestBed.inject(PlaybackService);
    const charts = [...host.querySelectorAll<HTMLElement>('[role=slider]')];
    expect(charts.length).toBe(solved.series.length);
    charts[0].dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', shiftKey: true, bubbles: true }));
    await fixture.whenStable();
    expect(playback.state.frame).toBe(10);
    expect(charts[1].getAttribute('aria-valuenow')).toBe('11');
    charts[1].dispatchEvent(new KeyboardEvent('keydown', { key: 'End', bubbles: true }));
    expect(playback.state.frame).toBe(solved.take.frames - 1);
  });
});
