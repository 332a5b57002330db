import { provideHttpClient } from '@angular/common/http';
import { TestBed } from '@angular/core/testing';
import { provideRouter, Router } from '@angular/router';
import {
  DEFAULT_OUTPUT,
  type PresetJson,
  type ReelJson,
  type RunEvent,
  type RunItemJson,
  type RunJson,
  type StartRun,
} from '@hollow-stride/contract';
import { makeLane, makeReelClip } from '@hollow-stride/core';
import { NEVER, of, Subject } from 'rxjs';
import { ApiService } from '../api/api.service';
import { RunCheckComponent } from '../check/run-check.component';
import { RunBuilderComponent } from '../deliver/runs/run-builder.component';
import { RunsListComponent } from '../deliver/runs/runs-list.component';
import { ProjectStore } from '../project/project.store';
import { pressable, select } from '../testing/fake-stage';
import { ReelStore } from '../reel/reel.store';
import { makeRack } from '../testing/rack';
import { PlaybackService } from '../timeline/playback.service';
import { RunsApiService } from './runs-api.service';
import { RunsStore } from './runs.store';

const id = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const run = (n: number, change: Partial<RunJson> = {}): RunJson => ({
  id: id(n),
  version: 1,
  name: `run ${n}`,
  state: 'going',
  output: DEFAULT_OUTPUT,
  waiting: 2,
  working: 1,
  done: 1,
  failed: 0,
  cancelled: 0,
  spent: 4,
  startedAt: '2026-01-01T10:00:00.000Z',
  ...change,
});
const item = (n: number, change: Partial<RunItemJson> = {}): RunItemJson => ({
  id: id(100 + n),
  version: 1,
  run: id(1),
  take: id(200 + (n >> 1)),
  character: id(300 + (n % 2)),
  lane: null,
  takeName: `take ${n >> 1}`,
  characterName: `body ${n % 2}`,
  tags: [],
  state: 'done',
  fault: null,
  summary: {
    frames: 90,
    good: 3,
    cautions: 0,
    faults: 1,
    unseen: 0,
    worst: 'slide 40',
    figures: { slide: 40 },
    marks: { slide: 'fault' },
    frameOf: { slide: 61 },
  },
  fileName: 'f',
  format: 'glb',
  bytes: 10,
  reduced: null,
  seconds: 1,
  review: 'none',
  note: '',
  ...change,
});

