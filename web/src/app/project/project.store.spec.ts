import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import type { CharacterJson, RackJson, ServerEvent, TakeJson } from '@hollow-stride/contract';
import { DEFAULT_SKELETON, DEFAULT_TAKE } from '@hollow-stride/core';
import { firstValueFrom, Subject } from 'rxjs';
import { ApiService, CLIENT } from '../api/api.service';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { flushRack, idOf, makeRack, pageOf, rackJson } from '../testing/rack';
import { EditsStore } from './edits.store';
import { ItemsStore } from './items.store';
import { DEFAULT_CHOICES, ProjectStore, type Rack } from './project.store';

const named = <T extends { id: string; name: string }>(item: T, n: number, name: string): T => ({ ...item, id: idOf(n), name });

const omit = ({ takes: _takes, ...rest }: Rack): RackJson => rackJson(rest);

describe('ProjectStore', () => {
  let store: ProjectStore;
  let edits: EditsStore;
  let items: ItemsStore;
  let http: HttpTestingController;
  const full = makeRack();
  const take = (n: number, name: string): TakeJson => named(full.takes[n - 1] ?? full.takes[0], n, name);
  const character = (n: number, name: string): CharacterJson => named(full.characters[0], n, name);
  const rack: Rack = { ...full, takes: [take(1, 'walk'), take(2, 'bow')], characters: [character(3, 'heron')] };

  beforeEach(() => {
    localStorage.clear();
    sessionStorage.clear();
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    store = TestBed.inject(ProjectStore);
    edits = TestBed.inject(EditsStore);
    items = TestBed.inject(ItemsStore);
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

  it('brings takes that several want before it says that they are here, and asks once for one that is off the rack', () => {
    load();
    const [far, gone] = [take(9, 'far'), idOf(8)];
    let here = 0;
    const bring = (): void => void store.bring([far.id, gone, far.id, idOf(1)]).subscribe(() => here++);
    bring();
    http.expectOne(`/api/takes/${gone}`).flush({ error: {} }, { status: 404, statusText: 'Not Found' });
    expect(here).toBe(0);
    http.expectOne(`/api/takes/${far.id}`).flush(far);
    expect(here).toBe(1);
    expect(store.state.rack.takes.some(({ name }) => name === 'far')).toBeTrue();
    bring();
    expect(here).toBe(2);
    http.expectNone(({ url }) => url.startsWith('/api/takes/'));
  });

  it('takes off what it cannot read', () => {
    store.load();
    http.expectOne('/api/rack').flush({ ...omit(rack), characters: [{ ...rack.characters[0], bytes: 'many' }] });
    http.expectOne(({ url }) => url === '/api/takes').flush(pageOf(rack.takes));
    const [odd] = store.state.unreadable;
    expect([odd.kind, odd.name, store.state.loaded]).toEqual(['characters', 'heron', true]);
    items.removeUnreadable(odd);
    expect(http.expectOne(`/api/characters/${odd.id}`).request.body).toEqual({ base: 1, removed: true });
  });

  it('removes with a way back', async () => {
    load();
    items.remove('takes', idOf(1), 'walk');
    http.expectOne((r) => r.method === 'PATCH').flush({ version: 2 });
    flushRack(http, { ...rack, takes: [rack.takes[1]] });
    const [notice] = await notices();
    TestBed.inject(NoticesService).undo(notice);
    const back = http.expectOne(`/api/takes/${idOf(1)}`);
    expect(back.request.body).toEqual({ base: 2, removed: false });
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
      edits.changeSkeleton(skeleton, { choices: { ...DEFAULT_SKELETON, up: '+Z' } }, 'set up to +Z');
      edits.changeSkeleton(skeleton, { choices: { ...DEFAULT_SKELETON, up: '-Z' } }, 'set up to -Z');
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
      edits.changeTake(idOf(1), { choices: { ...DEFAULT_TAKE, from: 0.5 } }, 'trim');
      edits.changePairing(rack.takes[0].skeleton, idOf(3), { choices: { ...DEFAULT_CHOICES, stride: 'marks' } }, 'keep marks');
      expect(store.pairRequest(store.state.rack.takes[0], rack.characters[0]).choices.stride).toBe('marks');
      expect(store.state.rack.takes[0].choices.from).toBe(0.5);
      expect(history().state.past.map((step) => step.text)).toEqual(['trim', 'keep marks']);
      history().backTo(-1);
      expect(store.choicesFor(rack.takes[0], rack.characters[0])).toEqual(DEFAULT_CHOICES);
      expect(store.state.rack.takes[0].choices.from).toBeNull();
      jasmine.clock().tick(300);
      expect((http.expectOne('/api/pairings').request.body as { choices: object }).choices).toEqual(DEFAULT_CHOICES);
    });

    it('of a pairing stay while the rack is read, whether the answer was made before they came to the server or not', () => {
      const stride = (): string | number => store.choicesFor(rack.takes[0], rack.characters[0]).stride;
      const { skeleton } = rack.takes[0];
      store.load();
      edits.changePairing(skeleton, idOf(3), { choices: { ...DEFAULT_CHOICES, stride: 'marks' } }, 'keep marks');
      flushRack(http, rack);
      expect(stride()).toBe('marks');
      jasmine.clock().tick(300);
      store.load();
      flushRack(http, rack);
      expect(stride()).toBe('marks');
      const saved = store.pairing(skeleton, idOf(3))!;
      http.expectOne('/api/pairings').flush({ ...saved, version: 2 });
      store.load();
      flushRack(http, { ...rack, pairings: [{ ...saved, version: 1, choices: DEFAULT_CHOICES }] });
      expect(stride()).toBe('marks');
    });

    it('of a pairing whose character has as long a name as there can be', () => {
      load({ ...rack, characters: [character(3, 'k'.repeat(120))] });
      edits.changePairing(rack.takes[0].skeleton, idOf(3), { choices: { ...DEFAULT_CHOICES, stride: 'marks' } }, 'keep marks');
      jasmine.clock().tick(300);
      const { name } = http.expectOne('/api/pairings').request.body as { name: string };
      expect([name.length, name.startsWith('to kkk')]).toEqual([120, true]);
    });

    it('makes one step of a drag', () => {
      for (const from of [0.1, 0.2, 0.3]) edits.changeTake(idOf(1), { choices: { ...DEFAULT_TAKE, from } }, `in at ${from} s`, 'in');
      expect(history().state.past.length).toBe(1);
      history().undo();
      expect(store.state.rack.takes[0].choices.from).toBeNull();
    });

    it('and none of what changes nothing', () => {
      edits.changeTake(idOf(1), { choices: DEFAULT_TAKE }, 'nothing');
      expect(history().state.past.length).toBe(0);
    });
  });

  describe('with other windows on the same rack', () => {
    const settings = (): ReturnType<HttpTestingController['expectOne']> => http.expectOne(`/api/takes/${idOf(1)}/settings`);
    const refuse = (request: ReturnType<HttpTestingController['expectOne']>, current: object): void =>
      request.flush(
        { error: { code: 'option', message: 'was changed elsewhere', where: {} }, current },
        { status: 409, statusText: 'Conflict' },
      );
    const row = (change: object): object => ({ ...rack.takes[0], ...change });
    beforeEach(() => {
      // debounceTime looks at the date too.
      jasmine.clock().install().mockDate();
      load();
    });
    afterEach(() => jasmine.clock().uninstall());

    it('says which version an edit was made from, and sends the next one from what came of it', () => {
      edits.changeTake(idOf(1), { note: 'one' }, 'note');
      jasmine.clock().tick(300);
      const first = settings();
      expect(first.request.body).toEqual({ base: 1, note: 'one' });
      // Changed again while the first is on its way: it waits for its version.
      edits.changeTake(idOf(1), { note: 'two' }, 'note');
      jasmine.clock().tick(300);
      http.expectNone(`/api/takes/${idOf(1)}/settings`);
      first.flush(row({ version: 2, note: 'one' }));
      expect(store.state.rack.takes.find(({ id }) => id === idOf(1))?.note).toBe('two');
      jasmine.clock().tick(300);
      expect(settings().request.body).toEqual({ base: 2, note: 'two' });
    });

    it('merges what does not collide, without a word', () => {
      edits.changeTake(idOf(1), { choices: { ...DEFAULT_TAKE, from: 0.5 } }, 'trim');
      jasmine.clock().tick(300);
      refuse(settings(), row({ version: 4, tags: ['theirs'], choices: { ...DEFAULT_TAKE, fps: 30 } }));
      const again = settings();
      expect(again.request.body).toEqual({ base: 4, choices: { ...DEFAULT_TAKE, from: 0.5, fps: 30 } });
      again.flush(row({ version: 5, tags: ['theirs'], choices: { ...DEFAULT_TAKE, from: 0.5, fps: 30 } }));
      const now = store.state.rack.takes.find(({ id }) => id === idOf(1))!;
      expect([now.tags, now.choices.fps, now.choices.from]).toEqual([['theirs'], 30, 0.5]);
    });

    it('asks about what does, and does as it is told', async () => {
      for (const [answer, note] of [
        ['Keep mine', 'mine'],
        ['Take the other', 'theirs'],
      ]) {
        load();
        const version = store.state.rack.takes.find(({ id }) => id === idOf(1))!.version;
        edits.changeTake(idOf(1), { note: 'mine' }, 'note');
        jasmine.clock().tick(300);
        refuse(settings(), row({ version: version + 3, note: 'theirs' }));
        const asked = (await notices()).at(-1)!;
        expect(asked.text).toContain('changed in another window too: note');
        TestBed.inject(NoticesService).answer(
          asked,
          asked.answers!.find(({ text }) => text === answer)!,
        );
        const sent = settings();
        expect(sent.request.body).toEqual({ base: version + 3, note });
        sent.flush(row({ version: version + 4, note }));
        expect(store.state.rack.takes.find(({ id }) => id === idOf(1))!.note).toBe(note);
        edits.changeTake(idOf(1), { note: '' }, 'note');
        jasmine.clock().tick(300);
        settings().flush(row({ version: version + 5, note: '' }));
      }
    });

    it('keeps what could not be sent, and sends it when the server answers again', async () => {
      edits.changeTake(idOf(1), { note: 'kept' }, 'note');
      jasmine.clock().tick(300);
      settings().error(new ProgressEvent('error'));
      expect((await notices()).at(-1)?.text).toContain('kept here and sent as soon as it does');
      expect(store.state.rack.takes.find(({ id }) => id === idOf(1))?.note).toBe('kept');
      load({ ...rack });
      expect(store.state.rack.takes.find(({ id }) => id === idOf(1))?.note)
        .withContext('read again meanwhile')
        .toBe('kept');
      jasmine.clock().tick(2500);
      settings().flush(row({ version: 2, note: 'kept' }));
    });

    it('sends what waits as the page is left', () => {
      const left = spyOn(window, 'fetch').and.resolveTo(new Response());
      edits.changeTake(idOf(1), { note: 'last' }, 'note');
      window.dispatchEvent(new Event('pagehide'));
      const [path, { body, keepalive }] = left.calls.mostRecent().args as [string, { body: string; keepalive: boolean }];
      expect([path, JSON.parse(body), keepalive]).toEqual([`/api/takes/${idOf(1)}/settings`, { base: 1, note: 'last' }, true]);
    });

    it('follows what they change, but for what is being changed here', () => {
      const events = new Subject<ServerEvent>();
      Object.defineProperty(TestBed.inject(ApiService), 'events$', { value: events });
      store.listen();
      const tell = (change: object, by: string | null = null): void =>
        events.next({ kind: 'take', by, row: { ...rack.takes[0], ...change } });
      const note = (): string => store.state.rack.takes.find(({ id }) => id === idOf(1))!.note;
      tell({ version: 2, note: 'theirs' });
      expect(note()).toBe('theirs');
      tell({ version: 9, note: 'my own' }, CLIENT);
      expect(note()).toBe('theirs');
      edits.changeTake(idOf(1), { note: 'here' }, 'note');
      tell({ version: 3, note: 'there' });
      expect(note()).toBe('here');
      jasmine.clock().tick(300);
      // Its base is what it was made from: the server will say that there is something newer.
      expect(settings().request.body).toEqual({ base: 2, note: 'here' });
      events.next({ kind: 'rack', by: null });
      jasmine.clock().tick(400);
      flushRack(http, rack);
    });

    it('undoes after a reload what was done before it, once its rack is here', () => {
      edits.changeTake(idOf(1), { note: 'before the reload' }, 'note');
      TestBed.resetTestingModule();
      TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
      const again = TestBed.inject(ProjectStore);
      TestBed.inject(EditsStore);
      http = TestBed.inject(HttpTestingController);
      history().undo();
      again.load();
      flushRack(http, { ...rack, takes: [{ ...rack.takes[0], version: 2, note: 'before the reload' }] });
      expect(again.state.rack.takes[0].note).toBe('');
      jasmine.clock().tick(300);
      expect(settings().request.body).toEqual({ base: 2, note: '' });
    });

    const history = () => TestBed.inject(HistoryService);
  });

  it('shows a refusal of the server with its reason', async () => {
    load();
    items.rename('takes', idOf(1), 'other');
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
