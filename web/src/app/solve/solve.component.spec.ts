import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { BehaviorSubject } from 'rxjs';
import { DEFAULT_CHOICES } from '../project/project.store';
import type { Solved } from '../solver/messages';
import type { StageOptions } from '../stage/options';
import { StageComponent } from '../stage/stage.component';
import { makeRack } from '../testing/rack';
import { makeSolved } from '../testing/solved';
import { PlaybackService } from '../timeline/playback.service';
import { SolveComponent } from './solve.component';
import { KeptStore } from './kept.store';
import { SolveStore, type SolveState } from './solve.store';
import type { HandlesComponent } from './touch-ups/handles.component';

/** Stands in for the 3D stage, which a test browser without a graphics card need not draw. */
@Component({ selector: 'hs-stage', template: '<ng-content />', changeDetection: ChangeDetectionStrategy.OnPush })
class FakeStage {
  readonly solved = input<Solved | undefined>();
  readonly options = input.required<StageOptions>();
  readonly ghost = input<unknown>();
  readonly watched = input<readonly number[]>([]);
  readonly watcher = input<((places: Float64Array) => void) | undefined>();
  readonly loading = input(false);
  readonly freed = output<void>();
}

describe('SolveComponent', () => {
  const rack = makeRack();
  const solved = makeSolved();
  let state: BehaviorSubject<SolveState>;
  let fixture: ComponentFixture<SolveComponent>;
  let host: HTMLElement;
  let playback: PlaybackService;
  const kept = { isKept$: new BehaviorSubject(false), keep: jasmine.createSpy('keep') };

  beforeEach(async () => {
    localStorage.clear();
    state = new BehaviorSubject<SolveState>({
      take: rack.takes[0],
      character: rack.characters[0],
      choices: DEFAULT_CHOICES,
      pair: undefined,
      solved,
      result: solved,
      busy: false,
      progress: undefined,
      cancelled: false,
      fault: undefined,
    });
    const store = {
      state$: state,
      get state() {
        return state.value;
      },
    };
    TestBed.configureTestingModule({
      providers: [provideRouter([]), { provide: SolveStore, useValue: store }, { provide: KeptStore, useValue: kept }],
    });
    TestBed.overrideComponent(SolveComponent, { remove: { imports: [StageComponent] }, add: { imports: [FakeStage] } });
    playback = TestBed.inject(PlaybackService);
    fixture = TestBed.createComponent(SolveComponent);
    host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
  });

  const press = async (key: string, more: KeyboardEventInit = {}): Promise<void> => {
    window.dispatchEvent(new KeyboardEvent('keydown', { key, ...more }));
    await fixture.whenStable();
  };
  const pressed = (): string[] => [...host.querySelectorAll('.tools [aria-pressed=true]')].map((b) => b.textContent!.trim());

  it('sets the transport to the take', () => {
    expect([playback.state.frames, playback.state.frameTime]).toEqual([150, 1 / 60]);
  });

  it('answers to the keys of transport and views', async () => {
    playback.seek(0);
    await press('ArrowRight', { shiftKey: true });
    await press('ArrowLeft');
    expect(playback.state.frame).toBe(9);
    await press('End');
    expect(playback.state.frame).toBe(149);
    await press('Home');
    await press('n');
    const first = [...new Set(solved.contacts.plants.map((p) => p.first))].sort((a, b) => a - b).find((f) => f > 0);
    expect(playback.state.frame).toBe(first!);
    await press('.');
    expect(playback.state.speed).toBe(2);
    await press('t');
    expect(pressed()).toContain('top');
    playback.setSpeed(1);
  });

  it('shows the plain transfer while a key is held', async () => {
    await press('b');
    expect(pressed()).toContain('before');
    window.dispatchEvent(new KeyboardEvent('keyup', { key: 'b' }));
    await fixture.whenStable();
    expect(pressed()).not.toContain('before');
  });

  it('frees the view when it is turned by hand', async () => {
    await press('f');
    expect(pressed()).toContain('front');
    fixture.debugElement.query((d) => d.name === 'hs-stage').componentInstance.freed.emit();
    await fixture.whenStable();
    expect(pressed()).toContain('free');
  });

  it('puts handles on the stage by a key, and shows the motion before as a ghost while one is dragged', async () => {
    const stage = (): FakeStage => fixture.debugElement.query((d) => d.name === 'hs-stage').componentInstance as FakeStage;
    expect(stage().watched()).toEqual([]);
    await press('h');
    expect(stage().watched().length).toBe(host.querySelectorAll('hs-handles button').length + 3);
    expect(stage().watcher()).toBeDefined();
    const handles = fixture.debugElement.query((d) => d.name === 'hs-handles').componentInstance as HandlesComponent;
    handles.dragging.emit(true);
    await fixture.whenStable();
    expect(stage().ghost()).toBe(solved.solved);
    handles.dragging.emit(false);
    await fixture.whenStable();
    expect(stage().ghost()).toBeUndefined();
    await press('h');
    expect(host.querySelector('hs-handles')).toBeNull();
  });

  it('keeps the last result in sight while the next is on its way, and says why there is none', async () => {
    state.next({ ...state.value, busy: true });
    await fixture.whenStable();
    expect(host.querySelector('.state')!.textContent).toContain('solving');
    expect(host.querySelector('hs-figures-panel')).not.toBeNull();
    state.next({
      ...state.value,
      busy: false,
      solved: undefined,
      fault: { code: 'label/missing', message: 'no joint was found for: left.foot', where: { file: 'a.bvh' } },
    });
    await fixture.whenStable();
    expect(host.querySelector('[role=alert]')!.textContent).toContain('a.bvh: no joint was found for: left.foot');
  });

  it('says what to do where nothing is chosen', async () => {
    state.next({ ...state.value, character: undefined, solved: undefined });
    await fixture.whenStable();
    expect(host.textContent).toContain('Nothing to solve yet');
  });
});
