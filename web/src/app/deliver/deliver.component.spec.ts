import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { BehaviorSubject, of, throwError } from 'rxjs';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import { SolveStore, summaryOf, type SolveState } from '../solve/solve.store';
import { SolverService } from '../solver/solver.service';
import { SolverError } from '../solver/worker-client';
import { makeRack } from '../testing/rack';
import { makeSolved } from '../testing/solved';
import { DeliverComponent } from './deliver.component';

describe('DeliverComponent', () => {
  const rack = makeRack();
  const solved = makeSolved();
  let state: BehaviorSubject<SolveState>;
  let asked: unknown[][];
  let answer: () => unknown;
  let chosen: unknown[];
  let fixture: ComponentFixture<DeliverComponent>;
  let host: HTMLElement;

  beforeEach(async () => {
    asked = [];
    chosen = [];
    answer = () => of(new Uint8Array(2500));
    state = new BehaviorSubject<SolveState>({
      take: rack.takes[0],
      character: rack.characters[0],
      choices: DEFAULT_CHOICES,
      pair: undefined,
      solved,
      busy: false,
      fault: undefined,
    });
    const transfer = {
      id: 'x',
      name: 'Slow bow on Heron',
      take: rack.takes[1].id,
      pairing: 'p',
      character: rack.characters[1].id,
      choices: DEFAULT_CHOICES,
      summary: summaryOf(solved.report.figures, solved.report.plain!),
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
        {
          provide: ProjectStore,
          useValue: {
            rack$: of({ ...rack, transfers: [transfer] }),
            choose: (s: unknown) => chosen.push(s),
            pairRequest: (_t: object, _c: object, choices: object) => ({ choices }),
          },
        },
        { provide: SolverService, useValue: { deliver: (...args: unknown[]) => (asked.push(args), answer()) } },
      ],
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

  it('shows what is about to be delivered, with its figures before and after', () => {
    expect(host.querySelector('h2')!.textContent).toContain('Quay walk');
    expect(host.querySelector('.figures')!.textContent).toContain(`${solved.report.figures.slide.sum.toFixed(1)} mm`);
    expect(host.querySelector('code')!.textContent).toBe('quay-walk-on-ferryman.glb');
  });

  it('writes as set: format, rate, root motion', async () => {
    await press('BVH');
    await press('in place');
    const rate = host.querySelector('select')!;
    rate.value = '30';
    rate.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    await press('Download BVH');
    const [pair, format, title] = asked[0] as [{ choices: object }, string, string];
    expect([format, title]).toEqual(['bvh', 'Quay walk on Ferryman']);
    expect(pair.choices).toEqual({ ...DEFAULT_CHOICES, fps: 30, inPlace: true });
    expect(HTMLAnchorElement.prototype.click).toHaveBeenCalled();
    expect(host.querySelector('.outcome')!.textContent).toContain('quay-walk-on-ferryman.bvh written, 3 kB');
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
