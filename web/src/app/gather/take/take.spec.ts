import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { of, Subject, throwError } from 'rxjs';
import { BodyService } from '../../body/body.service';
import type { TakeView } from '../../body/messages';
import { ProjectStore } from '../../project/project.store';
import type { TakeSource } from '../../solver/messages';
import { SolverError } from '../../solver/worker-client';
import { flushRack, makeRack } from '../../testing/rack';
import { makeTakeView } from '../../testing/views';
import { RangeBarComponent } from './range-bar.component';
import { TakeStore } from './take.store';

describe('TakeStore', () => {
  const rack = makeRack();
  const view = makeTakeView();
  let store: TakeStore;
  let answer: (source: TakeSource) => ReturnType<BodyService['take']>;
  let asked: TakeSource[];

  beforeEach(() => {
    // debounceTime looks at the date too.
    jasmine.clock().install().mockDate();
    localStorage.clear();
    asked = [];
    answer = () => of(view);
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        { provide: BodyService, useValue: { take: (source: TakeSource) => (asked.push(source), answer(source)) } },
      ],
    });
    store = TestBed.inject(TakeStore);
    TestBed.inject(ProjectStore).load();
    flushRack(TestBed.inject(HttpTestingController), rack);
    store.open(rack.takes[0].id);
    jasmine.clock().tick(100);
  });
  afterEach(() => jasmine.clock().uninstall());

  it('looks at the take that is opened, and anew when something of it is set', () => {
    expect(store.state.view).toBe(view);
    store.set({ from: 0.5 }, 'in at 0.5 s');
    expect(store.state.busy).toBeTrue();
    jasmine.clock().tick(100);
    expect(asked.map((source) => source.choices.from)).toEqual([null, 0.5]);
    expect(store.state.busy).toBeFalse();
  });

  it('keeps the last view while the next is on its way, and says why there is none', () => {
    const late = new Subject<TakeView>();
    answer = () => late;
    store.set({ fps: 30 }, 'resample');
    jasmine.clock().tick(100);
    expect([store.state.view, store.state.busy]).toEqual([view, true]);
    answer = () => throwError(() => new SolverError({ code: 'take/range', message: 'the handles stand outside', where: {} }));
    store.set({ from: 900 }, 'in');
    jasmine.clock().tick(100);
    expect(store.state.fault?.message).toBe('the handles stand outside');
    expect(store.state.view).toBe(view);
  });

  it('keeps tags once each, without the blanks', () => {
    store.setTags(' walk, harbour ,walk,, ');
    expect(TestBed.inject(ProjectStore).state.rack.takes[0].tags).toEqual(['walk', 'harbour']);
    store.setNote('left boot');
    expect(TestBed.inject(ProjectStore).state.rack.takes[0].note).toBe('left boot');
  });
});

describe('RangeBarComponent', () => {
  it('moves its handles by the keyboard, one never past the other, and marks the faults', async () => {
    const fixture = TestBed.createComponent(RangeBarComponent);
    const faults = [{ kind: 'gap', from: 10, to: 14, joint: null, message: 'held' }];
    for (const [key, value] of Object.entries({ frames: 100, first: 4, last: 6, faults })) fixture.componentRef.setInput(key, value);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const moved: { end: string; frame: number }[] = [];
    fixture.componentInstance.moved.subscribe((move) => moved.push(move));
    const [into, out] = [...host.querySelectorAll('.handle')];
    const press = (handle: Element, key: string, shiftKey = false): unknown =>
      handle.dispatchEvent(new KeyboardEvent('keydown', { key, shiftKey }));
    press(into, 'ArrowRight');
    press(into, 'ArrowRight', true);
    press(into, 'Home');
    press(out, 'ArrowLeft', true);
    press(out, 'End');
    expect(moved).toEqual([
      { end: 'in', frame: 5 },
      { end: 'in', frame: 5 },
      { end: 'in', frame: 0 },
      { end: 'out', frame: 5 },
      { end: 'out', frame: 99 },
    ]);
    expect(host.querySelector('.fault-mark')!.getAttribute('title')).toBe('gap: held');
  });
});
