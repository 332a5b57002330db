import { TestBed } from '@angular/core/testing';
import type { DepotEvent, DepotPage, DepotSearch } from '@hollow-stride/contract';
import { of, Subject, throwError } from 'rxjs';
import { ApiError } from '../../api/answers';
import { ApiService } from '../../api/api.service';
import { BodyService } from '../../body/body.service';
import { IntakeStore } from '../../project/intake.store';
import type { BodySource } from '../../solver/messages';
import { makeBodyView } from '../../testing/views';
import { DepotStore } from './depot.store';

describe('DepotStore', () => {
  let store: DepotStore;
  let searches: DepotSearch[];
  let found: () => ReturnType<ApiService['searchDepot']>;
  let line: Subject<DepotEvent>;
  let fetched: unknown[];
  let shown: BodySource[];
  const page: DepotPage = {
    motions: [{ id: 'bow', title: 'Bow', what: 'deep', tags: ['bow'], seconds: 3, travels: false }],
    total: 1,
    page: 0,
    pages: 1,
    tags: [],
  };

  beforeEach(() => {
    // debounceTime looks at the date too.
    jasmine.clock().install().mockDate();
    searches = [];
    fetched = [];
    shown = [];
    found = () => of(page);
    line = new Subject();
    TestBed.configureTestingModule({
      providers: [
        {
          provide: ApiService,
          useValue: { searchDepot: (search: DepotSearch) => (searches.push(search), found()), fetchFromDepot: () => line },
        },
        { provide: BodyService, useValue: { body: (source: BodySource) => (shown.push(source), of(makeBodyView())) } },
        { provide: IntakeStore, useValue: { fetched: (file: unknown) => fetched.push(file) } },
      ],
    });
    store = TestBed.inject(DepotStore);
    jasmine.clock().tick(200);
  });
  afterEach(() => jasmine.clock().uninstall());

  it('searches when typing pauses, and starts each search at its first page', () => {
    expect(searches).toEqual([{ text: '', tag: '', page: '0' }]);
    store.search({ page: 2 });
    store.search({ text: 'b' });
    store.search({ text: 'bow', shortest: '2' });
    jasmine.clock().tick(200);
    expect(searches.slice(1)).toEqual([{ text: 'bow', tag: '', page: '0', shortest: '2' }]);
    expect(store.state.page).toEqual(page);
  });

  it('says why a search failed, and finds again with the next', () => {
    found = () => throwError(() => new ApiError({ code: 'option', message: 'the depot is shut', where: {} }, 503));
    store.search({ text: 'x' });
    jasmine.clock().tick(200);
    expect(store.state.fault).toBe('the depot is shut');
    found = () => of(page);
    store.search({ text: 'y' });
    jasmine.clock().tick(200);
    expect(store.state.fault).toBeUndefined();
  });

  it('plays what is chosen on the depot’s own performer', () => {
    store.choose('bow');
    jasmine.clock().tick(1);
    expect(shown.map(({ file }) => file)).toEqual(['/api/depot/motions/bow/preview']);
    expect(store.state.preview?.clip).toBeDefined();
  });

  it('tells how a fetch goes, and hands what came to the rack', () => {
    store.fetch('bow', 'Bow');
    line.next({ kind: 'progress', received: 40_000, total: 90_000 });
    line.next({ kind: 'resumed', received: 40_000, attempt: 1 });
    expect(store.state.fetching).toEqual(
      jasmine.objectContaining({ received: 40_000, outcome: 'under way', note: 'the line broke and was taken up again at 40 kB' }),
    );
    const file = { fileName: 'bow.bvh', known: false, takes: [], characters: [], recordings: [], meshes: [] };
    line.next({ kind: 'done', file });
    expect(store.state.fetching?.outcome).toBe('done');
    expect(fetched).toEqual([file]);
  });

  it('ends a fetch when it is told to, and says why one failed', () => {
    store.fetch('bow', 'Bow');
    expect(line.observed).toBeTrue();
    store.end();
    expect(line.observed).toBeFalse();
    expect(store.state.fetching?.outcome).toBe('ended');
    store.fetch('bow', 'Bow');
    line.next({ kind: 'failed', fault: { code: 'option', message: 'it stayed broken', where: {} } });
    expect(store.state.fetching).toEqual(jasmine.objectContaining({ outcome: 'failed', note: 'it stayed broken' }));
    expect(fetched).toEqual([]);
  });
});
