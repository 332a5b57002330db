import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideRouter } from '@angular/router';
import { NEVER } from 'rxjs';
import { HistoryService } from '../history/history.service';
import { BodyService } from '../body/body.service';
import { ProjectStore } from '../project/project.store';
import { makeRack } from '../testing/rack';
import { GatherComponent } from './gather.component';

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
    http.expectOne('/api/rack').flush(rack);
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
    http.expectOne('/api/rack').flush({ ...rack, takes });
    await fixture.whenStable();
    expect([...host.querySelectorAll('h3')].map((h) => h.textContent!.replace(/\s+/g, ' ').trim())).toEqual([
      '2 takes on this skeleton, labelled',
    ]);
    expect(host.querySelector<HTMLInputElement>('h3 input')!.value).toBe('Quay walk skeleton');
    const select = host.querySelector<HTMLSelectElement>('.list-head select')!;
    select.value = 'bow';
    select.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    expect(rows().map((r) => r.querySelector('.name')?.textContent?.trim())).toEqual(['Slow bow', 'Ferryman', 'Heron']);
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
    const field = (): HTMLInputElement => rows()[1].querySelector('input')!;
    field().value = 'Deep bow';
    field().dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    await fixture.whenStable();
    expect(http.expectOne((r) => r.method === 'PATCH').request.body).toEqual({ name: 'Deep bow' });
    button(rows()[0], 'Rename Quay walk').click();
    await fixture.whenStable();
    rows()[0]
      .querySelector('input')!
      .dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
    await fixture.whenStable();
    http.expectNone((r) => r.method === 'PATCH');
  });

  it('makes a character of a take’s skeleton', () => {
    button(rows()[0], 'Use the skeleton of Quay walk').click();
    http.expectOne(`/api/takes/${rack.takes[0].id}/as-character`);
  });

  it('keeps refusals in sight until they are dismissed', async () => {
    TestBed.inject(ProjectStore).bringIn([new File(['x'], 'torn.bvh')]);
    http.expectOne('/api/files').flush({
      files: [
        {
          fileName: 'torn.bvh',
          known: false,
          takes: [],
          characters: [],
          error: { code: 'bvh/number', message: '"x" is not a number', where: { file: 'torn.bvh', line: 9 } },
        },
      ],
      ignored: [],
    });
    await fixture.whenStable();
    expect(host.querySelector('.refused')!.textContent).toContain('torn.bvh, line 9: "x" is not a number');
    button(host, 'Dismiss').click();
    await fixture.whenStable();
    expect(host.querySelector('.refused')).toBeNull();
  });

  it('says what to do where there is nothing', async () => {
    TestBed.inject(ProjectStore).load();
    http.expectOne('/api/rack').flush({ takes: [], characters: [], transfers: [], pairings: [], skeletons: [], schemes: [] });
    await fixture.whenStable();
    expect(host.textContent).toContain('Drop a file above');
    expect(host.textContent).toContain('Choose a take or a character to see');
  });
});
