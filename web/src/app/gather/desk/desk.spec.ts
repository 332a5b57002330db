import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideRouter } from '@angular/router';
import type { DeskState, RecordRequest, RingSettings } from '@hollow-stride/contract';
import { ClipReader, clipOf, DEFAULT_SKELETON, prepareAny, sendable, writeFrame, type Pose } from '@hollow-stride/core';
import { Observable, of, Subject } from 'rxjs';
import { makeFile, randomShape, walk } from '../../../../../core/src/testing';
import { ProjectStore } from '../../project/project.store';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import { FakeFigureStage, pressable, select } from '../../testing/fake-stage';
import { flushRack, idOf, makeRack } from '../../testing/rack';
import { chooseTake } from '../../testing/takes';
import { DeskComponent } from './desk.component';
import { DeskService, type DeskTold } from './desk.service';
import { DeskStore } from './desk.store';
import { HoldWatch } from './held';
import { LiveBody } from './live-body';
import { LiveService } from './live/live.service';
import type { LiveRequest, LiveTold } from './live/messages';

const shape = randomShape(772, { spine: 3, neck: 1, clavicles: true });
const file = makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 772, frames: 90 }));
const take = sendable(file, 0, { name: 'walker', session: 'session-772', metres: 0.01 });

describe('a live body', () => {
  it('stands where the sender has it, metres, Y up', () => {
    const body = new LiveBody(take.opening);
    const rig = prepareAny(file, 0, { ...DEFAULT_SKELETON, unit: 0.01 });
    const reader = new ClipReader(rig.skeleton, clipOf(file, rig));
    for (const f of [0, 30, 89]) {
      const [a, b] = [body.pose(take.frame(f)).positions, reader.at(f).positions];
      a.forEach((v, i) => expect(Math.abs(v - b[i])).toBeLessThan(1e-4));
    }
    expect(body.held).toBeDefined();
  });

  it('tells floor and heading from a pose that is held for three seconds, and from no other', () => {
    // Two hips and a foot; the body faces 30° to its right of ahead, its sole 2 cm over the floor.
    const angle = Math.PI / 6;
    const pose = (sway: number): Pose => ({
      positions: Float64Array.from(
        [0.1 * Math.cos(angle), 0.9, 0.1 * Math.sin(angle), -0.1 * Math.cos(angle), 0.9, -0.1 * Math.sin(angle), 0, 0.05, 0],
        (v, i) => (i % 3 === 0 ? v + sway : v),
      ),
      rotations: new Float64Array(12),
    });
    const watch = new HoldWatch({ left: 0, right: 1, sole: 0.03 });
    expect(watch.take(pose(0), 0)).toBeUndefined();
    expect(watch.take(pose(0.2), 2)).toBeUndefined();
    for (let t = 2.1; t < 4.9; t += 0.1) expect(watch.take(pose(0.2), t)).toBeUndefined();
    const held = watch.take(pose(0.2), 5.01)!;
    expect(held.height).toBeCloseTo(-0.02, 6);
    // Turned by so much, the way ahead is +Z again.
    const [x, z] = [-Math.sin(angle), Math.cos(angle)];
    const turn = (held.heading * Math.PI) / 180;
    expect(x * Math.cos(turn) + z * Math.sin(turn)).toBeCloseTo(0, 6);
  });
});

