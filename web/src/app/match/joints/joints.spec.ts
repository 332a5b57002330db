import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideRouter } from '@angular/router';
import { DEFAULT_BY_JOINT, type ByJoint } from '@hollow-stride/core';
import { NEVER, Subject } from 'rxjs';
import { BodyService } from '../../body/body.service';
import type { JointsView } from '../../body/messages';
import { PairStore } from '../../pair/pair.store';
import { ProjectStore } from '../../project/project.store';
import type { PairRequest } from '../../solver/messages';
import { SolverService } from '../../solver/solver.service';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import { FakeFigureStage, pressable, select } from '../../testing/fake-stage';
import { flushRack, makeRack } from '../../testing/rack';
import { makeJointsView } from '../../testing/views';
import { MatchComponent } from '../match.component';
import { MatchStore } from '../match.store';
import { JointsMatchComponent } from './joints-match.component';

describe('Match joint by joint', () => {
  let fixture: ComponentFixture<MatchComponent>;
  let host: HTMLElement;

  beforeEach(async () => {
    localStorage.clear();
    for (const group of ['Into a motion', 'Size and heading']) localStorage.setItem(`hollow-stride.group.${group}`, '1');
    const bodies = jasmine.createSpyObj<BodyService>('BodyService', ['match', 'joints', 'body', 'recipe']);
    bodies.match.and.returnValue(NEVER);
    bodies.joints.and.callFake((pair: PairRequest) => {
      const next = new Subject<JointsView>();
      queueMicrotask(() => next.next(makeJointsView(pair)));
      return next;
    });
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        provideRouter([]),
        { provide: BodyService, useValue: bodies },
        { provide: SolverService, useValue: { solve: () => NEVER } },
      ],
    });
    TestBed.overrideComponent(JointsMatchComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    fixture = TestBed.createComponent(MatchComponent);
    host = fixture.nativeElement as HTMLElement;
    TestBed.inject(ProjectStore).load();
    flushRack(TestBed.inject(HttpTestingController), makeRack());
    await fixture.whenStable();
    TestBed.inject(MatchStore).setByJoint(true);
    await settle();
  });

  /** What is shown is of what is decided. */
  async function settle(): Promise<void> {
    const [pairs, match] = [TestBed.inject(PairStore), TestBed.inject(MatchStore)];
    do {
      await new Promise((resolve) => setTimeout(resolve));
      await fixture.whenStable();
    } while (JSON.stringify(match.state.joints?.pair) !== JSON.stringify(pairs.now.request));
    fixture.detectChanges();
    await fixture.whenStable();
  }

  const decided = (): ByJoint => TestBed.inject(PairStore).now.choices.byJoint ?? DEFAULT_BY_JOINT;
  const joint = (party: 'performer' | 'character', name: string): HTMLButtonElement =>
    [...host.querySelectorAll<HTMLButtonElement>(`ol[aria-label="Joints of the ${party}"] button`)].find((b) =>
      b.textContent!.includes(name),
    )!;
  const press = async (...buttons: HTMLElement[]): Promise<void> => {
    for (const button of buttons) {
      button.click();
      await fixture.whenStable();
    }
    await settle();
  };
  const number = async (label: string, value: string): Promise<void> => {
    const field = host.querySelector<HTMLInputElement>(`input[aria-label="${label}"]`)!;
    field.value = value;
    field.dispatchEvent(new Event('change', { bubbles: true }));
    await settle();
  };

  it('shows both lists, a line for each pair, what is left over, and why two are a pair', () => {
    expect(host.querySelectorAll('hs-joint-lists path').length).toBe(8);
    expect(host.querySelectorAll('hs-joint-lists path.shape').length).toBe(1);
    expect(joint('character', 'spool').title).toContain('by its place in the tree');
    expect(host.querySelector('.state')!.textContent).toContain('8 pairs, 0 and 0 left over');
  });

  it('pairs by hand, adds one more with a share, leaves out, and goes back to automatic', async () => {
    await press(joint('character', 'mast'), joint('performer', 'jib'), pressable(host, 'add'));
    expect(decided().pairs).toEqual({
      mast: [
        { joint: 'mast', weight: 1 },
        { joint: 'jib', weight: 1 },
      ],
    });
    await number('share of crane_jib', '0.25');
    expect(decided().pairs['mast'][1].weight).toBe(0.25);
    await press(pressable(host, 'Pair automatically'));
    expect(decided().pairs).toEqual({});
    await press(joint('character', 'spool'), pressable(host, 'leave out'));
    expect(decided().pairs).toEqual({ spool: [] });
    expect(host.querySelector('.state')!.textContent).toContain('7 pairs, 1 and 1 left over');
    expect(joint('character', 'spool').textContent).toContain('left over');
  });

  it('says what is carried: of all joints, of one, of a branch', async () => {
    select(host, 'select[aria-label="turns of all joints"]', 'recorded');
    await settle();
    expect(decided().carry.turns).toBe('recorded');
    await press(joint('character', 'mast'));
    await number('turned so far of twin:mast', '0.5');
    expect(decided().own['mast'].turnsTimes).toBe(0.5);
    await press(pressable(host, 'The same below'));
    expect(Object.keys(decided().own).length).toBeGreaterThan(1);
    await press(pressable(host, 'As all joints'));
    expect(decided().own['mast']).toBeUndefined();
    await press(pressable(host, 'Carry this branch only'));
    expect(decided().branch).toBe('mast');
    expect(joint('character', 'gantry').classList).toContain('out');
    await press(pressable(host, 'Carry the whole'));
    expect(decided().branch).toBeNull();
  });

  it('has rules that say at once what they fit, and lays the take into a motion of the character', async () => {
    await press(pressable(host, 'Add a rule'));
    const from = host.querySelector<HTMLInputElement>('input[aria-label="Rule 1, name of the performer"]')!;
    from.value = '*i*';
    from.dispatchEvent(new Event('input'));
    await settle();
    expect(host.querySelector('.fits')!.textContent).toMatch(/fits \d: crane_jib/);
    await press(pressable(host, 'Remove rule 1'));
    expect(decided().rules).toEqual([]);
    select(host, 'hs-into-panel select', '1');
    await settle();
    await number('from second, s', '0.5');
    expect(decided().into).toEqual({ clip: 1, way: 'replace', at: 0.5, ease: 0.2, weight: 1 });
    await number('size of the character, ×', '2');
    expect(decided().size).toBe(2);
  });

  it('answers to keys, and every step is taken back', async () => {
    await press(joint('character', 'hook'));
    document.dispatchEvent(new KeyboardEvent('keydown', { key: 'Delete', bubbles: true }));
    await settle();
    expect(decided().pairs).toEqual({ hook: [] });
    await press(joint('performer', 'hook'));
    document.dispatchEvent(new KeyboardEvent('keydown', { key: 'p', bubbles: true }));
    await settle();
    expect(decided().pairs).toEqual({ hook: [{ joint: 'hook', weight: 1 }] });
  });
});
