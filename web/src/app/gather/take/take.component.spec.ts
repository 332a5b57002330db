import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { By } from '@angular/platform-browser';
import { provideRouter, Router } from '@angular/router';
import type { TakeJson } from '@hollow-stride/contract';
import { DEFAULT_TAKE } from '@hollow-stride/core';
import { of } from 'rxjs';
import { BodyService } from '../../body/body.service';
import type { TakeView } from '../../body/messages';
import { ProjectStore } from '../../project/project.store';
import type { TakeSource } from '../../solver/messages';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import { FakeFigureStage, pressable, select } from '../../testing/fake-stage';
import { flushRack, makeRack } from '../../testing/rack';
import { makeTakeView } from '../../testing/views';
import { PlaybackService } from '../../timeline/playback.service';
import { TakeComponent } from './take.component';
import { TakeStore } from './take.store';

describe('TakeComponent', () => {
  const rack = makeRack();
  let fixture: ComponentFixture<TakeComponent>;
  let host: HTMLElement;
  let playback: PlaybackService;

  /** A view with faults as the application finds them. */
  function viewOf(source: TakeSource): TakeView {
    const view = makeTakeView(source.choices);
    const [clip] = view.facts.clips;
    const faults = [
      { kind: 'rest' as const, from: 0, to: 11, joint: null, message: 'a rest pose stands in the first 12 frames' },
      { kind: 'spike' as const, from: 60, to: 60, joint: 'LeftShin', message: 'the joint sticks out' },
    ];
    return {
      ...view,
      source,
      facts: { ...view.facts, clips: [{ ...clip, faults }] },
      faults: faults.map((fault) => ({ ...fault, state: 'left' })),
    };
  }

  beforeEach(async () => {
    localStorage.clear();
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        provideRouter([{ path: '**', children: [] }]),
        { provide: BodyService, useValue: { take: (source: TakeSource) => of(viewOf(source)) } },
      ],
    });
    TestBed.overrideComponent(TakeComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    TestBed.inject(ProjectStore).load();
    flushRack(TestBed.inject(HttpTestingController), rack);
    playback = TestBed.inject(PlaybackService);
    fixture = TestBed.createComponent(TakeComponent);
    fixture.componentRef.setInput('id', rack.takes[1].id);
    host = fixture.nativeElement as HTMLElement;
    await settle();
  });
  afterEach(() => playback.pause());

  const take = (): TakeJson => TestBed.inject(ProjectStore).state.rack.takes[1];
  async function settle(): Promise<void> {
    do {
      await fixture.whenStable();
      await new Promise((resolve) => setTimeout(resolve, 10));
    } while (TestBed.inject(TakeStore).state.busy);
    await fixture.whenStable();
  }
  const stage = (): FakeFigureStage => fixture.debugElement.query(By.directive(FakeFigureStage)).componentInstance as FakeFigureStage;
  const type = async (label: string, value: string): Promise<void> => {
    const field = host.querySelector<HTMLInputElement>(`[aria-label="${label}"]`)!;
    field.value = value;
    field.dispatchEvent(new Event('change'));
    await settle();
  };
  const check = async (text: string): Promise<void> => {
    const box = [...host.querySelectorAll('label')].find((l) => l.textContent!.includes(text))?.querySelector('input');
    (box ?? host.querySelector<HTMLInputElement>(`input[aria-label="${text}"]`))!.click();
    await settle();
  };

  it('shows the whole take by default, its faults, and leads to each', async () => {
    expect(host.querySelector('h1')!.textContent).toBe('Slow bow');
    expect(TestBed.inject(ProjectStore).state.selection.take).toBe(take().id);
    expect(take().choices).toEqual(DEFAULT_TAKE);
    expect(host.querySelector('aside')!.textContent).toContain('150 frames');
    const links = [...host.querySelectorAll<HTMLButtonElement>('.faults button')];
    expect(links.map((l) => l.textContent!.replace(/\s+/g, ' ').trim())).toEqual(['rest, frame 1', 'spike, frame 61', 'repair']);
    links[1].click();
    expect(playback.state.frame).toBe(60);
    expect(host.querySelector<HTMLSelectElement>('.curve-bar select')!.selectedOptions[0].textContent).toBe('LeftShin');
  });

  it('repairs one fault by itself, and leaves it again', async () => {
    pressable(host, 'repair the spike at frame 61').click();
    await settle();
    expect(take().choices.clean.mended).toEqual([{ kind: 'spike', from: 1, to: 1, joint: 'LeftShin' }]);
    pressable(host, 'as recorded the spike at frame 61').click();
    await settle();
    expect(take().choices.clean.mended).toEqual([]);
    // A fault that is repaired with all of its kind has no button of its own.
    await check('remove spikes');
    expect(host.querySelector('.faults .btn')).toBeNull();
  });

  it('drops the rest frames at a press, trims by keys and numbers, and gives the whole take back', async () => {
    pressable(host, 'Drop the rest frames').click();
    await settle();
    expect(take().choices.from).toBeCloseTo(12 / 60, 6);
    playback.seek(99);
    await fixture.whenStable();
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'o' }));
    await settle();
    expect(take().choices.to).toBeCloseTo(99 / 60, 6);
    await type('in, frame', '31');
    expect(take().choices.from).toBeCloseTo(30 / 60, 6);
    expect(host.querySelector('aside')!.textContent).toContain('70 frames');
    pressable(host, 'Whole take').click();
    await settle();
    expect([take().choices.from, take().choices.to]).toEqual([null, null]);
  });

  it('cleans up by kind and by part, shown before, after and both', async () => {
    await check('fill gaps');
    await check('remove spikes');
    await check('ease jumps');
    await check('smooth the hips and legs');
    await type('hips and legs, Hz', '4.5');
    expect(take().choices.clean).toEqual({
      gaps: true,
      spikes: true,
      jumps: true,
      mended: [],
      cutoff: { ...DEFAULT_TAKE.clean.cutoff, legs: 4.5 },
    });
    pressable(host, 'All parts').click();
    await settle();
    expect(Object.values(take().choices.clean.cutoff)).toEqual([6, 7, 8, 10, 8]);
    pressable(host, 'None').click();
    await settle();
    expect(take().choices.clean.cutoff).toEqual(DEFAULT_TAKE.clean.cutoff);
    expect(
      stage()
        .figures()
        .map(({ look }) => look),
    ).toEqual(['performer']);
    pressable(host, 'both').click();
    await fixture.whenStable();
    expect(
      stage()
        .figures()
        .map(({ look }) => look),
    ).toEqual(['performer', 'ghost']);
    pressable(host, 'as recorded').click();
    await fixture.whenStable();
    expect(
      stage()
        .figures()
        .map(({ look }) => look),
    ).toEqual(['ghost']);
  });

  it('lays the take on its floor, turns and shifts it, and changes its rate', async () => {
    pressable(host, 'Feet to the floor').click();
    await settle();
    expect(take().choices.floor.height).toBeCloseTo(-TestBed.inject(TakeStore).state.view!.floor, 4);
    await type('height, mm', '25');
    await type('heading, °', '90');
    await type('place, ahead, m', '1.5');
    expect(take().choices.floor).toEqual({ height: 0.025, heading: 90, place: [0, 1.5] });
    select(host, '.rate select', '30');
    await settle();
    expect(take().choices.fps).toBe(30);
    expect(host.querySelector('aside')!.textContent).toContain('75 frames');
  });

  it('takes a drift out by keys over time: what holds at a frame is keyed, typed, gone to and removed', async () => {
    pressable(host, 'Key at this frame').click();
    await settle();
    playback.seek(100);
    await settle();
    pressable(host, 'Key at this frame').click();
    await settle();
    await type('heading of key 2', '-8');
    await type('height of key 2', '-15');
    await type('place, ahead of key 2', '0.25');
    const [first, second] = take().choices.floor.keys!;
    expect(first).toEqual({ at: 0, height: 0, heading: 0, place: [0, 0] });
    expect([second.height, second.heading, second.place]).toEqual([-0.015, -8, [0, 0.25]]);
    // A key between two holds what held there, so that nothing moves when it is set.
    playback.seek(50);
    await settle();
    pressable(host, 'Key at this frame').click();
    await settle();
    expect(take().choices.floor.keys![1].heading).toBeCloseTo(-4, 3);
    expect((pressable(host, 'Key at this frame') as HTMLButtonElement).disabled).toBeTrue();
    const [go] = host.querySelectorAll<HTMLButtonElement>('hs-floor-keys .link');
    go.click();
    expect(playback.state.frame).toBe(0);
    host.querySelector<HTMLButtonElement>('hs-floor-keys [aria-label^="Remove the key"]')!.click();
    await settle();
    expect(take().choices.floor.keys!.length).toBe(2);
  });

  it('opens the take that is chosen on the rack instead', async () => {
    const walk = spyOn(TestBed.inject(Router), 'navigate').and.resolveTo(true);
    TestBed.inject(ProjectStore).choose({ take: rack.takes[0].id });
    await fixture.whenStable();
    expect(walk).toHaveBeenCalledWith(['/gather/take', rack.takes[0].id]);
  });

  it('says when the take is not on the rack', async () => {
    fixture.componentRef.setInput('id', 'gone');
    await settle();
    expect(host.textContent).toContain('This take is not on the rack');
  });
});
