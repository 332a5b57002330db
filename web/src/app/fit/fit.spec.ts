import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideRouter } from '@angular/router';
import type { MeshJson } from '@hollow-stride/contract';
import { bindMesh, DEFAULT_FIT, Memory, layMesh, openMesh, restClip, type LaidMesh, type OpenMesh } from '@hollow-stride/core';
import { from, of } from 'rxjs';
import { clayBody, clayObj, clayShape } from '../../../../core/src/testing';
import { HistoryService } from '../history/history.service';
import { IntakeStore } from '../project/intake.store';
import { ProjectStore } from '../project/project.store';
import type { TakeSource } from '../solver/messages';
import { FigureStageComponent } from '../stage/figure-stage.component';
import type { Figure } from '../stage/figure-view';
import { FakeFigureStage, pressable, select } from '../testing/fake-stage';
import { flushRack, idOf, makeRack } from '../testing/rack';
import { chooseTake } from '../testing/takes';
import { FitComponent } from './fit.component';
import { FitService } from './fit.service';
import { FitStore } from './fit.store';
import type { FitSource, PictureView } from './messages';
import { coloursOf, drawBody, pixelOf, placeOf, scaleOf } from './picture';
import { boundViewOf, laidViewOf } from './views';

const NAMED = 'clay.obj';
const bytes = clayObj(clayBody(clayShape(1), 0.04));
const mesh = openMesh(bytes, NAMED);
const memory = new Memory();
const laidOf = async ({ choices }: FitSource): Promise<LaidMesh> => layMesh(await mesh, choices, memory);

describe('pictures of a mesh', () => {
  let laid: LaidMesh;
  beforeAll(async () => (laid = layMesh(await mesh, DEFAULT_FIT, memory)));
  const view: PictureView = { yaw: 0.7, width: 200, height: 260, weights: null };

  it('have each place at its pixel, from any side', () => {
    const scale = scaleOf(laid.body, view.width, view.height);
    for (const yaw of [0, 0.7, Math.PI / 2, -2]) {
      const turned = { ...view, yaw };
      const place = laid.landmarks['left.elbow'];
      const [x, y, nearness] = pixelOf(place, turned, scale);
      placeOf(x, y, nearness, turned, scale).forEach((v, c) => expect(v).toBeCloseTo(place[c], 9));
      expect(x > 0 && x < view.width && y > 0 && y < view.height).toBeTrue();
    }
    // Seen from the front, what is to the body's left is to the right.
    const front = { ...view, yaw: 0 };
    expect(pixelOf(laid.landmarks['left.hip'], front, scale)[0]).toBeGreaterThan(pixelOf(laid.landmarks['right.hip'], front, scale)[0]);
  });

  it('show the surface that is nearest, at its own depth', () => {
    const front = { ...view, yaw: 0 };
    const { depth, scale, pixels } = drawBody(laid.body, front, undefined);
    const [x, y, nearness] = pixelOf(laid.landmarks['left.knee'], front, scale);
    const o = Math.floor(y) * front.width + Math.floor(x);
    expect(pixels[o * 4 + 3]).toBe(255);
    // The knee's joint lies inside: its skin is nearer, by about half the leg.
    expect(depth[o] - nearness).toBeGreaterThan(0.02);
    expect(depth[o] - nearness).toBeLessThan(0.1);
    expect(depth[0]).toBe(-Infinity);
  });

  it('show how much a joint moves each point', () => {
    const weights = { joints: Uint16Array.of(0, 1, 0, 0, 1, 0, 0, 0), values: Float32Array.of(0.75, 0.25, 0, 0, 1, 0, 0, 0) };
    const [quarter, whole] = [0, 3].map((i) => coloursOf(weights, ['a', 'b'], 'b')[i]);
    const none = coloursOf(weights, ['a', 'b'], 'a')[3];
    expect((none - quarter) / (none - whole)).toBeCloseTo(0.25, 1);
  });
});

