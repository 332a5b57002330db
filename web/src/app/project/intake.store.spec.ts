import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting, type TestRequest } from '@angular/common/http/testing';
import { firstValueFrom } from 'rxjs';
import { NoticesService } from '../notices/notices.service';
import { flushRack, makeRack } from '../testing/rack';
import { IntakeStore } from './intake.store';
import { parcels } from './parcels';
import { ProjectStore } from './project.store';

const file = (path: string, bytes = 1): File => {
  const made = new File([], path.slice(path.lastIndexOf('/') + 1));
  Object.defineProperty(made, 'size', { value: bytes });
  if (path.includes('/')) Object.defineProperty(made, 'webkitRelativePath', { value: path });
  return made;
};

describe('parcels of files', () => {
  const counts = (files: File[]): number[] => parcels(files).map((parcel) => parcel.length);
  const many = (n: number, ending: string, bytes = 1): File[] => Array.from({ length: n }, (_, i) => file(`take_${i}.${ending}`, bytes));

  it('hold every file, few enough and small enough for one request', () => {
    const files = [...many(730, 'bvh'), ...many(5, 'glb', 40e6)];
    const all = parcels(files);
    expect(new Set(all.flat()).size).toBe(735);
    expect(all.flat().length).toBe(735);
    expect(Math.max(...all.map((parcel) => parcel.length))).toBe(100);
    const sizes = all.map((parcel) => parcel.reduce((sum, { size }) => sum + size, 0));
    expect(Math.max(...sizes)).toBeLessThan(68e6);
    expect(counts(many(1, 'bvh', 300e6))).toEqual([1]);
    expect(counts([])).toEqual([]);
  });

  it('give Acclaim motions their skeletons, in every parcel', () => {
    const all = parcels([file('body.asf'), ...many(150, 'amc')]);
    expect(all.map((parcel) => [parcel.length, parcel[0].name])).toEqual([
      [101 - 1, 'body.asf'],
      [52, 'body.asf'],
    ]);
    expect(counts([file('body.asf')])).toEqual([1]);
  });

  it('keep a document and its parts together', () => {
    expect(counts([file('a/body.gltf'), file('a/body.bin'), file('textures/coat.png')])).toEqual([3]);
    const folders = Array.from({ length: 60 }, (_, i) => [file(`all/b${i}/body.gltf`), file(`all/b${i}/body.bin`)]).flat();
    expect(parcels(folders).every((parcel) => parcel.length === 2)).toBeTrue();
  });
});

describe('IntakeStore', () => {
  let store: IntakeStore;
  let http: HttpTestingController;
  const rack = makeRack();
  beforeEach(() => {
    localStorage.clear();
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    store = TestBed.inject(IntakeStore);
    http = TestBed.inject(HttpTestingController);
  });

  const texts = async (): Promise<string[]> => (await firstValueFrom(TestBed.inject(NoticesService).notices$)).map(({ text }) => text);
  const taken = (name: string, n: number, known = false) => ({
    kind: 'file',
    file: { fileName: name, known, takes: [rack.takes[n]], characters: [] },
  });
  const refused = (name: string) => ({
    kind: 'file',
    file: {
      fileName: name,
      known: false,
      takes: [],
      characters: [],
      error: { code: 'bvh/number', message: 'no number', where: { file: name, line: 4 } },
    },
  });
  const answer = (request: TestRequest, ...events: object[]): void =>
    request.flush([...events, { kind: 'end', ignored: [] }].map((event) => `${JSON.stringify(event)}\n`).join(''));

  it('brings files in, chooses the first, and keeps refusals in sight', async () => {
    store.bringIn([file('a.bvh'), file('b.bvh')]);
    expect(store.state.upload).toEqual(jasmine.objectContaining({ what: '2 files', files: 2, done: 0 }));
    answer(http.expectOne('/api/files'), taken('a.bvh', 1), refused('b.bvh'));
    flushRack(http, rack);
    expect(store.state.upload).toBeUndefined();
    expect(TestBed.inject(ProjectStore).state.selection.take).toBe(rack.takes[1].id);
    expect(store.state.refused.map(({ fileName }) => fileName)).toEqual(['b.bvh']);
    expect(await texts()).toEqual(jasmine.arrayWithExactContents(['b.bvh, line 4: no number', 'a.bvh brought in']));
  });

  it('sends a large folder in parcels, one after the other, and one that fails does not keep the others', async () => {
    store.bringIn(Array.from({ length: 250 }, (_, i) => file(`${i}.bvh`)));
    answer(http.expectOne('/api/files'), taken('0.bvh', 0));
    expect(store.state.upload?.done).toBe(1);
    const fault = { error: { code: 'option', message: 'the disk is full', where: {} } };
    http.expectOne('/api/files').flush(JSON.stringify(fault), { status: 507, statusText: 'Insufficient Storage' });
    expect(store.state.upload?.failed).toBe(100);
    answer(http.expectOne('/api/files'), taken('200.bvh', 1, true));
    flushRack(http, rack);
    const said = (await texts()).join();
    expect(said).toContain('the disk is full');
    expect(said).toContain('0.bvh brought in; 200.bvh: the same content was on the rack already');
  });

  it('can be ended: what was read by then stays, nothing more of it is sent, and what was dropped meanwhile is next', () => {
    store.bringIn(Array.from({ length: 150 }, (_, i) => file(`${i}.bvh`)));
    answer(http.expectOne('/api/files'), taken('0.bvh', 0));
    const second = http.expectOne('/api/files');
    store.bringIn([file('z.bvh')]);
    http.expectNone('/api/files');
    expect(store.state.waiting).toBe(1);
    store.end();
    expect(second.cancelled).toBeTrue();
    flushRack(http, rack);
    expect(TestBed.inject(ProjectStore).state.selection.take).toBe(rack.takes[0].id);
    // Files dropped meanwhile are next.
    answer(http.expectOne('/api/files'), taken('z.bvh', 1, true));
    flushRack(http, rack);
    expect([store.state.upload, store.state.waiting]).toEqual([undefined, 0]);
    expect(TestBed.inject(ProjectStore).state.selection.take).toBe(rack.takes[1].id);
  });

  it('says which file is read', () => {
    store.bringIn([file('slow.glb')]);
    const request = http.expectOne('/api/files');
    request.event({ type: 3, loaded: 1, partialText: '{"kind":"reading","fileName":"slow.glb"}\n' } as never);
    expect(store.state.upload?.reading).toBe('slow.glb');
    answer(request, refused('slow.glb'));
  });
});
