import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting, type TestRequest } from '@angular/common/http/testing';
import { TAKES_PAGE, type TakeJson } from '@hollow-stride/contract';
import { flushRack, idOf, makeRack, pageOf } from '../testing/rack';
import { ProjectStore } from './project.store';
import { TakeList } from './take-list';

describe('TakeList', () => {
  let list: TakeList;
  let http: HttpTestingController;
  const rack = makeRack();
  const take = (n: number, skeleton = rack.takes[0].skeleton): TakeJson => ({ ...rack.takes[0], id: idOf(n), name: `take ${n}`, skeleton });
  const asked = (from: number): TestRequest =>
    http.expectOne(({ url, params }) => url === '/api/takes' && params.get('from') === String(from));
  /** Of 200 takes on two skeletons, the page that begins at one of them. */
  const all = Array.from({ length: 200 }, (_, i) => take(1000 + i, i < 150 ? idOf(501) : idOf(502)));
  const page = (from: number) => ({ ...pageOf(all), takes: all.slice(from, from + TAKES_PAGE) });

  beforeEach(() => {
    localStorage.clear();
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting(), TakeList] });
    list = TestBed.inject(TakeList);
    http = TestBed.inject(HttpTestingController);
    TestBed.inject(ProjectStore).load();
    http.expectOne('/api/rack').flush({ ...rack, takes: undefined });
    asked(0).flush(page(0));
  });
  afterEach(() => http.verify());

  it('has a line for each skeleton and each take, known or not', () => {
    const { lines, ids, total } = list.state;
    expect([lines.length, total, ids.filter((id) => id !== undefined).length]).toEqual([202, 200, TAKES_PAGE]);
    expect([lines[0], lines[1], lines[151]]).toEqual([
      { kind: 'skeleton', skeleton: idOf(501), count: 150 },
      { kind: 'take', at: 0 },
      { kind: 'skeleton', skeleton: idOf(502), count: 50 },
    ]);
  });

  it('brings a page when it comes into sight, once', () => {
    list.want(0, 50);
    list.want(118, 130);
    list.want(110, 125);
    asked(60).flush(page(60));
    asked(120).flush(page(120));
    expect(list.state.ids[129]).toBe(all[129].id);
    expect(TestBed.inject(ProjectStore).state.rack.takes.some(({ id }) => id === all[129].id)).toBeTrue();
    list.wantTakes(179, 181);
    asked(180).flush(page(180));
    expect(list.state.ids.every((id) => id !== undefined)).toBeTrue();
  });

  it('asks again for a page that could not be had', () => {
    list.want(150, 160);
    asked(120).error(new ProgressEvent('error'));
    list.want(150, 160);
    asked(120).flush(page(120));
    expect(list.state.ids[150]).toBe(all[150].id);
  });

  it('searches on the server; an answer to what was typed before is not taken', () => {
    list.find({ text: 'ta' });
    const early = asked(0);
    expect(list.state.searching).toBeTrue();
    list.find({ text: 'tak', order: 'length' });
    expect(early.cancelled).toBeTrue();
    const late = asked(0);
    expect([late.request.params.get('text'), late.request.params.get('order')]).toEqual(['tak', 'length']);
    late.flush(pageOf([all[7]], 200));
    expect([list.state.total, list.state.all, list.state.ids[0], list.state.searching]).toEqual([1, 200, all[7].id, false]);
  });

  it('drops a page of an earlier search that comes late', () => {
    list.want(118, 130);
    const late = [asked(60), asked(120)];
    list.find({ text: 'one' });
    asked(0).flush(pageOf([all[3]], 200));
    for (const request of late) request.flush(page(60));
    expect(list.state.ids).toEqual([all[3].id]);
  });

  it('follows the rack', () => {
    TestBed.inject(ProjectStore).load();
    flushRack(http, rack);
    expect([list.state.total, list.state.ids]).toEqual([2, rack.takes.map(({ id }) => id)]);
    list.find({ tag: 'tide' });
    asked(0).flush(pageOf([rack.takes[1]], 2));
    TestBed.inject(ProjectStore).load();
    const { takes, ...rest } = rack;
    http.expectOne('/api/rack').flush(rest);
    const requests = http.match(({ url }) => url === '/api/takes');
    requests.forEach((request) => request.flush(pageOf(takes)));
    http.match(({ url }) => url === '/api/takes').forEach((request) => request.flush(pageOf([], 2)));
    expect(list.state.total).toBe(0);
  });
});