describe('the capture desk', () => {
  let fixture: ComponentFixture<DeskComponent>;
  let host: HTMLElement;
  let store: DeskStore;
  let told: Subject<DeskTold>;
  let lives: { request: LiveRequest; told: Subject<LiveTold>; frames: number; isOver: boolean }[];
  let asked: { ring?: RingSettings; record?: RecordRequest; stopped: number };
  const desk = (change: Partial<DeskState> = {}): DeskState => ({
    streams: [
      {
        session: 'session-772',
        opening: take.opening,
        isDevice: false,
        isOpen: true,
        received: 90,
        lost: 3,
        doubled: 0,
        refused: 1,
        reason: 'too short',
      },
    ],
    device: null,
    recording: null,
    ...change,
  });

  beforeEach(async () => {
    localStorage.clear();
    told = new Subject();
    lives = [];
    const live = {
      transfer: (request: LiveRequest, frames$: Observable<Uint8Array>) =>
        new Observable<LiveTold>((subscriber) => {
          const line = { request, told: new Subject<LiveTold>(), frames: 0, isOver: false };
          lives.push(line);
          line.told.subscribe(subscriber);
          const frames = frames$.subscribe(() => line.frames++);
          return () => {
            frames.unsubscribe();
            line.isOver = true;
          };
        }),
    };
    asked = { stopped: 0 };
    const service = {
      watch: () => told,
      connect: (ring: RingSettings) => {
        asked.ring = ring;
        return of(desk({ device: ring }));
      },
      disconnect: () => of(desk()),
      record: (request: RecordRequest) => {
        asked.record = request;
        return of(desk({ recording: { session: request.session, name: request.name, take: 4, frames: 10, kept: 8, fault: null } }));
      },
      stop: () => {
        asked.stopped++;
        return of({ take: idOf(1), name: 'Quay 4', frames: 300, lost: 2 });
      },
    };
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        provideRouter([]),
        { provide: DeskService, useValue: service },
        { provide: LiveService, useValue: live },
      ],
    });
    TestBed.overrideComponent(DeskComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    fixture = TestBed.createComponent(DeskComponent);
    host = fixture.nativeElement as HTMLElement;
    store = TestBed.inject(DeskStore);
    const http = TestBed.inject(HttpTestingController);
    TestBed.inject(ProjectStore).load();
    const rack = makeRack();
    flushRack(http, { ...rack, takes: [{ ...rack.takes[0], name: 'Quay 3' }, rack.takes[1]] });
    const motion = (n: number) => ({ id: `m${n}`, title: `Motion ${n}`, what: '', tags: [], seconds: 3, travels: false });
    for (const page of [0, 1]) {
      http
        .expectOne(({ url, params }) => url === '/api/depot/motions' && params.get('page') === String(page))
        .flush({ motions: [motion(page)], total: 2, page, pages: 2, tags: [] });
    }
    await settle();
  });
  const settle = async (): Promise<void> => {
    await new Promise((resolve) => setTimeout(resolve, 30));
    fixture.detectChanges();
    await fixture.whenStable();
  };
  const press = async (name: string): Promise<void> => {
    pressable(host, name).click();
    await settle();
  };
  const type = (label: string, value: string): void => {
    const field = host.querySelector<HTMLInputElement>(`input[aria-label="${label}"]`)!;
    field.value = value;
    field.dispatchEvent(new Event('input', { bubbles: true }));
  };
  const send = (number: number): void =>
    told.next({ kind: 'frame', session: 'session-772', bytes: writeFrame({ ...take.frame(0), number, seconds: number / 60 }) });

  it('connects the ring of eyes with what it performs and how badly it sees', async () => {
    expect(host.textContent).toContain('Nobody is on the line');
    told.next({ kind: 'state', state: desk({ streams: [] }) });
    select(host, 'select[aria-label="Motion"]', 'm1');
    select(host, 'select[aria-label="Frames a second"]', '120');
    await settle();
    await press('Connect');
    expect([asked.ring?.motion, asked.ring?.rate, asked.ring?.dropouts]).toEqual(['m1', 120, 2]);
  });

  it('shows the stream with its counts, and the body as it comes', async () => {
    told.next({ kind: 'state', state: desk() });
    for (let i = 0; i < 35; i++) send(i);
    const figures = (): { pose: Pose }[] => (fixture.componentInstance as unknown as { figures: () => { pose: Pose }[] }).figures();
    // A body is drawn with the browser's next frame, which a busy machine is late with.
    while (figures().length === 0) await settle();
    expect(host.textContent).toContain('90 received');
    expect(host.textContent).toContain('3 lost');
    expect(host.textContent).toContain('1 refused');
    const body = store.view.body!;
    body.pose(take.frame(0)).positions.forEach((v, i) => expect(figures()[0].pose.positions[i]).toBeCloseTo(v, 9));
    told.next({ kind: 'lost' });
    await settle();
    expect(host.textContent).toContain('waiting for the server');
  });

  it('counts down, records under the slate with the floor of the pose that was held, and stops', async () => {
    jasmine.clock().install();
    try {
      told.next({ kind: 'state', state: desk() });
      store.calibrate();
      for (let i = 0; i <= 181; i++) send(i);
      expect(store.view.held).toBeDefined();
      type('Name of the recording', 'Quay');
      type('Tags, with commas', 'desk, rope');
      fixture.detectChanges();
      pressable(host, 'Record take 4').click();
      fixture.detectChanges();
      expect(host.textContent).toContain('recording begins in 3');
      jasmine.clock().tick(2999);
      expect(asked.record).toBeUndefined();
      jasmine.clock().tick(10);
      fixture.detectChanges();
      expect(asked.record).toEqual(jasmine.objectContaining({ session: 'session-772', name: 'Quay', tags: ['desk', 'rope'] }));
      expect(asked.record?.floor?.height).toBeCloseTo(store.view.held!.height, 9);
      expect(host.textContent).toContain('Quay 4: 8 frames kept');
      expect(host.querySelector('.state .num')!.textContent).toBe('0.1 s');
      pressable(host, 'Stop').click();
      fixture.detectChanges();
      expect(host.textContent).toContain('300 frames, 2 lost and bridged');
    } finally {
      jasmine.clock().uninstall();
    }
  });

  it('can be kept from recording while it counts', async () => {
    told.next({ kind: 'state', state: desk() });
    await settle();
    await press('Record take 1');
    await press('Not yet');
    expect(store.view.countdown).toBeUndefined();
    expect(asked.record).toBeUndefined();
  });

  it('transfers the stream onto as many as three characters, with what delay, and lets them go', async () => {
    told.next({ kind: 'state', state: desk() });
    await settle();
    const { characters, takes } = TestBed.inject(ProjectStore).state.rack;
    select(host, 'select[aria-label="Add a character"]', characters[0].id);
    await settle();
    expect(lives[0].request.character.file).toBe(characters[0].file);
    expect(host.textContent).toContain('learning the performer: 0 %');
    for (let i = 0; i < 4; i++) send(i);
    expect(lives[0].frames).toBe(4);
    // What came while the performer was learned is no measure of the delay.
    const { display } = store.view.body!;
    const count = display.skeleton.names.length;
    lives[0].told.next({ kind: 'begun', display });
    const pose = { positions: new Float64Array(count * 3).fill(0.5), rotations: new Float64Array(count * 4) };
    lives[0].told.next({ kind: 'frames', numbers: [0, 1], ...pose, work: 800, lost: 0 });
    send(4);
    send(5);
    await new Promise((resolve) => setTimeout(resolve, 260));
    lives[0].told.next({ kind: 'frames', numbers: [4, 5], ...pose, work: 8, lost: 7 });
    send(6);
    const figures = (): { key: string; pose: Pose }[] =>
      (fixture.componentInstance as unknown as { figures: () => { key: string; pose: Pose }[] }).figures();
    while (figures().length < 2) await settle();
    expect(figures()[1].key).toBe(characters[0].id);
    // Beside the performer, and as high.
    expect([...figures()[1].pose.positions.slice(0, 3)]).toEqual([1.7, 0.5, 0.5]);
    await settle();
    expect(host.textContent).toMatch(/delay \d+ ms, 99 % under \d+ ms/);
    expect(host.textContent).toContain('work 4.0 ms, 99 % under 4.0 ms');
    expect(host.textContent).toContain('7 frames lost and not bridged');
    // As a take on the rack has it: it begins anew.
    chooseTake(fixture, 'Labels and pairing as of', takes[0].id);
    await settle();
    expect(lives[0].isOver).toBeTrue();
    expect(lives[1].request.character.file).toBe(characters[0].file);
    lives[1].told.next({ kind: 'failed', fault: { code: 'option', message: 'no legs are found', where: {} } });
    await settle();
    expect(host.querySelector('[role=alert]')!.textContent).toContain('no legs are found');
    await press(`Take ${characters[0].name} off`);
    expect(host.textContent).not.toContain('no legs are found');
    expect(lives.every(({ isOver }) => isOver)).toBeTrue();
  });
});
