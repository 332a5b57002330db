import { TestBed } from '@angular/core/testing';
import { By } from '@angular/platform-browser';
import { provideRouter } from '@angular/router';
import type { DepotEvent, DepotFetch, DepotSearch } from '@hollow-stride/contract';
import { of, Subject } from 'rxjs';
import { ApiService } from '../../api/api.service';
import { BodyService } from '../../body/body.service';
import { IntakeStore } from '../../project/intake.store';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import { FakeFigureStage, pressable } from '../../testing/fake-stage';
import { makeBodyView } from '../../testing/views';
import { PlaybackService } from '../../timeline/playback.service';
import { DepotComponent } from './depot.component';

describe('DepotComponent', () => {
  const motions = ['Bow', 'Creep', 'Dash'].map((title) => ({
    id: title.toLowerCase(),
    title,
    what: `a ${title}`,
    tags: ['stand'],
    seconds: 3.25,
    travels: title === 'Dash',
  }));
  const searches: DepotSearch[] = [];
  const requests: DepotFetch[] = [];
  const line = new Subject<DepotEvent>();

  async function show() {
    searches.length = requests.length = 0;
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        {
          provide: ApiService,
          useValue: {
            searchDepot: (search: DepotSearch) => (
              searches.push(search),
              of({ motions, total: 30, page: Number(search.page), pages: 3, tags: [{ tag: 'stand', count: 3 }] })
            ),
            fetchFromDepot: (request: DepotFetch) => (requests.push(request), line),
          },
        },
        { provide: BodyService, useValue: { body: () => of(makeBodyView()) } },
        { provide: IntakeStore, useValue: { fetched: () => undefined } },
      ],
    });
    TestBed.overrideComponent(DepotComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    const fixture = TestBed.createComponent(DepotComponent);
    const settle = async (): Promise<void> => {
      await fixture.whenStable();
      await new Promise((resolve) => setTimeout(resolve, 200));
      await fixture.whenStable();
    };
    await settle();
    return { fixture, host: fixture.nativeElement as HTMLElement, settle };
  }

  it('lists what is found, by tag and page by page', async () => {
    const { host, settle } = await show();
    expect([...host.querySelectorAll('.motion b')].map((b) => b.textContent)).toEqual(['Bow', 'Creep', 'Dash']);
    expect(host.querySelector('.motion')!.textContent).toContain('3.3 s');
    expect(host.querySelector('[role=status]')!.textContent).toContain('30 motions');
    pressable(host, 'stand 3').click();
    await settle();
    pressable(host, 'On').click();
    await settle();
    expect(searches.at(-1)).toEqual({ text: '', tag: 'stand', page: '1' });
    expect(host.querySelector('.pages')!.textContent).toContain('2 / 3');
  });

  it('plays a motion when it is chosen, and fetches it as set', async () => {
    const { fixture, host, settle } = await show();
    host.querySelectorAll<HTMLButtonElement>('.motion')[2].click();
    await settle();
    const stage = fixture.debugElement.query(By.directive(FakeFigureStage)).componentInstance as FakeFigureStage;
    expect(stage.figures()[0].clip!.frames).toBe(150);
    expect(TestBed.inject(PlaybackService).state.frames).toBe(150);
    TestBed.inject(PlaybackService).pause();
    pressable(host, 'in place').click();
    pressable(host, 'with its body').click();
    await fixture.whenStable();
    pressable(host, 'Fetch to the rack').click();
    await fixture.whenStable();
    expect(requests).toEqual([{ id: 'dash', travel: 'in-place', fps: 60, body: 'with-body', line: 'steady' }]);
    line.next({ kind: 'progress', received: 30, total: 60 });
    await fixture.whenStable();
    expect(host.querySelector('progress')!.value).toBe(30);
    line.next({ kind: 'failed', fault: { code: 'option', message: 'nothing was brought in', where: {} } });
    await fixture.whenStable();
    expect(host.querySelector('.progress-note')!.textContent).toContain('nothing was brought in');
  });
});
