import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import type { CharacterJson, RackJson, TakeJson } from '@hollow-stride/contract';
import { DEFAULT_SKELETON, DEFAULT_TAKE } from '@hollow-stride/core';
import { firstValueFrom } from 'rxjs';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { flushRack, idOf, makeRack, pageOf } from '../testing/rack';
import { DEFAULT_CHOICES, ProjectStore, type Rack } from './project.store';

const named = <T extends { id: string; name: string }>(item: T, n: number, name: string): T => ({ ...item, id: idOf(n), name });

const omit = ({ takes: _takes, ...rest }: Rack): RackJson => rest;

describe('ProjectStore', () => {
  let store: ProjectStore;
  let http: HttpTestingController;
  const full = makeRack();
  const take = (n: number, name: string): TakeJson => named(full.takes[n - 1] ?? full.takes[0], n, name);
  const character = (n: number, name: string): CharacterJson => named(full.characters[0], n, name);
  const rack: Rack = { ...full, takes: [take(1, 'walk'), take(2, 'bow')], characters: [character(3, 'heron')] };

  beforeEach(() => {
    localStorage.clear();
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    store = TestBed.inject(ProjectStore);
    http = TestBed.inject(HttpTestingController);
  });

  function load(answer: Rack = rack): void {
    store.load();
    flushRack(http, answer);
  }

  const notices = () => firstValueFrom(TestBed.inject(NoticesService).notices$);

  it('chooses what is first, and keeps a choice that is still there', async () => {
    load();
    expect(store.state.selection).toEqual({ take: idOf(1), character: idOf(3) });
    store.choose({ take: idOf(2) });
    load();
    expect((await firstValueFrom(store.take$))?.name).toBe('bow');
    load({ ...rack, takes: [rack.takes[0]] });
    expect(store.state.selection.take).toBe(idOf(1));
  });

  it('finds a chosen take that stands on a later page, and one that an address names', async () => {
    const far = take(9, 'far');
    store.choose({ take: far.id });
    store.load();
    http.expectOne('/api/rack').flush(omit(rack));
    http.expectOne(({ url }) => url === '/api/takes').flush(pageOf(rack.takes, 3));
    http.expectOne(`/api/takes/${far.id}`).flush(far);
    expect((await firstValueFrom(store.take$))?.name).toBe('far');
    store.find(far.id);
    http.expectNone(`/api/takes/${far.id}`);
    store.find(idOf(8));
    http.expectOne(`/api/takes/${idOf(8)}`).flush(take(8, 'named'));
    expect(store.state.rack.takes.some(({ name }) => name === 'named')).toBeTrue();
  });

  it('takes off what it cannot read', () => {
    store.load();
    http.expectOne('/api/rack').flush({ ...omit(rack), characters: [{ ...rack.characters[0], bytes: 'many' }] });
    http.expectOne(({ url }) => url === '/api/takes').flush(pageOf(rack.takes));
    const [odd] = store.state.unreadable;
    expect([odd.kind, odd.name, store.state.loaded]).toEqual(['characters', 'heron', true]);
    store.removeUnreadable(odd);
    expect(http.expectOne(`/api/characters/${odd.id}`).request.body).toEqual({ removed: true });
  });

  it('removes with a way back', async () => {
    load();
    store.remove('takes', idOf(1), 'walk');
    http.expectOne((r) => r.method === 'PATCH').flush(null);
    flushRack(http, { ...rack, takes: [rack.takes[1]] });
    const [notice] = await notices();
    TestBed.inject(NoticesService).undo(notice);
    const back = http.expectOne(`/api/takes/${idOf(1)}`);
    expect(back.request.body).toEqual({ removed: false });
  });

  describe('keeps every decision as a step that can be taken back', () => {
    const history = () => TestBed.inject(HistoryService);
    beforeEach(() => {
      jasmine.clock().install();
      load();
    });
    afterEach(() => jasmine.clock().uninstall());

    it('of a skeleton, for all that stands on it, at once and on the server a moment later', () => {
      const skeleton = rack.takes[0].skeleton;
      store.changeSkeleton(skeleton, { choices: { ...DEFAULT_SKELETON, up: '+Z' } }, 'set up to +Z');
      store.changeSkeleton(skeleton, { choices: { ...DEFAULT_SKELETON, up: '-Z' } }, 'set up to -Z');
      expect(store.takeSource(rack.takes[0]).skeleton.up).toBe('-Z');
      http.expectNone(`/api/skeletons/${skeleton}`);
      jasmine.clock().tick(300);
      const sent = http.expectOne(`/api/skeletons/${skeleton}`);
      expect((sent.request.body as { choices: { up: string } }).choices.up).toBe('-Z');
      history().undo();
      expect(store.decided(rack.takes[0]).up).toBe('+Z');
      history().undo();
      expect(store.decided(rack.takes[0])).toEqual(DEFAULT_SKELETON);
      history().redo();
      expect(store.decided(rack.takes[0]).up).toBe('+Z');
    });

    it('of a take and of a pairing', () => {
      store.changeTake(idOf(1), { choices: { ...DEFAULT_TAKE, from: 0.5 } }, 'trim');
      store.changePairing(rack.takes[0].skeleton, idOf(3), { choices: { ...DEFAULT_CHOICES, stride: 'marks' } }, 'keep marks');
      expect(store.pairRequest(store.state.rack.takes[0], rack.characters[0]).choices.stride).toBe('marks');
      expect(store.state.rack.takes[0].choices.from).toBe(0.5);
      expect(history().state.past.map((step) => step.text)).toEqual(['trim', 'keep marks']);
      history().backTo(-1);
      expect(store.choicesFor(rack.takes[0], rack.characters[0])).toEqual(DEFAULT_CHOICES);
      expect(store.state.rack.takes[0].choices.from).toBeNull();
      jasmine.clock().tick(300);
      expect((http.expectOne('/api/pairings').request.body as { choices: object }).choices).toEqual(DEFAULT_CHOICES);
    });

    it('of a pairing whose character has as long a name as there can be', () => {
      load({ ...rack, characters: [character(3, 'k'.repeat(120))] });
      store.changePairing(rack.takes[0].skeleton, idOf(3), { choices: { ...DEFAULT_CHOICES, stride: 'marks' } }, 'keep marks');
      jasmine.clock().tick(300);
      const { name } = http.expectOne('/api/pairings').request.body as { name: string };
      expect([name.length, name.startsWith('to kkk')]).toEqual([120, true]);
    });

    it('makes one step of a drag', () => {
      for (const from of [0.1, 0.2, 0.3]) store.changeTake(idOf(1), { choices: { ...DEFAULT_TAKE, from } }, `in at ${from} s`, 'in');
      expect(history().state.past.length).toBe(1);
      history().undo();
      expect(store.state.rack.takes[0].choices.from).toBeNull();
    });

    it('and none of what changes nothing', () => {
      store.changeTake(idOf(1), { choices: DEFAULT_TAKE }, 'nothing');
      expect(history().state.past.length).toBe(0);
    });
  });

  it('shows a refusal of the server with its reason', async () => {
    load();
    store.rename('takes', idOf(1), 'other');
    http
      .expectOne(`/api/takes/${idOf(1)}`)
      .flush({ error: { code: 'option', message: 'it is not on the rack', where: {} } }, { status: 404, statusText: 'Not Found' });
    expect((await notices()).at(-1)).toEqual(jasmine.objectContaining({ kind: 'fault', text: 'it is not on the rack' }));
  });

  it('says when the server does not answer', async () => {
    store.load();
    http.expectOne('/api/rack').error(new ProgressEvent('error'));
    expect((await notices()).at(-1)?.text).toContain('does not answer');
  });
});
