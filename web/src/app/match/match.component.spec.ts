import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { By } from '@angular/platform-browser';
import { provideRouter } from '@angular/router';
import { NEVER, of, Subject } from 'rxjs';
import { BodyService } from '../body/body.service';
import type { MatchView } from '../body/messages';
import { ProjectStore } from '../project/project.store';
import type { PairRequest } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { SolverError } from '../solver/worker-client';
import { FigureStageComponent } from '../stage/figure-stage.component';
import { FakeFigureStage, pressable, select } from '../testing/fake-stage';
import { flushRack, makeRack } from '../testing/rack';
import { chooseTake } from '../testing/takes';
import { makeMatchView } from '../testing/views';
import { PairStore } from '../pair/pair.store';
import { PlaybackService } from '../timeline/playback.service';
import { MatchComponent } from './match.component';
import { MatchStore } from './match.store';

describe('MatchComponent', () => {
  const rack = makeRack();
  let fixture: ComponentFixture<MatchComponent>;
  let host: HTMLElement;
  let project: ProjectStore;
  let next: Subject<MatchView>;
  let bodies: jasmine.SpyObj<BodyService>;

  beforeEach(async () => {
    localStorage.clear();
    for (const group of ['Rest of the character', 'Scale']) localStorage.setItem(`hollow-stride.group.${group}`, '1');
    bodies = jasmine.createSpyObj<BodyService>('BodyService', ['match', 'press', 'keep', 'fit', 'body', 'recipe']);
    // As the worker does: the view is of what was asked for.
    bodies.match.and.callFake((pair: PairRequest, frame: number) => {
      next = new Subject();
      const view = { ...makeMatchView(pair.choices, frame), pair };
      queueMicrotask(() => next.next(view));
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
    TestBed.overrideComponent(MatchComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    project = TestBed.inject(ProjectStore);
    fixture = TestBed.createComponent(MatchComponent);
    host = fixture.nativeElement as HTMLElement;
    project.load();
    flushRack(TestBed.inject(HttpTestingController), rack);
    await settle();
  });

  /** The stores follow a change in a later turn of the event loop: settled is when all that was asked for has been shown. */
  async function settle(): Promise<void> {
    const pairs = TestBed.inject(PairStore);
    const match = TestBed.inject(MatchStore);
    const isShown = (): boolean => {
      const pair = pairs.now.request;
      return match.state.fault !== undefined || JSON.stringify(match.state.view?.pair) === JSON.stringify(pair);
    };
    do {
      await new Promise((resolve) => setTimeout(resolve));
      await fixture.whenStable();
    } while (!isShown());
    await fixture.whenStable();
  }
  const choices = () => project.choicesFor(rack.takes[0], rack.characters[0]);
  const row = (role: string): HTMLElement =>
    [...host.querySelectorAll<HTMLElement>('.plain tbody tr')].find((r) => r.querySelector('th')!.textContent!.trim() === role)!;

  it('shows both bodies in three views, what is off, and the take on the character', () => {
    expect([...host.querySelectorAll('hs-pose-view .name')].map((n) => n.textContent)).toEqual(['front', 'side', 'top']);
    expect(row('left.upperArm').textContent).toContain('0.0°');
    const stage = fixture.debugElement.query(By.directive(FakeFigureStage)).componentInstance as FakeFigureStage;
    expect(stage.figures()[0].clip!.frames).toBeGreaterThan(20);
    expect(TestBed.inject(PlaybackService).state.frames).toBe(150);
    expect(host.querySelector('.state')!.textContent).toContain('solving the whole take');
  });

  it('turns a segment by number, says by how much it is off and why, and aligns all again', async () => {
    row('left.upperArm').querySelector('button')!.click();
    await settle();
    const field = host.querySelector<HTMLInputElement>('[aria-label="lift aside, °"]')!;
    field.value = '24';
    field.dispatchEvent(new Event('change'));
    await settle();
    expect(choices().turns['left.upperArm']).toEqual([0, 0, 24]);
    expect(row('left.upperArm').textContent).toContain('24.0°');
    expect(host.querySelector('aside')!.textContent).toContain('it was turned by hand');
    pressable(host, 'Align all').click();
    await settle();
    expect(row('left.upperArm').textContent).toContain('0.0°');
    expect((pressable(host, 'Align all') as HTMLButtonElement).disabled).toBeTrue();
  });

  it('keeps marks, takes a lift by number, and gives it back', async () => {
    pressable(host, 'keep marks').click();
    await settle();
    expect(choices().stride).toBe('marks');
    const lift = host.querySelector<HTMLInputElement>('[aria-label="lift, ×"]')!;
    lift.value = '1.25';
    lift.dispatchEvent(new Event('change'));
    await settle();
    expect(choices().lift).toBe(1.25);
    pressable(host, 'by hip height').click();
    await settle();
    expect(choices().lift).toBe('hips');
  });

  it('corrects the rest pose at a press, and keeps it by name', async () => {
    bodies.press.and.returnValue(of({ 'left.upperArm': [0, 0, 12] }));
    pressable(host, 'Level the arms').click();
    await settle();
    expect(bodies.press).toHaveBeenCalledWith(jasmine.objectContaining({ name: 'ferryman.glb' }), 'level-arms');
    expect(project.decided(rack.characters[0]).turns).toEqual({ 'left.upperArm': [0, 0, 12] });
    bodies.keep.and.returnValue(of({ name: 'level', rotations: {} }));
    const name = host.querySelector<HTMLInputElement>('[aria-label="Name for the rest pose of the character"]')!;
    name.value = 'level';
    name.dispatchEvent(new Event('input'));
    await settle();
    pressable(host, 'Keep pose').click();
    await settle();
    select(host, '[aria-label="Rest pose of the character"]', 'kept level');
    await settle();
    expect(project.decided(rack.characters[0])).toEqual(jasmine.objectContaining({ rest: { name: 'level', rotations: {} }, turns: {} }));
  });

  it('takes the rest pose from a frame of a take, of those on the rack that stand on the skeleton', async () => {
    localStorage.setItem('hollow-stride.group.Rest of the performer', '1');
    fixture.destroy();
    fixture = TestBed.createComponent(MatchComponent);
    host = fixture.nativeElement as HTMLElement;
    await settle();
    bodies.keep.and.returnValue(of({ name: 'frame 7 of quay-walk', rotations: {} }));
    const field = host.querySelector<HTMLInputElement>('[aria-label="Take to take the rest pose of the performer from"]')!;
    const http = TestBed.inject(HttpTestingController);
    field.dispatchEvent(new Event('focus'));
    await new Promise((resolve) => setTimeout(resolve, 5));
    const asked = http.expectOne(({ url }) => url === '/api/takes').request;
    expect(asked.params.get('skeleton')).toBe(rack.takes[0].skeleton);
    chooseTake(fixture, 'Take to take the rest pose of the performer from', rack.takes[0].id);
    const frame = host.querySelector<HTMLInputElement>('hs-rest-panel [aria-label="Frame of the take to rest in"]')!;
    frame.value = '7';
    frame.dispatchEvent(new Event('input'));
    pressable(host, 'Rest from frame').click();
    await settle();
    expect(bodies.keep.calls.mostRecent().args[0]).toEqual(jasmine.objectContaining({ file: rack.takes[0].file }));
    expect(bodies.keep.calls.mostRecent().args[1]).toBe(6);
    expect(project.decided(rack.takes[0]).rest).toEqual({ name: 'frame 7 of quay-walk', rotations: {} });
  });

  it('shows the ladders, fingers apart, and names the pairing', async () => {
    pressable(host, 'limb ladders').click();
    await settle();
    expect([...host.querySelectorAll('hs-ladder .title')].map((t) => t.textContent)).toContain('trunk');
    const name = host.querySelector<HTMLInputElement>('hs-pairing-panel input')!;
    expect(name.value).toBe('to Ferryman');
    name.value = 'the ferry crossing';
    name.dispatchEvent(new Event('change'));
    await settle();
    expect(project.pairing(rack.takes[0].skeleton, rack.characters[0].id)?.name).toBe('the ferry crossing');
  });

  it('steps and mirrors by the keyboard', async () => {
    const press = (key: string, shiftKey = false): unknown =>
      window.dispatchEvent(new KeyboardEvent('keydown', { key, shiftKey, cancelable: true }));
    press('ArrowRight', true);
    expect(TestBed.inject(PlaybackService).state.frame).toBe(10);
    press('m');
    await settle();
    expect(pressable(host, 'mirrored').getAttribute('aria-pressed')).toBe('false');
  });

  it('says why a pair cannot be matched, and where to look', async () => {
    bodies.match.and.callFake(() => {
      const answer = new Subject<MatchView>();
      queueMicrotask(() =>
        answer.error(
          new SolverError({ code: 'label/missing', message: 'no joint was found for: left.foot', where: { file: 'heron.bvh' } }),
        ),
      );
      return answer;
    });
    project.choose({ character: rack.characters[1].id });
    await settle();
    expect(host.querySelector('[role=alert]')!.textContent).toContain('heron.bvh: no joint was found for: left.foot');
    expect(pressable(host, 'Look at the labels on Label').getAttribute('href')).toBe('/label');
  });
});
