import { TestBed } from '@angular/core/testing';
import type { SolveChoices, VersionJson } from '@hollow-stride/contract';
import { makeTouchUp } from '@hollow-stride/core';
import { BehaviorSubject, firstValueFrom, of, throwError } from 'rxjs';
import { filter } from 'rxjs';
import { PairStore } from '../../pair/pair.store';
import { DEFAULT_CHOICES, ProjectStore } from '../../project/project.store';
import type { PairRequest } from '../../solver/messages';
import { SolverService } from '../../solver/solver.service';
import { SolverError } from '../../solver/worker-client';
import { makeSolved } from '../../testing/solved';
import { KeptStore } from '../kept.store';
import { VersionsStore } from './versions.store';
import { editsToProject } from '../../testing/edits';
import { VersionsPanelComponent } from './versions-panel.component';

const version = (id: string, name: string, choices: Partial<SolveChoices>, character = 'c1'): VersionJson => ({
  id,
  version: 1,
  name,
  performer: 'k1',
  character,
  choices: { ...DEFAULT_CHOICES, ...choices },
  addedAt: '',
});
const ARMS = { touchUp: makeTouchUp({ kind: 'arms', value: 7 }), take: null };
const KNEES = { touchUp: makeTouchUp({ kind: 'knees', value: 9 }), take: null };

describe('versions of a pair’s settings', () => {
  const changes: { change: Partial<SolveChoices>; text: string }[] = [];
  const asked: PairRequest[] = [];
  const added: unknown[] = [];
  let isBroken = false;
  let store: VersionsStore;

  beforeEach(() => {
    changes.length = asked.length = added.length = 0;
    isBroken = false;
    const pair = { take: { id: 't1', skeleton: 'k1' }, character: { id: 'c1' }, choices: { ...DEFAULT_CHOICES, touchUps: [KNEES] } };
    TestBed.configureTestingModule({
      providers: [
        { provide: PairStore, useValue: { pair$: of(pair), now: pair } },
        { provide: KeptStore, useValue: { change: (change: Partial<SolveChoices>, text: string) => changes.push({ change, text }) } },
        ...editsToProject,
        {
          provide: ProjectStore,
          useValue: {
            rack$: new BehaviorSubject({
              versions: [
                version('a', 'first', {}),
                version('b', 'wide', { hands: 0.5, touchUps: [ARMS] }),
                version('x', 'of another', {}, 'c2'),
              ],
            }),
            addVersion: (one: object) => added.push(one),
            remove: (...what: string[]) => added.push(what),
            pairRequest: (_: unknown, __: unknown, choices: SolveChoices) => ({ choices }),
          },
        },
        {
          provide: SolverService,
          useValue: {
            solve: (request: PairRequest) => {
              asked.push(request);
              return isBroken ? throwError(() => new SolverError({ code: 'option', message: 'no', where: {} })) : of(makeSolved());
            },
          },
        },
      ],
    });
    store = TestBed.inject(VersionsStore);
  });

  it('are those of this performer and character, newest first, kept by a name', async () => {
    expect((await firstValueFrom(store.versions$)).map(({ name }) => name)).toEqual(['wide', 'first']);
    store.keep('third');
    expect(added).toEqual([{ name: 'third', performer: 'k1', character: 'c1', choices: { ...DEFAULT_CHOICES, touchUps: [KNEES] } }]);
  });

  it('are solved to be compared, one at a time, and let go at a second press', async () => {
    const seen: (string | undefined)[] = [];
    store.compared$.subscribe((compared) => seen.push(compared && `${compared.version.name} ${compared.solved ? 'solved' : 'waits'}`));
    store.compare('b');
    expect(asked.map(({ choices }) => choices.hands)).toEqual([0.5]);
    store.compare('b');
    expect(seen).toEqual([undefined, 'wide waits', 'wide solved', undefined]);
  });

  it('say why they cannot be solved', async () => {
    isBroken = true;
    store.compare('a');
    const { fault } = (await firstValueFrom(store.compared$.pipe(filter((one) => one?.fault !== undefined))))!;
    expect(fault?.message).toBe('no');
  });

  it('are put in use whole, or part by part', async () => {
    const [wide] = await firstValueFrom(store.versions$);
    store.use(wide);
    expect(changes[0]).toEqual({ change: wide.choices, text: 'use the version wide' });
    store.take(wide, 'arms');
    expect([changes[1].change.hands, changes[1].change.touchUps]).toEqual([0.5, [KNEES, ARMS]]);
    store.take(wide, 'legs');
    expect([changes[2].change.hands, changes[2].change.touchUps]).toEqual([1, []]);
  });

  it('are worked with on the panel, by names that say whose a button is', async () => {
    const fixture = TestBed.createComponent(VersionsPanelComponent);
    const host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
    const press = (label: string): void => host.querySelector<HTMLElement>(`[aria-label="${label}"]`)!.click();
    press('Compare with wide');
    await fixture.whenStable();
    expect(host.querySelector('[aria-label="Compare with wide"]')!.getAttribute('aria-pressed')).toBe('true');
    const take = host.querySelector<HTMLSelectElement>('[aria-label="Take a part over from wide"]')!;
    take.value = 'arms';
    take.dispatchEvent(new Event('change'));
    expect(changes.at(-1)?.text).toContain('its arms');
    expect(take.value).toBe('');
    press('Remove the version wide');
    expect(added.at(-1)).toEqual(['versions', 'b', 'wide']);
  });
});
