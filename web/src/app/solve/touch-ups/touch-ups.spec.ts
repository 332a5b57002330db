import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { TouchUp } from '@hollow-stride/core';
import { makePair } from '../../testing/pair';
import { PlaybackService } from '../../timeline/playback.service';
import { HANDLES, worthOf } from './handles';
import { HandlesComponent } from './handles.component';
import { TouchUpsPanelComponent } from './touch-ups-panel.component';
import { nameOf, TouchUpsStore } from './touch-ups.store';

describe('touch-ups of a pair', () => {
  const pair = makePair();
  let store: TouchUpsStore;
  let playback: PlaybackService;
  const list = (): TouchUp[] => pair.choices.value.touchUps.map(({ touchUp }) => touchUp);

  beforeEach(() => {
    pair.choices.next({ ...pair.choices.value, touchUps: [] });
    pair.steps.length = 0;
    TestBed.configureTestingModule({ providers: pair.providers });
    store = TestBed.inject(TouchUpsStore);
    playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    playback.seek(0);
  });

  it('are constant, held within what a body can do', () => {
    const index = store.add('shoulders');
    store.setAmount(index, 12.34);
    expect(list()[0]).toEqual(jasmine.objectContaining({ kind: 'shoulders', side: 'both', value: 12.3, keys: [] }));
    store.setAmount(index, 1000);
    expect(list()[0].value).toBe(45);
    expect(pair.steps).toContain('touch up shoulders up');
  });

  it('are keyed at the frame that is shown, of the take alone, and constant again without keys', () => {
    const index = store.add('head');
    store.setAmount(index, 10);
    store.toggleKey(index);
    playback.seek(60);
    store.setAmount(index, -20);
    expect(list()[0].keys).toEqual([
      { at: 0, value: 10 },
      { at: 1, value: -20 },
    ]);
    expect(store.entries[0].isOfTake).toBeTrue();
    playback.seek(30);
    expect(store.hasKey(list()[0])).toBeFalse();
    expect(store.amount(list()[0])).toBeCloseTo(-5, 0);
    store.moveKey(index, 1, 1.5);
    expect(list()[0].keys.map(({ at }) => at)).toEqual([0, 1.5]);
    playback.seek(90);
    store.toggleKey(index);
    playback.seek(0);
    store.toggleKey(index);
    expect([list()[0].keys.length, list()[0].value]).toEqual([0, 10]);
  });

  it('change their order, and those of other takes are left out and left alone', () => {
    store.add('head');
    pair.choices.next({
      ...pair.choices.value,
      touchUps: [...pair.choices.value.touchUps, { touchUp: { ...list()[0], kind: 'lean' }, take: 'another' }],
    });
    store.add('knees');
    expect(store.entries.map(({ touchUp }) => touchUp.kind)).toEqual(['head', 'knees']);
    store.move(2, -1);
    expect(list().map(({ kind }) => kind)).toEqual(['knees', 'lean', 'head']);
    store.move(0, -1);
    expect(list().map(({ kind }) => kind)).toEqual(['knees', 'lean', 'head']);
    store.remove(0);
    expect(list().map(({ kind }) => kind)).toEqual(['lean', 'head']);
  });

  describe('on the panel', () => {
    let fixture: ComponentFixture<TouchUpsPanelComponent>;
    let host: HTMLElement;
    beforeEach(async () => {
      fixture = TestBed.createComponent(TouchUpsPanelComponent);
      host = fixture.nativeElement as HTMLElement;
      await fixture.whenStable();
    });

    it('are added by name, switched off, masked and scoped', async () => {
      const add = host.querySelector<HTMLSelectElement>('.add')!;
      add.value = 'knees';
      add.dispatchEvent(new Event('change'));
      await fixture.whenStable();
      expect(host.querySelector('.more')).not.toBeNull();
      host.querySelector<HTMLInputElement>('.entry input[type=checkbox]')!.click();
      expect(list()[0].on).toBeFalse();
      [...host.querySelectorAll('label')]
        .find((label) => label.textContent?.includes('only for a time'))!
        .querySelector('input')!
        .click();
      expect(list()[0].mask).toEqual({ from: 0, to: 1, fade: 0.25 });
      await fixture.whenStable();
      [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === 'left')!.click();
      expect(list()[0].side).toBe('left');
      // A time is one of this take, but a person may have it for all.
      const scope = (): string | null => pair.choices.value.touchUps[0].take;
      const press = (name: string): void => [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === name)!.click();
      expect(scope()).toBe('t1');
      press('all takes');
      expect(scope()).toBeNull();
      press('this take');
      expect(scope()).toBe('t1');
      expect(nameOf(list()[0])).toBe('left knee out');
    });
  });

  describe('by handles', () => {
    let fixture: ComponentFixture<HandlesComponent>;
    let host: HTMLElement;
    const knob = (name: string): HTMLButtonElement => host.querySelector<HTMLButtonElement>(`button[aria-label^="${name}"]`)!;
    const places = new Map<string, readonly [x: number, y: number]>();
    /** Sends a pointer's event to a handle, so far from its middle. */
    const point = (name: string, type: string, dx: number, dy: number, more: MouseEventInit = {}): void => {
      const { left, top } = host.getBoundingClientRect();
      const [x, y] = places.get(name)!;
      const init = { clientX: left + x + dx, clientY: top + y + dy, bubbles: true, ...more };
      knob(name).dispatchEvent(type.startsWith('pointer') ? new PointerEvent(type, { pointerId: 1, ...init }) : new MouseEvent(type, init));
    };
    beforeEach(async () => {
      fixture = TestBed.createComponent(HandlesComponent);
      fixture.componentRef.setInput('solved', pair.solved);
      host = fixture.nativeElement as HTMLElement;
      await fixture.whenStable();
      const { joints, place } = fixture.componentInstance;
      // Seen from ahead: the body's left is at the right.
      const shown = HANDLES.filter(({ role }) => pair.solved.roles.has(role));
      const drawn = new Float64Array(joints().length * 2);
      shown.forEach(({ name, side }, i) => {
        const at = [side === 'left' ? 300 : side === 'right' ? 100 : 200, 50 + 10 * i] as const;
        places.set(name, at);
        drawn.set(at, i * 2);
      });
      drawn.set([300, 20, 100, 20, 200, 100], shown.length * 2);
      place(drawn);
      for (const button of host.querySelectorAll('button')) {
        button.setPointerCapture = () => undefined;
        button.releasePointerCapture = () => undefined;
      }
    });

    it('raise both shoulders by a drag up, one with Alt', () => {
      point('left shoulder', 'pointerdown', 0, 0);
      point('left shoulder', 'pointermove', 1, -40);
      point('left shoulder', 'pointerup', 1, -40);
      expect(list()).toEqual([jasmine.objectContaining({ kind: 'shoulders', side: 'both', value: 12 })]);
      point('left shoulder', 'pointerdown', 0, 0, { altKey: true });
      point('left shoulder', 'pointermove', 0, 10, { altKey: true });
      point('left shoulder', 'pointerup', 0, 10);
      expect(list()[1]).toEqual(jasmine.objectContaining({ side: 'left', value: -3 }));
      point('left shoulder', 'dblclick', 0, 0);
      expect(list().map(({ value }) => value)).toEqual([0, 0]);
    });

    it('take knees out on either side of the screen, by pointer and by keys', () => {
      point('right knee', 'pointerdown', 0, 0);
      point('right knee', 'pointermove', -20, 0);
      point('right knee', 'pointerup', -20, 0);
      expect(list()[0]).toEqual(jasmine.objectContaining({ kind: 'knees', value: 6 }));
      knob('left knee').dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }));
      expect(list()[0].value).toBe(7);
      knob('hips').dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', bubbles: true }));
      expect(list()[1]).toEqual(jasmine.objectContaining({ kind: 'hips', value: -1 }));
    });

    it('are taken by what is nearest, where they lie over each other', () => {
      const [x, y] = places.get('left elbow')!;
      const [ownX, ownY] = places.get('left shoulder')!;
      point('left shoulder', 'pointerdown', x - ownX, y - ownY - 1);
      point('left shoulder', 'pointermove', x - ownX + 20, y - ownY);
      point('left shoulder', 'pointerup', x - ownX + 20, y - ownY);
      expect(list().map(({ kind }) => kind)).toEqual(['elbows']);
    });

    it('mean the same on the screen from ahead and from behind', () => {
      const out = { kind: 'knees', more: 'out' } as const;
      expect(worthOf(out, true, true)).toBeGreaterThan(0);
      expect(worthOf(out, false, true)).toBeLessThan(0);
      expect(worthOf({ kind: 'headTurn', more: 'left' }, true, false)).toBeLessThan(0);
    });
  });
});
