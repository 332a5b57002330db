import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { RecordingJson } from '@hollow-stride/contract';
import {
  DEFAULT_NAME_TABLE,
  DEFAULT_TAKE,
  driveShapes,
  resolveTable,
  type ClapsFound,
  type FaceTrack,
  type NameTable,
} from '@hollow-stride/core';
import { of, Subject } from 'rxjs';
import { makeFaceTrack } from '../../../../core/src/testing';
import { RecordingsComponent } from '../gather/recordings.component';
import { PairStore } from '../pair/pair.store';
import { ProjectStore, type Rack } from '../project/project.store';
import { SolveStore } from '../solve/solve.store';
import type { PairRequest } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { FigureStageComponent } from '../stage/figure-stage.component';
import { FakeFigureStage, select } from '../testing/fake-stage';
import { flushRack, makeRack } from '../testing/rack';
import { makeSolved } from '../testing/solved';
import { PlaybackService } from '../timeline/playback.service';
import { FaceComponent } from './face.component';
import { FaceStore } from './face.store';
import { weightsAt } from '../stage/face-keys';

const CHANNELS = ['jawOpen', 'eyeBlinkLeft', 'eyeBlinkRight', 'tongueOut', 'browInnerUp'];
const SHAPES = ['mouthOpen', 'lid_L', 'lid_R', 'kiss'];
const track: FaceTrack = makeFaceTrack(CHANNELS, { seconds: 3 });
const solvedOnce = makeSolved();
const idOf = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;

function recording(n: number, name: string, facts: RecordingJson['facts']): RecordingJson {
  const file = String(n).padStart(64, '0');
  return { id: idOf(n), version: 1, name, file, fileName: `${name}.csv`, bytes: 9, facts, isDemo: false, addedAt: '' };
}
const FACE = recording(71, 'Face', {
  kind: 'face',
  frames: track.frames,
  fps: 60,
  seconds: 3,
  start: 0,
  channels: CHANNELS.map((name) => ({ name, low: 0, high: 1 })),
  faults: [
    { kind: 'spike', from: 60, to: 60, channel: 'jawOpen', message: 'jawOpen: one frame jumps to 0.9' },
    { kind: 'flat', from: 0, to: 180, channel: 'tongueOut', message: 'tongueOut does not move' },
  ],
});
const SOUND = recording(72, 'Voice', { kind: 'sound', seconds: 3, rate: 16_000 });

function rackWithFaces(): Rack {
  const rack = makeRack();
  const choices = {
    ...DEFAULT_TAKE,
    face: { recording: FACE.id, offset: 0.5, rate: null, spikes: false, smooth: null },
    sound: { recording: SOUND.id, offset: 0.4 },
  };
  return {
    ...rack,
    takes: [{ ...rack.takes[0], choices }, rack.takes[1]],
    characters: [{ ...rack.characters[0], facts: { ...rack.characters[0].facts, shapes: SHAPES } }, rack.characters[1]],
    recordings: [FACE, SOUND],
    nameTables: [{ id: idOf(81), version: 1, name: 'Quay faces', table: { ...DEFAULT_NAME_TABLE, exchange: true }, addedAt: '' }],
  };
}

