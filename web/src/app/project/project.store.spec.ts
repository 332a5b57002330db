import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import type { CharacterJson, RackJson, TakeJson } from '@hollow-stride/contract';
import { firstValueFrom } from 'rxjs';
import { NoticesService } from '../notices/notices.service';
import { ProjectStore } from './project.store';

const id = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const hash = (n: number): string => String(n).padStart(64, '0');
const facts = {
  format: 'bvh' as const,
  joints: 21,
  hasMesh: false,
  prefix: '',
  clips: [{ name: 'walk', frames: 90, fps: 30, seconds: 3 }],
  warnings: [],
};
const take = (n: number, name: string): TakeJson => ({
  id: id(n),
  name,
  file: hash(n),
  fileName: `${name}.bvh`,
  bytes: 10,
  clip: 0,
  facts,
  isDemo: false,
  addedAt: '',
});
const character = (n: number, name: string): CharacterJson => ({
  id: id(n),
  name,
  file: hash(n),
  fileName: `${name}.glb`,
  bytes: 10,
  facts,
  isDemo: false,
  addedAt: '',
});

describe('ProjectStore', () => {
  let store: ProjectStore;
  let http: HttpTestingController;
  const rack: RackJson = { takes: [take(1, 'walk'), take(2, 'bow')], characters: [character(3, 'heron')], transfers: [], pairings: [] };

  beforeEach(() => {
    localStorage.clear();
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    store = TestBed.inject(ProjectStore);
    http = TestBed.inject(HttpTestingController);
  });

  function load(answer: RackJson = rack): void {
    store.load();
    http.expectOne('/api/rack').flush(answer);
  }

  const notices = () => firstValueFrom(TestBed.inject(NoticesService).notices$);

  it('chooses what is first, and keeps a choice that is still there', async () => {
    load();
    expect(store.state.selection).toEqual({ take: id(1), character: id(3) });
    store.choose({ take: id(2) });
    load();
    expect((await firstValueFrom(store.take$))?.name).toBe('bow');
    load({ ...rack, takes: [rack.takes[0]] });
    expect(store.state.selection.take).toBe(id(1));
  });

  it('brings files in, chooses them, and keeps refusals in sight', async () => {
    load();
    store.bringIn([new File(['x'], 'a.bvh'), new File(['y'], 'b.bvh')]);
    const error = { code: 'bvh/number', message: 'no number', where: { file: 'b.bvh', line: 4 } };
    http.expectOne('/api/files').flush({
      files: [
        { fileName: 'a.bvh', known: false, takes: [take(2, 'bow')], characters: [] },
        { fileName: 'b.bvh', known: false, takes: [], characters: [], error },
      ],
    });
    http.expectOne('/api/rack').flush(rack);
    expect(store.state.selection.take).toBe(id(2));
    expect(store.state.refused.map((r) => r.fileName)).toEqual(['b.bvh']);
    expect((await notices()).map((n) => n.text)).toContain('b.bvh, line 4: no number');
  });

  it('removes with a way back', async () => {
    load();
    store.remove('takes', id(1), 'walk');
    http.expectOne((r) => r.method === 'PATCH').flush(null);
    http.expectOne('/api/rack').flush({ ...rack, takes: [rack.takes[1]] });
    const [notice] = await notices();
    TestBed.inject(NoticesService).undo(notice);
    const back = http.expectOne(`/api/takes/${id(1)}`);
    expect(back.request.body).toEqual({ removed: false });
  });

  it('shows a refusal of the server with its reason', async () => {
    load();
    store.rename('takes', id(1), 'other');
    http
      .expectOne(`/api/takes/${id(1)}`)
      .flush({ error: { code: 'option', message: 'it is not on the rack', where: {} } }, { status: 404, statusText: 'Not Found' });
    expect((await notices()).at(-1)).toEqual(jasmine.objectContaining({ kind: 'fault', text: 'it is not on the rack' }));
  });

  it('says when the server does not answer', async () => {
    store.load();
    http.expectOne('/api/rack').error(new ProgressEvent('error'));
    expect((await notices()).at(-1)?.text).toContain('does not answer');
  });
});
