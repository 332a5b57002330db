import { TestBed } from '@angular/core/testing';
import { makeTouchUp } from '@hollow-stride/core';
import { PlaybackService } from '../../timeline/playback.service';
import { TouchUpsStore } from '../touch-ups/touch-ups.store';
import { BarStripComponent } from './bar-strip.component';
import { wholeOf } from './frames-window';
import { KeyLaneComponent } from './key-lane.component';

describe('keys of a touch-up on their lane', () => {
  const FPS = 50;
  const touchUp = {
    ...makeTouchUp({ kind: 'shoulders' }),
    keys: [
      { at: 0.2, value: 4 },
      { at: 1, value: -3 },
    ],
  };

  async function show() {
    const did: unknown[] = [];
    const store = {
      frameAt: (seconds: number) => seconds * FPS,
      secondsAt: (frame: number) => frame / FPS,
      moveKey: (index: number, at: number, to: number) => did.push(['move', index, at, to]),
      toggleKey: (index: number) => did.push(['toggle', index, playback.state.frame]),
    };
    TestBed.configureTestingModule({ providers: [{ provide: TouchUpsStore, useValue: store }] });
    const playback = TestBed.inject(PlaybackService);
    playback.setClip(100, 1 / FPS);
    const fixture = TestBed.createComponent(KeyLaneComponent);
    fixture.componentRef.setInput('entry', { index: 2, touchUp, isOfAll: false });
    fixture.componentRef.setInput('window', wholeOf(100));
    const host = fixture.nativeElement as HTMLElement;
    document.body.append(host);
    host.style.width = '500px';
    await fixture.whenStable();
    const keys = [...host.querySelectorAll('button')];
    keys.forEach((key) => (key.setPointerCapture = () => undefined));
    const press = (i: number, key: string): void => void keys[i].dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
    const point = (i: number, type: string, clientX: number): void =>
      void keys[i].dispatchEvent(new PointerEvent(type, { clientX, pointerId: 1, bubbles: true }));
    return { did, playback, fixture, host, keys, press, point };
  }

  it('stand in the middle of their frames and say value and frame', async () => {
    const { keys, host } = await show();
    expect(keys.map((key) => parseFloat(key.style.left))).toEqual([10.5, 50.5]);
    expect(keys.map((key) => key.getAttribute('aria-label'))).toEqual([
      jasmine.stringMatching(/4° at frame 11$/),
      jasmine.stringMatching(/-3° at frame 51$/),
    ]);
    host.remove();
  });

  it('are gone to by Enter, moved frame by frame by the arrow keys, and taken away by Delete', async () => {
    const { did, playback, press, host } = await show();
    press(1, 'Enter');
    expect(playback.state.frame).toBe(50);
    press(0, 'ArrowRight');
    press(0, 'ArrowLeft');
    expect(did).toEqual([
      ['move', 2, 0.2, 11 / FPS],
      ['move', 2, 0.2, 9 / FPS],
    ]);
    did.length = 0;
    press(1, 'Delete');
    expect(did).toEqual([['toggle', 2, 50]]);
    press(1, 'x');
    expect(did.length).toBe(1);
    host.remove();
  });

  it('are dragged along, and moved once, when they are let go', async () => {
    const { did, playback, fixture, keys, point, host } = await show();
    const { clientWidth } = host;
    point(0, 'pointerdown', 100);
    expect(playback.state.frame).toBe(10);
    point(0, 'pointermove', 100 + clientWidth / 10);
    await fixture.whenStable();
    expect(parseFloat(keys[0].style.left)).toBeCloseTo(20.5, 6);
    expect(did).toEqual([]);
    point(0, 'pointerup', 100 + clientWidth / 10);
    expect(did).toEqual([['move', 2, 0.2, 20 / FPS]]);
    host.remove();
  });

  it('stay where a press without a way leaves them, and before the first frame nothing is', async () => {
    const { did, fixture, keys, point, host } = await show();
    point(0, 'pointerdown', 100);
    point(0, 'pointerup', 100);
    expect(did).toEqual([]);
    point(0, 'pointerdown', 100);
    point(0, 'pointermove', -9000);
    await fixture.whenStable();
    expect(parseFloat(keys[0].style.left)).toBeCloseTo(0.5, 6);
    host.remove();
  });
});

describe('the strip of a chosen bar', () => {
  async function show(inputs: Readonly<Record<string, unknown>> = {}) {
    const fixture = TestBed.createComponent(BarStripComponent);
    const all = { name: 'left heel', bar: { first: 9, last: 29 }, frames: 100, canSplit: true, hasNext: false, ...inputs };
    for (const [name, value] of Object.entries(all)) fixture.componentRef.setInput(name, value);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const told: unknown[] = [];
    const strip = fixture.componentInstance;
    strip.resized.subscribe((span) => told.push(span));
    strip.split.subscribe(() => told.push('split'));
    strip.join.subscribe(() => told.push('join'));
    strip.removed.subscribe(() => told.push('removed'));
    const button = (name: string): HTMLButtonElement =>
      [...host.querySelectorAll('button')].find((one) => one.textContent!.trim() === name)!;
    const type = async (label: string, value: string): Promise<void> => {
      const field = [...host.querySelectorAll('input')].find((one) => (one.getAttribute('aria-label') ?? '').includes(label))!;
      field.value = value;
      field.dispatchEvent(new Event('change', { bubbles: true }));
      await fixture.whenStable();
    };
    return { told, button, type };
  }

  it('sets its ends by frames counted from 1, each within the other and the take', async () => {
    const { told, type } = await show();
    await type('first frame', '5');
    await type('last frame', '50');
    expect(told).toEqual([
      { first: 4, last: 29 },
      { first: 9, last: 49 },
    ]);
    told.length = 0;
    await type('last frame', '4000');
    expect((told as { last: number }[]).every(({ last }) => last <= 99)).toBeTrue();
  });

  it('offers what can be done with it, and no more', async () => {
    const { told, button } = await show();
    button('split').click();
    button('join').click();
    button('remove').click();
    expect(told).toEqual(['split', 'removed']);
    const other = await show({ canSplit: false, hasNext: true });
    other.button('split').click();
    other.button('join').click();
    expect(other.told).toEqual(['join']);
  });
});