describe('Face', () => {
  let fixture: ComponentFixture<FaceComponent>;
  let host: HTMLElement;
  let claps: Subject<ClapsFound>;

  beforeEach(async () => {
    localStorage.clear();
    claps = new Subject();
    const solve = (pair: PairRequest) => {
      const table = resolveTable(CHANNELS, SHAPES, [], pair.choices.face ?? undefined);
      const offset = pair.take.choices.face?.offset ?? 0;
      const { weights } = driveShapes(track, table, { first: -offset, step: solvedOnce.take.frameTime }, solvedOnce.take);
      const face = pair.face && { track, offset, table, weights };
      const { solved: clip, take, figuresBelow, ...rest } = solvedOnce;
      return of({ ...rest, solved: clip, take, figuresBelow, pair, ...(face && { face }) });
    };
    const peaks = Float32Array.from({ length: 400 }, (_, i) => (i % 2 === 0 ? -0.2 : 0.3));
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        provideRouter([]),
        {
          provide: SolverService,
          useValue: {
            solve,
            preview: () => of(),
            sound: () => of({ seconds: 3, peaks, claps: [{ at: 0.3, strength: 9 }] }),
            claps: () => claps,
          },
        },
      ],
    });
    TestBed.overrideComponent(FaceComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    fixture = TestBed.createComponent(FaceComponent);
    host = fixture.nativeElement as HTMLElement;
    TestBed.inject(ProjectStore).load();
    flushRack(TestBed.inject(HttpTestingController), rackWithFaces());
    await settle();
  });

  async function settle(): Promise<void> {
    const [pairs, solve] = [TestBed.inject(PairStore), TestBed.inject(SolveStore)];
    for (let i = 0; i < 60; i++) {
      await new Promise((resolve) => setTimeout(resolve, 5));
      await fixture.whenStable();
      if (i > 2 && JSON.stringify(solve.state.solved?.pair) === JSON.stringify(pairs.now.request)) break;
    }
    fixture.detectChanges();
    await fixture.whenStable();
  }

  const names = (): NameTable => TestBed.inject(PairStore).now.choices.face ?? DEFAULT_NAME_TABLE;
  const laid = () => TestBed.inject(PairStore).now.take!.choices;
  const rows = (): string[] =>
    [...host.querySelectorAll('[role="option"]')].map((row) => {
      const parts = [...row.children].map((part) => part.textContent!.replace(/\s+/g, ' ').trim());
      return parts.filter((part) => part !== '').join(' ');
    });
  const button = (name: string): HTMLButtonElement =>
    [...host.querySelectorAll<HTMLButtonElement>('button')].find(
      (one) => (one.getAttribute('aria-label') ?? one.textContent!).trim() === name,
    )!;
  const press = async (name: string): Promise<void> => {
    button(name).click();
    await settle();
  };
  const number = async (label: string, value: string): Promise<void> => {
    const field = host.querySelector<HTMLInputElement>(`input[aria-label="${label}"]`)!;
    field.value = value;
    field.dispatchEvent(new Event('change', { bubbles: true }));
    await settle();
  };

  it('shows what drives each shape and why, and what is left over on both sides', () => {
    expect(rows()).toEqual([
      'mouthOpen jawOpen a name alike',
      'lid_L eyeBlinkLeft a name alike',
      'lid_R eyeBlinkRight a name alike',
      'kiss stays at rest',
    ]);
    expect(host.textContent).toContain('2 channels drive nothing: tongueOut, browInnerUp');
    expect(host.textContent).toContain('1 shapes stay at rest: kiss');
    expect(host.textContent).toContain('3 of 4 driven');
  });

  it('is corrected by hand: channels added with shares, taken away, and left to the name again', async () => {
    TestBed.inject(FaceStore).choose('kiss');
    await settle();
    select(host, '[aria-label="Channel that drives kiss too"]', 'tongueOut');
    await settle();
    await number('share of tongueOut', '0.5');
    expect(names().rows['kiss'].from).toEqual([{ channel: 'tongueOut', weight: 0.5 }]);
    expect(rows()[3]).toBe('kiss 0.5 × tongueOut by hand');
    await press('tongueOut drives it no more');
    expect(names().rows['kiss'].from).toEqual([]);
    await press('As its name proposes');
    expect('kiss' in names().rows).toBeFalse();
  });

  it('answers by strength, rest and limits while it stays proposed, and by a curve', async () => {
    TestBed.inject(FaceStore).choose('mouthOpen');
    await settle();
    await number('strength', '1.5');
    await number('at rest', '-0.05');
    // A lower limit above the upper one is no range: it is not taken.
    await number('no lower than', '2');
    const row = names().rows['mouthOpen'];
    expect([row.from, row.strength, row.rest, row.low, row.high]).toEqual([null, 1.5, -0.05, 0, 1]);
    await press('Bend the response');
    await press('Add a point');
    await number('point 2, on the character', '0.2');
    // Past its neighbour a point does not go.
    await number('point 2, recorded', '1.5');
    expect(names().rows['mouthOpen'].curve).toEqual([
      [0, 0],
      [0.5, 0.2],
      [1, 1],
    ]);
    await press('Remove point 2');
    await press('Remove point 1');
    expect(names().rows['mouthOpen'].curve).toBeNull();
  });

  it('exchanges the sides, and uses and keeps name tables', async () => {
    await press('left ↔ right');
    expect(names().exchange).toBeTrue();
    await press('left ↔ right');
    await press('Use the name table Quay faces');
    expect(names().exchange).toBeTrue();
    const name = host.querySelector<HTMLInputElement>('[aria-label="Name of the name table"]')!;
    name.value = 'Bell faces';
    name.dispatchEvent(new Event('input'));
    await fixture.whenStable();
    button('Keep as table').click();
    const sent = TestBed.inject(HttpTestingController).expectOne('/api/name-tables');
    expect((sent.request.body as { name: string; table: NameTable }).table).toEqual(names());
  });

  it('lays face and sound where the clap is heard and seen, both by as much', async () => {
    button('Find the clap').click();
    await fixture.whenStable();
    claps.next({ seen: [{ at: 1.1, strength: 3 }], found: { offset: 0.8, agreed: 1 } });
    claps.complete();
    await settle();
    expect([laid().face!.offset, laid().sound!.offset]).toEqual([0.9, 0.8]);
    const slider = host.querySelector<HTMLElement>('[role="slider"]')!;
    slider.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowLeft', shiftKey: true, bubbles: true }));
    await settle();
    expect([laid().face!.offset, laid().sound!.offset]).toEqual([0.8, 0.7]);
    expect(slider.getAttribute('aria-valuetext')).toBe('0.80 seconds');
  });

  it('is dragged by the sound to where it belongs', async () => {
    const slider = host.querySelector<HTMLElement>('[role="slider"]')!;
    slider.setPointerCapture = () => undefined;
    const width = host.querySelector('.lanes')!.clientWidth;
    const seconds = (solvedOnce.take.frames - 1) * solvedOnce.take.frameTime;
    slider.dispatchEvent(new PointerEvent('pointerdown', { clientX: 100, pointerId: 1, bubbles: true }));
    slider.dispatchEvent(new PointerEvent('pointermove', { clientX: 100 + width / 10, pointerId: 1, bubbles: true }));
    slider.dispatchEvent(new PointerEvent('pointerup', { pointerId: 1, bubbles: true }));
    await settle();
    expect(laid().face!.offset).toBeCloseTo(0.5 + seconds / 10, 3);
    expect(laid().sound!.offset).toBeCloseTo(0.4 + seconds / 10, 3);
  });

  it('says what is wrong with the recording, goes there, and cleans it', async () => {
    button('jawOpen: one frame jumps to 0.9').click();
    const { frame, frameTime } = TestBed.inject(PlaybackService).state;
    expect(frame * frameTime).toBeCloseTo(1 + 0.5, 1);
    expect(host.textContent).toContain('1 channels do not move: tongueOut');
    host.querySelector<HTMLInputElement>('input[type="checkbox"]')!.click();
    await settle();
    await number('smooth below, Hz', '12');
    await number('recorded at, 1/s', '59.94');
    expect(laid().face).toEqual({ recording: FACE.id, offset: 0.5, rate: 59.94, spikes: true, smooth: 12 });
    await number('smooth below, Hz', '0');
    expect(laid().face!.smooth).toBeNull();
  });

  it('plays no face where none is chosen, and says what to do', async () => {
    select(host, '[aria-label="Face recording"]', '');
    await settle();
    expect(laid().face).toBeNull();
    expect(host.textContent).toContain('No face yet');
    select(host, '[aria-label="Face recording"]', FACE.id);
    await settle();
    // It lies where the sound of its recorder does.
    expect(laid().face!.offset).toBe(0.4);
  });

  it('stands among the faces and sounds of Gather, with what was recorded and its faults', async () => {
    const list = TestBed.createComponent(RecordingsComponent);
    await list.whenStable();
    const rows = [...(list.nativeElement as HTMLElement).querySelectorAll('hs-item-row .facts')].map((row) =>
      [...row.children].map((part) => part.textContent!.replace(/\s+/g, ' ').trim()).join(', '),
    );
    expect(rows).toEqual(['5 channels, 60/s, 3.0 s, 1 fault', 'sound, 16 kHz, 3.0 s']);
  });

  it('weighs shapes between keys as the stage does', () => {
    const face = { times: Float32Array.of(0, 1, 3), shapes: ['a', 'b'], values: Float32Array.of(0, 1, 1, 0, 0, 0.5) };
    expect([0, 0.5, 1, 2, 3, 9].map((t) => weightsAt(face, t))).toEqual([
      [0, 1],
      [0.5, 0.5],
      [1, 0],
      [0.5, 0.25],
      [0, 0.5],
      [0, 0.5],
    ]);
  });
});
