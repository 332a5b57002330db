import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideRouter } from '@angular/router';
import { firstValueFrom, NEVER } from 'rxjs';
import { HistoryService } from '../history/history.service';
import { BodyService } from '../body/body.service';
import { IntakeStore } from '../project/intake.store';
import { ProjectStore } from '../project/project.store';
import { NoticesService } from '../notices/notices.service';
import { select } from '../testing/fake-stage';
import { flushRack, idOf, makeRack, pageOf } from '../testing/rack';
import { GatherComponent } from './gather.component';
import { SeveralStore } from './several.store';

describe('GatherComponent', () => {
  let fixture: ComponentFixture<GatherComponent>;
  let http: HttpTestingController;
  let host: HTMLElement;
  const rack = makeRack();

  beforeEach(async () => {
    localStorage.clear();
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        provideRouter([]),
        { provide: BodyService, useValue: { body: () => NEVER } },
      ],
    });
    http = TestBed.inject(HttpTestingController);
    fixture = TestBed.createComponent(GatherComponent);
    host = fixture.nativeElement as HTMLElement;
    TestBed.inject(ProjectStore).load();
    flushRack(http, rack);
    await fixture.whenStable();
  });

  const rows = (): HTMLElement[] => [...host.querySelectorAll<HTMLElement>('hs-item-row')];
  const button = (root: HTMLElement, name: string): HTMLButtonElement =>
    [...root.querySelectorAll('button')].find((b) => (b.textContent ?? '').trim().includes(name) || b.title.includes(name))!;

  it('lists takes and characters with what matters of each', () => {
    expect(rows().map((r) => r.querySelector('.name')?.textContent?.trim())).toEqual(['Quay walk', 'Slow bow', 'Ferryman', 'Heron']);
    expect(rows()[0].textContent).toContain('60/s');
    expect(rows()[2].textContent).toContain('joints');
  });

  it('shows the facts of what is chosen, and offers the next step', async () => {
    expect(host.querySelector('hs-facts-panel')!.textContent).toContain('quay-walk.bvh');
    button(rows()[3], 'Heron').click();
    await fixture.whenStable();
    expect(host.querySelector('hs-facts-panel')!.textContent).toContain('heron.bvh');
    expect(host.querySelector('.top a')!.textContent).toContain('Label, match and solve Quay walk on Heron');
  });

  it('finds takes and characters by name, and leads on to the next station from the top', async () => {
    const names = (): string[] => [...host.querySelectorAll('hs-item-row button.name')].map((n) => n.textContent!.trim());
    expect(names()).toEqual(['Quay walk', 'Slow bow', 'Ferryman', 'Heron']);
    const field = host.querySelector<HTMLInputElement>('input[type=search]')!;
    field.value = 'HER';
    field.dispatchEvent(new Event('input'));
    const asked = http.expectOne(({ url, params }) => url === '/api/takes' && params.get('text') === 'HER');
    asked.flush({ ...pageOf([]), all: 2 });
    await fixture.whenStable();
    expect(names()).toEqual(['Heron']);
    expect(host.textContent).toContain('No take of that name.');
  });

  it('puts takes on one skeleton together, and shows those of a tag', async () => {
    const [walk, bow] = rack.takes;
    const takes = [
      { ...walk, tags: ['walk'] },
      { ...bow, skeleton: walk.skeleton, tags: ['bow'] },
    ];
    TestBed.inject(ProjectStore).load();
    flushRack(http, { ...rack, takes });
    await fixture.whenStable();
    expect([...host.querySelectorAll('h3')].map((h) => h.textContent!.replace(/\s+/g, ' ').trim())).toEqual(['2 takes on this skeleton']);
    expect(host.querySelector<HTMLInputElement>('h3 input')!.value).toBe('Quay walk skeleton');
    const select = host.querySelector<HTMLSelectElement>('.list-head select')!;
    select.value = 'bow';
    select.dispatchEvent(new Event('change'));
    http.expectOne(({ url, params }) => url === '/api/takes' && params.get('tag') === 'bow').flush(pageOf([takes[1]], 2));
    await fixture.whenStable();
    expect(rows().map((r) => r.querySelector('.name')?.textContent?.trim())).toEqual(['Slow bow', 'Ferryman', 'Heron']);
    expect(host.querySelector('.list-head [role=status]')!.textContent).toContain('1 of 2 takes');
  });

  it('overrules a guess about the skeleton for all that stands on it', async () => {
    const select = host.querySelector<HTMLSelectElement>('#guess-up')!;
    select.value = '-Z';
    select.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    expect(TestBed.inject(ProjectStore).decided(rack.takes[0]).up).toBe('-Z');
    expect(TestBed.inject(HistoryService).state.past.at(-1)?.text).toBe('up -Z, Quay walk skeleton');
  });

  it('renames in place: Enter keeps, Escape leaves', async () => {
    button(rows()[1], 'Rename Slow bow').click();
    await fixture.whenStable();
    const field = (): HTMLInputElement => rows()[1].querySelector<HTMLInputElement>('input.form-control')!;
    field().value = 'Deep bow';
    field().dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    await fixture.whenStable();
    expect(http.expectOne((r) => r.method === 'PATCH').request.body).toEqual({ base: 1, name: 'Deep bow' });
    button(rows()[0], 'Rename Quay walk').click();
    await fixture.whenStable();
    rows()[0]
      .querySelector('input.form-control')!
      .dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
    await fixture.whenStable();
    http.expectNone((r) => r.method === 'PATCH');
  });

  it('makes a character of a take’s skeleton', () => {
    button(rows()[0], 'Use the skeleton of Quay walk').click();
    http.expectOne(`/api/takes/${rack.takes[0].id}/as-character`);
  });

  it('keeps refusals in sight until they are dismissed', async () => {
    TestBed.inject(IntakeStore).bringIn([new File(['x'], 'torn.bvh')]);
    const error = { code: 'bvh/number', message: '"x" is not a number', where: { file: 'torn.bvh', line: 9 } };
    const file = { fileName: 'torn.bvh', known: false, takes: [], characters: [], error };
    http.expectOne('/api/files').flush(`${JSON.stringify({ kind: 'file', file })}\n{"kind":"end","ignored":[]}\n`);
    await fixture.whenStable();
    expect(host.querySelector('.refused')!.textContent).toContain('torn.bvh, line 9: "x" is not a number');
    button(host, 'Dismiss').click();
    await fixture.whenStable();
    expect(host.querySelector('.refused')).toBeNull();
  });

  it('says what to do where there is nothing', async () => {
    TestBed.inject(ProjectStore).load();
    flushRack(http, {
      takes: [],
      characters: [],
      transfers: [],
      pairings: [],
      skeletons: [],
      schemes: [],
      versions: [],
      sets: [],
      presets: [],
      poses: [],
      jointSchemes: [],
      reels: [],
      recordings: [],
      meshes: [],
      nameTables: [],
      limits: {},
    });
    await fixture.whenStable();
    expect(host.textContent).toContain('Drop a file above');
    expect(host.textContent).toContain('Choose a take or a character to see');
  });

  it('offers the demo production where nothing of it is there', async () => {
    expect([...host.querySelectorAll('button')].some((b) => b.textContent!.includes('demo production'))).toBeFalse();
    TestBed.inject(ProjectStore).load();
    flushRack(http, {
      takes: [],
      characters: [],
      transfers: [],
      pairings: [],
      skeletons: [],
      schemes: [],
      versions: [],
      sets: [],
      presets: [],
      poses: [],
      jointSchemes: [],
      reels: [],
      recordings: [],
      meshes: [],
      nameTables: [],
      limits: {},
    });
    await fixture.whenStable();
    button(host, 'bring in the demo production').click();
    http.expectOne('/api/demo').flush('{"kind":"end","ignored":[]}\n');
  });

  it('shows what cannot be read, with a way to its file and off the rack', async () => {
    TestBed.inject(ProjectStore).load();
    const { takes, ...rest } = rack;
    http.expectOne('/api/rack').flush({ ...rest, characters: [{ ...rest.characters[0], bytes: -1 }] });
    http.expectOne(({ url }) => url === '/api/takes').flush(pageOf(takes));
    await fixture.whenStable();
    const section = host.querySelector('[aria-labelledby=unreadable-title]')!;
    expect(section.textContent).toContain('Ferryman: bytes');
    expect(section.querySelector('a')!.getAttribute('href')).toBe(`/api/files/${rest.characters[0].file}`);
    section.querySelector('button')!.click();
    expect(http.expectOne(`/api/characters/${rest.characters[0].id}`).request.body).toEqual({ base: 1, removed: true });
  });

  describe('with several takes chosen', () => {
    const ticks = (): HTMLInputElement[] => [...host.querySelectorAll<HTMLInputElement>('hs-take-rows input[type=checkbox]')];
    const changes = () => http.expectOne('/api/takes/change');
    const ids = rack.takes.map(({ id }) => id);

    it('chooses one beside another, a range, and none again', async () => {
      ticks()[0].click();
      await fixture.whenStable();
      expect(host.querySelector('hs-several-bar')!.textContent).toContain('1 take chosen');
      ticks()[1].dispatchEvent(new MouseEvent('click', { shiftKey: true, bubbles: true }));
      await fixture.whenStable();
      expect([...TestBed.inject(SeveralStore).chosen]).toEqual(ids);
      button(host, 'none').click();
      await fixture.whenStable();
      expect(host.querySelector('hs-several-bar')).toBeNull();
      // With Ctrl a name is chosen beside others, and what is current stays.
      rows()[1]
        .querySelector<HTMLElement>('.name')!
        .dispatchEvent(new MouseEvent('click', { ctrlKey: true, bubbles: true }));
      await fixture.whenStable();
      expect([[...TestBed.inject(SeveralStore).chosen], TestBed.inject(ProjectStore).state.selection.take]).toEqual([[ids[1]], ids[0]]);
    });

    it('does nothing to them until it is known which they are', async () => {
      // A list of which one page has come.
      const page = pageOf(rack.takes);
      const many = { ...page, total: 300, groups: [...page.groups.slice(0, -1), { ...page.groups.at(-1)!, count: 299 }] };
      const field = host.querySelector<HTMLInputElement>('input[type=search]')!;
      field.value = 's: ';
      field.dispatchEvent(new Event('input'));
      http.expectOne(({ url, params }) => url === '/api/takes' && params.get('text') === 's: ').flush(many);
      await fixture.whenStable();
      ticks()[0].click();
      await fixture.whenStable();
      button(host, 'choose all').click();
      await fixture.whenStable();
      const remove = (): HTMLButtonElement => button(host.querySelector('hs-several-bar')!, 'remove from the rack');
      expect(remove().matches(':disabled')).toBeTrue();
      remove().click();
      http.expectNone('/api/takes/change');
      http.expectOne(({ url }) => url === '/api/takes/ids').flush(ids);
      await fixture.whenStable();
      expect([...TestBed.inject(SeveralStore).chosen]).toEqual(ids);
      remove().click();
      expect(changes().request.body).toEqual({ takes: ids, change: { kind: 'remove' } });
    });

    it('tags them, and takes back only what was changed', async () => {
      TestBed.inject(SeveralStore).all(ids);
      await fixture.whenStable();
      const field = host.querySelector<HTMLInputElement>('hs-several-bar input')!;
      field.value = ' tide ';
      field.dispatchEvent(new Event('input'));
      field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
      const sent = changes();
      expect(sent.request.body).toEqual({ takes: ids, change: { kind: 'tag', tag: 'tide' } });
      sent.flush({ takes: [ids[1]] });
      flushRack(http, rack);
      TestBed.inject(HistoryService).undo();
      expect(changes().request.body).toEqual({ takes: [ids[1]], change: { kind: 'untag', tag: 'tide' } });
    });

    it('takes them off the rack, and puts them back', () => {
      TestBed.inject(SeveralStore).all(ids);
      TestBed.inject(SeveralStore).remove();
      changes().flush({ takes: ids });
      flushRack(http, { ...rack, takes: [] });
      expect(TestBed.inject(SeveralStore).chosen.size).toBe(0);
      TestBed.inject(HistoryService).undo();
      expect(changes().request.body).toEqual({ takes: ids, change: { kind: 'restore' } });
    });

    it('labels their skeletons by a scheme, says what was passed over, and takes it back', async () => {
      const scheme = {
        id: idOf(70),
        version: 1,
        scheme: { format: 'hollow-stride/naming-scheme' as const, version: 1 as const, name: 'guild', roles: { hips: 'seat' } },
        addedAt: '',
      };
      TestBed.inject(ProjectStore).load();
      flushRack(http, { ...rack, schemes: [scheme] });
      TestBed.inject(SeveralStore).all(ids);
      await fixture.whenStable();
      select(host, 'hs-several-bar select', scheme.id);
      const sent = http.expectOne('/api/takes/label');
      expect(sent.request.body).toEqual({ takes: ids, scheme: scheme.id });
      const [{ skeleton }] = rack.takes;
      sent.flush({
        skeletons: [{ id: skeleton, name: 'walker', before: null, after: { hips: 'seat' } }],
        passed: [{ name: 'bower', why: 'the scheme fits 3 % of it' }],
      });
      // The server has put them in: the rack is read again.
      const labelled = rack.skeletons.map((one) =>
        one.id === skeleton ? { ...one, version: 2, choices: { ...one.choices, labels: { hips: 'seat' } } } : one,
      );
      flushRack(http, { ...rack, schemes: [scheme], skeletons: labelled });
      const labels = () => TestBed.inject(ProjectStore).skeleton(skeleton)!.choices.labels;
      expect(labels()).toEqual({ hips: 'seat' });
      await fixture.whenStable();
      const said = TestBed.inject(NoticesService);
      expect((await firstValueFrom(said.notices$)).map(({ text }) => text).join()).toContain('bower was passed over: the scheme fits 3 %');
      TestBed.inject(HistoryService).undo();
      expect(labels()).toBeNull();
    });
  });
});