describe('Fit', () => {
  let fixture: ComponentFixture<FitComponent>;
  let host: HTMLElement;
  let store: FitStore;
  let tried: readonly TakeSource[];
  let opened: OpenMesh;
  let calls: { bound: number; cancelled: number };
  let rows: HttpTestingController;

  beforeEach(async () => {
    localStorage.clear();
    sessionStorage.clear();
    opened = await mesh;
    tried = [];
    calls = { bound: 0, cancelled: 0 };
    const row: MeshJson = {
      id: idOf(800),
      version: 1,
      name: 'Clay',
      file: 'c'.repeat(64),
      fileName: NAMED,
      bytes: bytes.length,
      facts: JSON.parse(JSON.stringify(opened.facts)) as MeshJson['facts'],
      choices: DEFAULT_FIT,
      isDemo: false,
      addedAt: '2026-11-01T00:00:00.000Z',
    };
    // The core itself, without the worker around it.
    const service = {
      lay: (source: FitSource) => from(laidOf(source).then(laidViewOf)),
      picture: (source: FitSource, view: PictureView) => from(laidOf(source).then(({ body }) => drawBody(body, view, undefined))),
      bind: (source: FitSource, name: string) =>
        from(
          laidOf(source)
            .then((laid) => bindMesh(laid, source.choices, name, memory))
            .then((bound) => {
              calls.bound++;
              return boundViewOf(source, bound);
            }),
        ),
      try: (_: FitSource, __: string, takes: readonly TakeSource[]) => {
        tried = takes;
        const { skeleton } = store.state.bound!.display;
        return of(
          takes.map((_, i) =>
            i === 1
              ? { fault: { code: 'option', message: 'no legs', where: {} } }
              : { clip: restClip(skeleton, 50, 1 / 60), faults: 0, cautions: i },
          ),
        );
      },
      cancel: () => calls.cancelled++,
    };
    TestBed.configureTestingModule({
      providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([]), { provide: FitService, useValue: service }],
    });
    TestBed.overrideComponent(FitComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    fixture = TestBed.createComponent(FitComponent);
    host = fixture.nativeElement as HTMLElement;
    store = TestBed.inject(FitStore);
    rows = TestBed.inject(HttpTestingController);
    TestBed.inject(ProjectStore).load();
    flushRack(rows, { ...makeRack(), meshes: [row] });
    await settle();
  });

  async function settle(): Promise<void> {
    do {
      await new Promise((resolve) => setTimeout(resolve, 60));
      await fixture.whenStable();
    } while (store.state.busy !== undefined || !store.state.laid);
    fixture.detectChanges();
    await fixture.whenStable();
  }
  const press = async (...names: string[]): Promise<void> => {
    for (const name of names) {
      pressable(host, name).click();
      fixture.detectChanges();
      await settle();
    }
  };
  const mark = (name: string, view = 'front'): HTMLElement => host.querySelector<HTMLElement>(`.mark[aria-label="${name}, ${view}"]`)!;
  const key = async (target: HTMLElement, key: string, shiftKey = false): Promise<void> => {
    target.dispatchEvent(new KeyboardEvent('keydown', { key, shiftKey, bubbles: true }));
    await settle();
  };

  it('shows the landmarks from two sides, and moves them by keys for both sides of the body', async () => {
    expect(host.querySelectorAll('hs-fit-view').length).toBe(2);
    const before = store.state.laid!.landmarks['left.elbow'];
    await key(mark('left.elbow'), 'ArrowUp');
    await key(mark('left.elbow'), 'ArrowRight', true);
    // From the side, to the right is to the back.
    await key(mark('left.elbow', 'left side'), 'ArrowRight');
    const { landmarks, middle } = store.state.laid!;
    expect(landmarks['left.elbow'].map((v, c) => Math.round((v - before[c]) * 1000))).toEqual([1, 10, -10]);
    expect(landmarks['right.elbow'][0]).toBeCloseTo(2 * middle - landmarks['left.elbow'][0], 4);
    const bone = store.state.laid!.bones.find(
      ({ name, from: at }) => name === 'leftLowerArm' && at.every((v, c) => v === landmarks['left.elbow'][c]),
    );
    expect(bone).toBeDefined();
    TestBed.inject(HistoryService).undo();
    await settle();
    expect(store.state.laid!.landmarks['left.elbow']).not.toEqual(landmarks['left.elbow']);
  });

  it('drags a landmark where the pointer goes, at the depth it has', async () => {
    const target = mark('left.wrist');
    const before = store.state.laid!.landmarks['left.wrist'];
    const box = target.querySelector('.reach')!.getBoundingClientRect();
    const at = { clientX: box.x + box.width / 2, clientY: box.y + box.height / 2 };
    target.setPointerCapture = () => undefined;
    target.releasePointerCapture = () => undefined;
    target.dispatchEvent(new PointerEvent('pointerdown', { ...at, pointerId: 1, bubbles: true }));
    target.dispatchEvent(new PointerEvent('pointermove', { clientX: at.clientX + 20, clientY: at.clientY, pointerId: 1, bubbles: true }));
    target.dispatchEvent(new PointerEvent('pointerup', { pointerId: 1, bubbles: true }));
    await settle();
    const after = store.state.laid!.landmarks['left.wrist'];
    expect(after[0]).toBeGreaterThan(before[0] + 0.01);
    expect(after[2]).toBeCloseTo(before[2], 4);
    await press('Where it was found');
    expect(store.state.laid!.landmarks['left.wrist']).toEqual(before);
  });

  it('binds when told to, says when that is out of date, and lets a place be brushed', async () => {
    expect((pressable(host, 'skin') as HTMLButtonElement).disabled).toBeTrue();
    await press('Bind the skin', 'skin');
    expect(host.textContent).toContain('52 joints');
    await press('leftUpperArm', 'Even out at leftUpperArm');
    expect(store.choices!.strokes.length).toBe(1);
    expect(calls.bound).toBe(2);
    expect(store.isStale).toBeFalse();
    await press('landmarks');
    select(host, 'select[aria-label="fingers"]', '0');
    await settle();
    expect(host.textContent).toContain('changed since it was bound');
    expect((pressable(host, 'Put on the rack') as HTMLButtonElement).disabled).toBeTrue();
    await press('Bind anew');
    expect(store.state.bound!.names).not.toContain('leftThumb1');
  });

  it('tries the character by the range check and by three takes beside each other', async () => {
    await press('Bind the skin', 'try');
    const figures = (): readonly Figure[] => (fixture.componentInstance as unknown as { figures: () => readonly Figure[] }).figures();
    expect(figures().length).toBe(1);
    expect(figures()[0].clip).toBe(store.state.bound!.range.clip);
    await press('3 takes');
    expect(tried.map(({ name }) => name)).toEqual(['quay-walk.bvh', 'slow-bow.bvh']);
    expect(figures().length).toBe(1);
    expect(host.querySelector('.results')?.textContent).toContain('no legs');
    chooseTake(fixture, 'Take 2', makeRack().takes[0].id);
    await settle();
    expect(tried.map(({ name }) => name)).toEqual(['quay-walk.bvh', 'quay-walk.bvh']);
  });

  it('is turned and stood up by hand, and by landmarks of a file', async () => {
    select(host, 'select[aria-label="Unit"]', '0.01');
    await settle();
    expect(store.state.laid!.height).toBeCloseTo(
      0.01 * opened.surface.positions.reduce((most, v, i) => (i % 3 === 1 ? Math.max(most, v) : most), 0),
      2,
    );
    await press('As guessed');
    const { laid } = store.state;
    const landmarks = { 'left.knee': [0.1, 0.4, 0.05] };
    const text = JSON.stringify({ format: 'hollow-stride/landmarks', version: 1, height: laid!.height * 2, landmarks });
    await store.loadLandmarks(new File([text], 'other.landmarks.json'));
    await settle();
    expect(store.state.laid!.landmarks['left.knee'][1]).toBeCloseTo(0.2, 4);
    await store.loadLandmarks(new File(['{}'], 'bad.json'));
    await settle();
    expect(store.state.laid!.landmarks['left.knee'][1]).toBeCloseTo(0.2, 4);
  });

  it('puts the character on the rack as a file of its own', async () => {
    const brought = spyOn(TestBed.inject(IntakeStore), 'bringIn');
    await press('Bind the skin', 'Put on the rack');
    const [[file]] = brought.calls.mostRecent().args;
    expect(file.name).toBe('Clay.glb');
    expect(new TextDecoder().decode((await file.arrayBuffer()).slice(0, 4))).toBe('glTF');
  });
});
