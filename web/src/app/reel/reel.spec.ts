import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideRouter } from '@angular/router';
import { restClip, type ReelContent } from '@hollow-stride/core';
import { of } from 'rxjs';
import { HistoryService } from '../history/history.service';
import { ProjectStore } from '../project/project.store';
import type { FindRequest, ReelPlayed, ReelRequest } from '../solver/messages';
import { FigureStageComponent } from '../stage/figure-stage.component';
import { FakeFigureStage, pressable, select } from '../testing/fake-stage';
import { flushRack, idOf, makeRack, pageOf, rackJson } from '../testing/rack';
import { chooseTake } from '../testing/takes';
import { makeBodyView } from '../testing/views';
import { PlaybackService } from '../timeline/playback.service';
import { ReelComponent } from './reel.component';
import { ReelService } from './reel.service';
import { ReelStore } from './reel.store';

describe('the reel', () => {
  const rack = {
    ...makeRack(),
    poses: [{ id: idOf(901), version: 1, name: 'salute', pose: { 'left.upperArm': [0, 10, 0] as [number, number, number] }, addedAt: '' }],
    reels: [
      {
        id: idOf(900),
        version: 1,
        name: 'parade',
        content: { fps: 50, lanes: [], touches: [] } as ReelContent,
        addedAt: '2026-11-01T00:00:00.000Z',
      },
    ],
  };
  let fixture: ComponentFixture<ReelComponent>;
  let host: HTMLElement;
  let store: ReelStore;
  let found: FindRequest[];
  const { display } = makeBodyView();

  /** As the worker plays: two seconds a clip, laid where it begins. */
  function played({ content }: ReelRequest): ReelPlayed {
    const lanes = content.lanes.map((lane): ReelPlayed['lanes'][number] => {
      if (lane.clips.length === 0) return { fault: { code: 'option' as const, message: 'no clip', where: {} } };
      const placed = lane.clips.map(({ start }, index) => ({
        index,
        first: Math.round(start * content.fps),
        last: Math.round(start * content.fps) + 100,
        overlap: index > 0 ? 25 : 0,
        seam: 0,
      }));
      const frames = Math.max(...placed.map(({ last }) => last)) + 1;
      return { display, clip: restClip(display.skeleton, frames, 1 / content.fps), placed, slide: { worst: 0.002, frame: 7 } };
    });
    return { content, frames: Math.max(0, ...lanes.map((lane) => ('clip' in lane ? lane.clip.frames : 0))), lanes };
  }

  beforeEach(async () => {
    localStorage.clear();
    sessionStorage.clear();
    for (const group of ['Mix by a value', 'Touches of two']) localStorage.setItem(`hollow-stride.group.${group}`, '1');
    found = [];
    const service = {
      play: (reel: ReelRequest) => of(played(reel)),
      find: (what: FindRequest) => {
        found.push(what);
        return of(
          what.kind === 'cycle'
            ? { cycle: { from: 1, to: 2.25, seam: 0.004, speed: found.length === 1 ? 1.2 : 2.4 } }
            : { joining: { leave: 1.5, enter: 0.75, apart: 0.02 } },
        );
      },
    };
    TestBed.configureTestingModule({
      providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([]), { provide: ReelService, useValue: service }],
    });
    TestBed.overrideComponent(ReelComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    fixture = TestBed.createComponent(ReelComponent);
    host = fixture.nativeElement as HTMLElement;
    store = TestBed.inject(ReelStore);
    TestBed.inject(ProjectStore).load();
    flushRack(TestBed.inject(HttpTestingController), rack);
    await settle();
  });

  async function settle(): Promise<void> {
    do {
      await new Promise((resolve) => setTimeout(resolve, 20));
      await fixture.whenStable();
    } while (store.state.busy);
    fixture.detectChanges();
    await fixture.whenStable();
  }
  const press = async (...names: string[]): Promise<void> => {
    for (const name of names) {
      pressable(host, name).click();
      await settle();
    }
  };
  const number = async (label: string, value: string): Promise<void> => {
    const field = host.querySelector<HTMLInputElement>(`input[aria-label="${label}"]`)!;
    field.value = value;
    field.dispatchEvent(new Event('change', { bubbles: true }));
    await settle();
  };
  /** Takes that the rack lists are offered as soon as the field has the focus; others are found by what is typed. */
  const pickTake = async (index: number): Promise<void> => {
    host.querySelector('input[aria-label="Take to put on the lane"]')!.dispatchEvent(new Event('focus'));
    await settle();
    TestBed.inject(HttpTestingController)
      .expectOne(({ url }) => url === '/api/takes')
      .flush(pageOf(rack.takes));
    await settle();
    document.querySelectorAll<HTMLElement>('ngb-typeahead-window [role=option]')[index].click();
    await settle();
  };
  const clips = () => store.content!.lanes[0].clips;
  const bars = (): HTMLElement[] => [...host.querySelectorAll<HTMLElement>('.clip')];

  it('has lanes and clips, each behind the one before, with what they overlap drawn', async () => {
    await press('Add lane', 'Add clip');
    await pickTake(1);
    await press('Ferryman', 'Add clip');
    expect(clips().map(({ name, start }) => [name, start])).toEqual([
      ['Quay walk', 0],
      ['Slow bow', 1.5],
    ]);
    expect(bars().length).toBe(2);
    expect(host.querySelectorAll('.overlap').length).toBe(1);
    await press('Ferryman');
    expect(host.textContent).toContain('standing feet slide by 2.0 mm/s beyond their own, most at frame 8');
  });

  it('says which take goes on the lane, whatever was typed and left', async () => {
    await press('Add lane');
    const field = host.querySelector<HTMLInputElement>('input[aria-label="Take to put on the lane"]')!;
    expect(field.value).toBe('Quay walk');
    field.value = 'no such take';
    field.dispatchEvent(new Event('blur'));
    expect(field.value).toBe('Quay walk');
    await pickTake(1);
    expect(field.value).toBe('Slow bow');
  });

  it('plays takes that stand far down the list of the rack', async () => {
    await press('Add lane', 'Add clip');
    const played = (): string[] => Object.keys(store.request(store.content!).pairs).map((pair) => pair.split(' ')[0]);
    const [{ take }] = clips();
    expect(played()).toEqual([take]);
    // The rack is read again, and its first page no longer holds the take.
    const http = TestBed.inject(HttpTestingController);
    const { reel } = store.state;
    TestBed.inject(ProjectStore).choose({ take: rack.takes[1].id });
    TestBed.inject(ProjectStore).load();
    const { takes, ...rest } = rack;
    http.expectOne('/api/rack').flush(rackJson({ ...rest, reels: [reel!] }));
    http.expectOne(({ url }) => url === '/api/takes').flush(pageOf([takes[1]]));
    http.expectOne(`/api/takes/${take}`).flush(rack.takes[0]);
    await settle();
    expect(played()).toEqual([take]);
  });

  it('switches results of one character at a press', async () => {
    await press('Add lane', 'Add clip', 'Ferryman');
    const lanes = () => store.content!.lanes;
    store.repeatLane(
      0,
      rack.characters.find(({ id }) => id === lanes()[0].character)!,
    );
    store.repeatLane(
      0,
      rack.characters.find(({ id }) => id !== lanes()[0].character)!,
    );
    await settle();
    store.choose({ lane: 1, clip: -1 });
    await settle();
    await press('Play this one alone');
    expect(lanes().map(({ on }) => on)).toEqual([false, true, true]);
    // It is the only one now; the one that was switched off can be switched to.
    expect(host.textContent).not.toContain('Play this one alone');
    store.choose({ lane: 0, clip: -1 });
    await settle();
    await press('Play this one alone');
    expect(lanes().map(({ on }) => on)).toEqual([true, false, true]);
  });

  it('changes a clip by numbers, marks and keys, parts it, and takes every step back', async () => {
    await press('Add lane', 'Add clip');
    await number('begins at, s', '1.25');
    await number('rate, ×', '2');
    await number('plays, ×', '3');
    await number('last pose held, s', '0.5');
    host.querySelectorAll<HTMLInputElement>('hs-clip-panel input[type=checkbox]').forEach((box) => box.click());
    await settle();
    expect(clips()[0]).toEqual(
      jasmine.objectContaining({ start: 1.25, rate: 2, repeats: 3, hold: 0.5, joined: false, travel: false, closed: true, reverse: true }),
    );
    bars()[0].dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', altKey: true, bubbles: true }));
    await settle();
    expect(clips()[0].start).toBeCloseTo(1.27, 6);
    TestBed.inject(HistoryService).undo();
    await settle();
    expect(clips()[0].start).toBe(1.25);
    for (let i = 0; i < 12; i++) TestBed.inject(HistoryService).undo();
    await settle();
    expect(store.content!.lanes).toEqual([]);
  });

  it('parts a clip at the frame that is shown, and joins it where it fits best', async () => {
    await press('Add lane', 'Add clip');
    TestBed.inject(PlaybackService).seek(40);
    await press('Split');
    expect(clips().map(({ from, to, start }) => [from, to, start])).toEqual([
      [null, 0.8, 0],
      [0.8, null, 0.8],
    ]);
    await press('Join at the best place');
    expect(found[0].kind).toBe('joining');
    expect(clips().map(({ from, to, start }) => [from, to, start])).toEqual([
      [null, 1.75, 0],
      [0.5, null, 1.25],
    ]);
  });

  it('joins behind the last pass of a cycle, and leaves the cycle as it is', async () => {
    await press('Add lane', 'Add clip', 'Find a cycle', 'Ferryman', 'Add clip', 'Join at the best place');
    const what = found[1];
    expect(what.kind === 'joining' && [what.a.from, what.a.to]).toEqual([1.75, 2.25]);
    expect(clips().map(({ from, to, start }) => [from, to, start])).toEqual([
      [1, 2.25, 0],
      [0.5, null, 4],
    ]);
  });

  it('finds a cycle, and mixes it with another by their speeds', async () => {
    await press('Add lane', 'Add clip', 'Find a cycle');
    expect(clips()[0]).toEqual(jasmine.objectContaining({ from: 1, to: 2.25, closed: true, repeats: 4 }));
    found = [];
    chooseTake(fixture, 'Take to mix with', rack.takes[1].id);
    await press('Mix with it');
    expect(clips()[0].mix!.cycles.map(({ take, value }) => [take, value])).toEqual([
      [rack.takes[0].id, 1.2],
      [rack.takes[1].id, 2.4],
    ]);
    expect(clips()[0].mix!.keys).toEqual([{ at: 0, value: 1.8 }]);
    TestBed.inject(PlaybackService).seek(50);
    await number('value here', '2.2');
    expect(clips()[0].mix!.keys).toEqual([
      { at: 0, value: 1.8 },
      { at: 1, value: 2.2 },
    ]);
    await press('No mix');
    expect(clips()[0].mix).toBeNull();
  });

  it('lets two figures touch, and forgets it with their lane; a pose of the shelf is held', async () => {
    await press('Add lane', 'Add clip', 'Ferryman', 'Does the same');
    TestBed.inject(PlaybackService).seek(25);
    await press('Touch at this frame');
    expect(store.content!.touches.map(({ a, b, from, to }) => [a.lane, b.lane, from, to])).toEqual([[0, 1, 0.5, 1.5]]);
    const name = host.querySelector('hs-reel-touches .what')!.textContent!;
    await number(`${name}, to, s`, '2');
    expect(store.content!.touches[0].to).toBe(2);
    await press('Ferryman', 'Hold pose');
    expect(clips()[1]).toEqual(jasmine.objectContaining({ name: 'salute', pose: { 'left.upperArm': [0, 10, 0] } }));
    await press('Ferryman', 'Remove lane');
    expect([store.content!.lanes.length, store.content!.touches.length]).toEqual([1, 0]);
  });

  it('gives the same to another character a little later, switches lanes off, and removes them', async () => {
    await press('Add lane', 'Add clip', 'Ferryman');
    select(host, 'select[aria-label="Character that does the same"]', rack.characters[1].id);
    await press('Does the same');
    const [, second] = store.content!.lanes;
    expect([second.character, second.shift > 0, second.pace !== 1, second.place[0] > 0]).toEqual([rack.characters[1].id, true, true, true]);
    await press('Switch off Ferryman');
    expect(store.content!.lanes[0].on).toBeFalse();
    await press('Remove lane');
    expect(store.content!.lanes.length).toBe(1);
  });
});