describe('runs', () => {
  const events = new Subject<RunEvent>();
  const calls: unknown[][] = [];
  let runs: RunJson[];
  let items: RunItemJson[];

  beforeEach(() => {
    localStorage.clear();
    calls.length = 0;
    runs = [run(1), run(2, { waiting: 0, working: 0, done: 4 })];
    items = [0, 1, 2, 3].map((n) => item(n));
    const called =
      <T>(name: string, result: (...args: never[]) => T) =>
      (...args: unknown[]) => {
        calls.push([name, ...args]);
        return of(result(...(args as never[])));
      };
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideRouter([{ path: '**', children: [] }]),
        {
          provide: RunsApiService,
          useValue: {
            runs: () => of({ runs, outFolder: true }),
            runItems: (of1: string) => of({ run: runs[0], items: items.filter((one) => one.run === of1), total: 4 }),
            runItem: (itemId: string) => of({ item: items.find((one) => one.id === itemId), report: null }),
            actOnRun: called('act', (of1: string) => runs.find((one) => one.id === of1)!),
            startRun: called('start', () => run(9)),
            countPairs: () => of({ transfers: 3, left: 1 }),
            changeRunItem: called('review', (itemId: string, change: object) => ({
              ...items.find((one) => one.id === itemId)!,
              ...change,
            })),
            putFirst: called('first', () => null),
            intoFolder: called('folder', () => ['a', 'b']),
          },
        },
        {
          provide: ApiService,
          useValue: {
            takeIds: () => of([id(200), id(201)]),
            events$: events,
            take: () => NEVER,
            addPreset: called('preset', (preset: object): PresetJson => ({
              ...(preset as PresetJson),
              id: id(7),
              version: 1,
              addedAt: '',
            })),
            change: called('change', () => ({ version: 2 })),
          },
        },
      ],
    });
  });

  async function show<T>(type: new () => T) {
    const fixture = TestBed.createComponent(type);
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement };
  }

  it('are listed with how far they are, follow what the server tells, and are acted on', async () => {
    const { host, fixture } = await show(RunsListComponent);
    const says = (): string[] => [...host.querySelectorAll('.says')].map((one) => one.textContent!.trim());
    expect(says()).toEqual(['1 of 4 done, about 12 s left', '4 of 4 done']);
    events.next({ kind: 'run', run: run(1, { waiting: 0, working: 0, done: 3, failed: 1 }) });
    await fixture.whenStable();
    expect(says()[0]).toBe('3 of 4 done, 1 failed');
    pressable(host, 'retry 1').click();
    pressable(host, 'into the folder').click();
    expect(calls.map(([name]) => name)).toEqual(['act', 'folder']);
    expect(calls[0].slice(1)).toEqual([id(1), 'retry']);
    expect(host.querySelector('[role=progressbar]')!.getAttribute('aria-valuemax')).toBe('4');
  });

  it('come into sight when they are started, and at no other time', async () => {
    const { fixture } = await show(RunsListComponent);
    const seen: (string | null)[] = [];
    spyOn(Element.prototype, 'scrollIntoView').and.callFake(function (this: Element) {
      seen.push(this.getAttribute('aria-label'));
    });
    events.next({ kind: 'run', run: run(1, { working: 0, done: 2 }) });
    await fixture.whenStable();
    expect(seen).toEqual([]);
    TestBed.inject(RunsStore).start({ name: 'x', takes: [], characters: [], reels: [], output: DEFAULT_OUTPUT });
    await fixture.whenStable();
    expect(seen).toEqual(['run 9']);
  });

  it('are built of takes, characters and an output, and say before what does not go', async () => {
    const rack = makeRack();
    const store = TestBed.inject(ProjectStore) as unknown as { patch(change: object): void };
    store.patch({ loaded: true, rack, page: { takes: rack.takes, groups: [], total: 2, all: 2, tags: ['walk'] } });
    const { host, fixture } = await show(RunBuilderComponent);
    const bodies = rack.characters.length;
    expect(pressable(host, `Start: ${2 * bodies} transfers`)).toBeTruthy();
    // One pair is a body and a rig that is none: the server says so a moment later.
    await new Promise((resolve) => setTimeout(resolve, 200));
    await fixture.whenStable();
    expect(pressable(host, `Start: ${2 * bodies - 1} transfers`)).toBeTruthy();
    expect(host.textContent).toContain('1 pair is left out');
    host.querySelector<HTMLInputElement>('.check input')!.click();
    await fixture.whenStable();
    const pattern = [...host.querySelectorAll<HTMLInputElement>('input')].find(({ value }) => value.includes('{take}'))!;
    pattern.value = '{nonsense}';
    pattern.dispatchEvent(new Event('input'));
    await fixture.whenStable();
    const start = [...host.querySelectorAll<HTMLButtonElement>('button')].find((one) => one.textContent!.includes('Start:'))!;
    expect(start.disabled).toBeTrue();
    expect(host.textContent).toContain('{nonsense} is unknown; use');
    pattern.value = '{character}';
    pattern.dispatchEvent(new Event('input'));
    await fixture.whenStable();
    const name = host.querySelector<HTMLInputElement>('[aria-label="Name of the run"]')!;
    name.value = 'rehearsal';
    name.dispatchEvent(new Event('input'));
    await fixture.whenStable();
    start.click();
    const request = calls.find(([what]) => what === 'start')![1] as StartRun;
    expect([request.name, request.takes.length, request.characters.length, request.output.pattern]).toEqual([
      'rehearsal',
      2,
      bodies - 1,
      '{character}',
    ]);
  });

  it('take lanes of reels in, alone or beside transfers', async () => {
    const rack = makeRack();
    const clip = makeReelClip({ name: 'in', take: rack.takes[0].id, start: 0 });
    const laneOf = (name: string, clips = [clip], on = true) => makeLane({ name, character: rack.characters[0].id, on, clips });
    const reel = (n: number, name: string, lanes: ReturnType<typeof laneOf>[]): ReelJson => ({
      id: id(n),
      version: 1,
      name,
      content: { fps: 60, lanes, touches: [] },
      addedAt: '2026-01-01T10:00:00.000Z',
    });
    const reels = [
      reel(701, 'night', [laneOf('first'), laneOf('second'), laneOf('off', [clip], false)]),
      reel(702, 'bare', [laneOf('empty', [])]),
    ];
    const store = TestBed.inject(ProjectStore) as unknown as { patch(change: object): void };
    store.patch({ loaded: true, rack: { ...rack, reels }, page: { takes: rack.takes, groups: [], total: 2, all: 2, tags: [] } });
    const { host, fixture } = await show(RunBuilderComponent);
    const choices = [...host.querySelectorAll('.check')].filter((one) => one.textContent!.includes('lane'));
    expect(choices.map((one) => one.textContent!.trim().replace(/\s+/g, ' '))).toEqual(['night 2 lanes']);
    choices[0].querySelector('input')!.click();
    await fixture.whenStable();
    expect(pressable(host, `Start: ${2 * rack.characters.length} transfers and 2 lanes`)).toBeTruthy();
    pressable(host, 'none').click();
    await fixture.whenStable();
    pressable(host, 'Start: 2 lanes').click();
    const request = calls.find(([what]) => what === 'start')![1] as StartRun;
    expect([request.characters, request.reels]).toEqual([[], [id(701)]]);
  });

  it('open a lane on its reel, at its frame', async () => {
    const lane = { reel: id(701), index: 2 };
    items = [item(0, { lane, takeName: 'night: third' })];
    const { host } = await show(RunCheckComponent);
    const reels = TestBed.inject(ReelStore);
    const [opened, chosen] = [spyOn(reels, 'open'), spyOn(reels, 'choose')];
    const went = spyOn(TestBed.inject(Router), 'navigateByUrl').and.resolveTo(true);
    pressable(host, 'Open at the worst frame, 62').click();
    expect(opened).toHaveBeenCalledOnceWith(lane.reel);
    expect(chosen).toHaveBeenCalledOnceWith({ lane: 2, clip: -1 });
    expect(went).toHaveBeenCalledOnceWith('/mend/reel');
  });

  it('are checked as a grid: from a cell to its worst frame in two presses', async () => {
    const { host, fixture } = await show(RunCheckComponent);
    const cells = [...host.querySelectorAll<HTMLButtonElement>('.cell')];
    expect(cells.length).toBe(4);
    cells[1].click();
    await fixture.whenStable();
    const chosen = cells.find((cell) => cell.getAttribute('aria-pressed') === 'true')!;
    expect(chosen).toBe(cells[1]);
    const opened = spyOn(TestBed.inject(PlaybackService), 'openAt');
    pressable(host, 'Open at the worst frame, 62').click();
    expect(opened).toHaveBeenCalledOnceWith(61);
    pressable(host, 'send back').click();
    await fixture.whenStable();
    expect(calls.find(([what]) => what === 'review')!.slice(2)).toEqual([{ base: 1, review: 'returned' }]);
    expect(TestBed.inject(RunsStore).state.items[id(1)].some(({ review }) => review === 'returned')).toBeTrue();
    select(host, '.tools label:nth-of-type(3) select', 'good');
    await fixture.whenStable();
    expect(host.querySelectorAll('.cell').length).toBe(0);
  });
});
