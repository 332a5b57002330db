import { ChangeDetectionStrategy, Component } from '@angular/core';
import { summaryOf, type DeliveryChoices, type Fault } from '@hollow-stride/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { BehaviorSubject, of, throwError } from 'rxjs';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import { KeptStore } from '../solve/kept.store';
import { SolveStore, type SolveState } from '../solve/solve.store';
import { SolverService } from '../solver/solver.service';
import { SolverError } from '../solver/worker-client';
import { makeRack } from '../testing/rack';
import { makeSolved } from '../testing/solved';
import { DeliverComponent } from './deliver.component';
import { RunBuilderComponent } from './runs/run-builder.component';
import { editsToProject } from '../testing/edits';
import { RunsListComponent } from './runs/runs-list.component';

@Component({ selector: 'hs-run-builder', template: '', changeDetection: ChangeDetectionStrategy.OnPush })
class FakeBuilder {}
@Component({ selector: 'hs-runs-list', template: '', changeDetection: ChangeDetectionStrategy.OnPush })
class FakeRuns {}

describe('DeliverComponent', () => {
  const rack = makeRack();
  const solved = makeSolved();
  let state: BehaviorSubject<SolveState>;
  let asked: unknown[][];
  let answer: () => unknown;
  let chosen: unknown[];
  let changes: unknown[];
  let kept: unknown[];
  let fixture: ComponentFixture<DeliverComponent>;
  let host: HTMLElement;

  beforeEach(async () => {
    asked = [];
    chosen = [];
    changes = [];
    kept = [];
    answer = () => of({ bytes: new Uint8Array(2500), report: solved.report });
    state = new BehaviorSubject<SolveState>({
      take: rack.takes[0],
      character: rack.characters[0],
      choices: DEFAULT_CHOICES,
      pair: { ...solved.pair, choices: { ...DEFAULT_CHOICES, fps: 30 } },
      solved,
      result: solved,
      busy: false,
      progress: undefined,
      cancelled: false,
      fault: undefined,
    });
    const transfer = {
      id: 'x',
      name: 'Slow bow on Heron',
      take: rack.takes[1].id,
      pairing: 'p',
      character: rack.characters[1].id,
      choices: DEFAULT_CHOICES,
      summary: summaryOf(solved.report.plain!),
      changedAt: '2026-11-01T10:00:00.000Z',
    };
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        {
          provide: SolveStore,
          useValue: {
            state$: state,
            get state() {
              return state.value;
            },
          },
        },
        ...editsToProject,
        {
          provide: ProjectStore,
          useValue: {
            rack$: of({ ...rack, transfers: [transfer] }),
            choose: (s: unknown) => chosen.push(s),
          },
        },
        {
          provide: KeptStore,
          useValue: { change: (c: object) => changes.push(c), delivered: (_v: object, choices: object) => kept.push(choices) },
        },
        { provide: SolverService, useValue: { deliver: (...args: unknown[]) => (asked.push(args), answer()) } },
      ],
    });
    // Runs have tests of their own.
    TestBed.overrideComponent(DeliverComponent, {
      remove: { imports: [RunBuilderComponent, RunsListComponent] },
      add: { imports: [FakeBuilder, FakeRuns] },
    });
    spyOn(HTMLAnchorElement.prototype, 'click');
    fixture = TestBed.createComponent(DeliverComponent);
    host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
  });

  const press = async (name: string): Promise<void> => {
    [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === name)!.click();
    await fixture.whenStable();
  };

  it('lists faults before cautions, each leading to where it is mended', async () => {
    const fault = (code: Fault['code'], frame?: number): Fault => ({
      code,
      message: `about ${code}`,
      where: frame === undefined ? {} : { frame },
    });
    const cautions = [fault('match/rest'), fault('judge/caution', 7), fault('judge/fault', 42)];
    const result = { ...solved, report: { ...solved.report, cautions } };
    state.next({ ...state.value, solved: result, result });
    await fixture.whenStable();
    const links = [...host.querySelectorAll<HTMLAnchorElement>('.said a')];
    expect(links.map((link) => link.getAttribute('href'))).toEqual(['/solve?frame=42', '/solve?frame=7', '/match']);
  });

  it('shows what is about to be delivered, with its figures before and after', () => {
    expect(host.querySelector('h2')!.textContent).toContain('Quay walk');
    expect(host.querySelector('.figures')!.textContent).toContain(
      `${solved.report.verdict.figures.find(({ id }) => id === 'slide')!.value.toFixed(1)} mm/s`,
    );
    expect(host.querySelector('code')!.textContent).toBe('quay-walk-on-ferryman.glb');
  });

  it('sets rate and root motion on the pair, so that what is solved and shown is what is written', async () => {
    await press('in place');
    const rate = host.querySelector('select')!;
    rate.value = '30';
    rate.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    expect(changes).toEqual([{ inPlace: true }, { fps: 30 }]);
  });

  it('writes the pair in the format asked for, and keeps the transfer', async () => {
    await press('BVH');
    await press('Download BVH');
    const [pair, { format, title, tolerance }] = asked[0] as [{ choices: object }, DeliveryChoices];
    expect([format, title, tolerance]).toEqual(['bvh', 'Quay walk', null]);
    expect(pair.choices).toEqual({ ...DEFAULT_CHOICES, fps: 30 });
    expect(kept).toEqual([{ ...DEFAULT_CHOICES, fps: 30 }]);
    expect(HTMLAnchorElement.prototype.click).toHaveBeenCalled();
    expect(host.querySelector('.outcome')!.textContent).toContain('quay-walk-on-ferryman.bvh written, 3 kB');
  });

  it('writes fewer keys, a loop and bare motion where that is asked for', async () => {
    const check = (name: string): void => [...host.querySelectorAll('label')].find((label) => label.textContent!.includes(name))!.click();
    for (const name of ['fewer keys', 'loop without a seam', 'motion alone']) {
      check(name);
      await fixture.whenStable();
    }
    await press('Download GLB');
    const [, { tolerance, loop, bare }] = asked[0] as [unknown, DeliveryChoices];
    expect([tolerance, loop, bare]).toEqual([1, 0.3, true]);
  });

  it('offers BVH only for a character that came as BVH', async () => {
    state.next({ ...state.value, character: rack.characters[1] });
    await fixture.whenStable();
    expect([...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === 'GLB')!.disabled).toBeTrue();
    expect(host.querySelector('code')!.textContent).toBe('quay-walk-on-heron.bvh');
  });

  it('says why a file could not be written', async () => {
    answer = () =>
      throwError(() => new SolverError({ code: 'clip/not-finite', message: 'a number is not finite', where: { joint: 'knee', frame: 4 } }));
    await press('Download GLB');
    expect(host.querySelector('.outcome')!.textContent).toContain('joint knee, frame 4: a number is not finite');
  });

  it('opens a transfer again', async () => {
    await press('Slow bow on Heron');
    expect(chosen).toEqual([{ take: rack.takes[1].id, character: rack.characters[1].id }]);
  });

  it('says what to do where nothing is chosen', async () => {
    state.next({ ...state.value, take: undefined, solved: undefined });
    await fixture.whenStable();
    expect(host.textContent).toContain('Nothing to deliver yet');
  });
});
