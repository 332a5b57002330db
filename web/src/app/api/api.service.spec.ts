import { ALL_TAKES } from '@hollow-stride/contract';
import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { HttpEventType, type HttpDownloadProgressEvent } from '@angular/common/http';
import { makeRack, pageOf } from '../testing/rack';
import { type ApiError } from './answers';
import { ApiService, type UploadStep } from './api.service';

describe('ApiService', () => {
  let api: ApiService;
  let http: HttpTestingController;

  beforeEach(() => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    api = TestBed.inject(ApiService);
    http = TestBed.inject(HttpTestingController);
  });
  afterEach(() => http.verify());

  const failure = (call: (next: { error: (e: unknown) => void }) => void): ApiError => {
    let caught: unknown;
    call({ error: (e) => (caught = e) });
    return caught as ApiError;
  };

  it('gives the rack, checked', () => {
    const { takes, ...rack } = makeRack();
    const names: string[] = [];
    api.rack().subscribe(({ items }) => names.push(...items.characters.map((c) => c.name)));
    http.expectOne('/api/rack').flush(rack);
    api.takes({ ...ALL_TAKES, text: 'o', order: 'name' }, 60).subscribe(({ items }) => names.push(...items.takes.map((t) => t.name)));
    const asked = http.expectOne(({ url }) => url === '/api/takes');
    expect(asked.request.params.toString()).toBe('text=o&tag=&order=name&skeleton=&from=60');
    asked.flush(pageOf(takes));
    expect(names).toEqual(['Ferryman', 'Heron', 'Quay walk', 'Slow bow']);
  });

  it('shows what it understands of a rack, and names what it does not with a way to its file', () => {
    const { takes, ...rack } = makeRack();
    const [good, bad] = rack.characters;
    let seen: { characters: number; unreadable: readonly unknown[] } | undefined;
    api.rack().subscribe(({ items, unreadable }) => (seen = { characters: items.characters.length, unreadable }));
    http.expectOne('/api/rack').flush({ ...rack, characters: [good, { ...bad, facts: { ...bad.facts, joints: -1 } }, 'nonsense'] });
    expect(seen?.characters).toBe(1);
    expect(seen?.unreadable).toEqual([
      { kind: 'characters', id: bad.id, name: 'Heron', file: bad.file, why: jasmine.stringMatching(/^facts\.joints: /) as never },
    ]);
    let listed: { takes: number; unreadable: number } | undefined;
    api.takes(ALL_TAKES, 0).subscribe(({ items, unreadable }) => (listed = { takes: items.takes.length, unreadable: unreadable.length }));
    http
      .expectOne(({ url }) => url === '/api/takes')
      .flush({ ...pageOf(takes), takes: [takes[0], { ...takes[1], name: 'x'.repeat(500) }] });
    expect(listed).toEqual({ takes: 1, unreadable: 1 });
  });

  it('takes no answer that is not what was agreed', () => {
    let error: ApiError | undefined;
    api.rack().subscribe({ error: (e: ApiError) => (error = e) });
    http.expectOne('/api/rack').flush({ takes: 'many' });
    expect(error?.fault.message).toContain('was not understood');
  });

  it('tells how far an upload is, then what came of it', () => {
    const seen: UploadStep[] = [];
    api.upload([new File(['abc'], 'a.bvh')]).subscribe((p) => seen.push(p));
    const request = http.expectOne('/api/files');
    expect(request.request.headers.get('accept')).toBe('application/x-ndjson');
    request.event({ type: HttpEventType.UploadProgress, loaded: 50, total: 200 });
    const reading = '{"kind":"reading","fileName":"a.bvh"}\n';
    request.event({ type: HttpEventType.DownloadProgress, loaded: 9, partialText: reading } as HttpDownloadProgressEvent);
    const file = { fileName: 'a.bvh', known: true, takes: [], characters: [], recordings: [], meshes: [] };
    request.flush(`${reading}${JSON.stringify({ kind: 'file', file })}\n{"kind":"end","ignored":[]}\n`);
    expect(seen).toEqual([
      { kind: 'sent', share: 0.25 },
      { kind: 'reading', fileName: 'a.bvh' },
      { kind: 'file', file },
      { kind: 'end', ignored: [] },
    ]);
  });

  it('asks the depot only for what is searched', () => {
    let total = 0;
    api.searchDepot({ text: 'bow', tag: '', longest: '9' }).subscribe((page) => (total = page.total));
    const request = http.expectOne((r) => r.url === '/api/depot/motions');
    expect(request.request.params.toString()).toBe('text=bow&longest=9');
    request.flush({ motions: [], total: 7, page: 0, pages: 1, tags: [] });
    expect(total).toBe(7);
  });

  it('tells what a fetch from the depot says as it says it, line by line', () => {
    const seen: string[] = [];
    api
      .fetchFromDepot({ id: 'bow', travel: 'in-place', fps: 30, body: 'motion', line: 'drops' })
      .subscribe((event) => seen.push(event.kind));
    const request = http.expectOne('/api/depot/fetch');
    const lines = ['{"kind":"progress","received":5,"total":9}\n', '{"kind":"resumed","received":5,"attempt":1}\n'];
    const told = (partialText: string): void =>
      request.event({ type: HttpEventType.DownloadProgress, loaded: partialText.length, partialText } as HttpDownloadProgressEvent);
    told(lines[0].slice(0, 20));
    expect(seen).toEqual([]);
    told(lines[0]);
    told(lines[0] + lines[1]);
    expect(seen).toEqual(['progress', 'resumed']);
    request.flush(`${lines.join('')}{"kind":"failed","fault":{"code":"option","message":"broke","where":{}}}\n`);
    expect(seen).toEqual(['progress', 'resumed', 'failed']);
  });

  it('turns refusals into faults with their place, and everything else into one that helps', () => {
    const fault = { code: 'bvh/number', message: 'no number', where: { line: 4 } };
    const refused = failure((next) => {
      api.change('takes', 'x', { base: 1, name: 'y' }).subscribe(next);
      http.expectOne('/api/takes/x').flush({ error: fault }, { status: 422, statusText: 'no' });
    });
    expect([refused.status, refused.fault]).toEqual([422, fault as never]);
    const row = { version: 7, name: 'theirs' };
    const stale = failure((next) => {
      api.change('takes', 'x', { base: 1, name: 'y' }).subscribe(next);
      http.expectOne('/api/takes/x').flush({ error: fault, current: row }, { status: 409, statusText: 'no' });
    });
    expect([stale.status, stale.current, refused.current]).toEqual([409, row, undefined]);
    const odd = failure((next) => {
      api.file('f').subscribe(next);
      http.expectOne('/api/files/f').flush(new ArrayBuffer(0), { status: 502, statusText: 'no' });
    });
    expect(odd.fault.message).toContain('answered 502');
    const silent = failure((next) => {
      api.performerAsCharacter('t').subscribe(next);
      http.expectOne('/api/takes/t/as-character').error(new ProgressEvent('error'));
    });
    expect(silent.fault.message).toContain('still running');
  });
});
