import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { TouchUp } from '@hollow-stride/core';
import { DEFAULT_CHOICES } from '../../project/project.store';
import { pressable } from '../../testing/fake-stage';
import { makePair } from '../../testing/pair';
import { PlaybackService } from '../../timeline/playback.service';
import { StrideMapComponent } from './stride-map.component';

describe('StrideMapComponent', () => {
  const pair = makePair();
  const { solved } = pair;

  beforeEach(() => {
    pair.choices.next(DEFAULT_CHOICES);
    TestBed.configureTestingModule({ providers: [...pair.providers, provideRouter([])] });
  });

  async function show() {
    const fixture = TestBed.createComponent(StrideMapComponent);
    fixture.componentRef.setInput('solved', solved);
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement };
  }

  it('has a footprint for each stand of a foot on both bodies, left solid and right hollow', async () => {
    const { host } = await show();
    const { mine } = solved.floor;
    const prints = [...host.querySelectorAll('.character .print')];
    expect(prints.length).toBe(mine.prints.length);
    expect(prints.length).toBeGreaterThan(3);
    expect(host.querySelectorAll('.character .print.solid').length).toBe(mine.prints.filter(({ side }) => side === 'left').length);
    expect(host.querySelectorAll('.performer .print').length).toBe(prints.length);
  });

  it('lays stands of one foot a stride apart, ahead of each other, and says how much each slides', async () => {
    const { host } = await show();
    const left = solved.floor.mine.prints.filter(({ side }) => side === 'left');
    for (const [i, print] of left.entries()) {
      if (i === 0) continue;
      expect(print.first).toBeGreaterThan(left[i - 1].last);
      expect(Math.hypot(print.ball[0] - left[i - 1].ball[0], print.ball[1] - left[i - 1].ball[1])).toBeGreaterThan(0.3);
      expect(Math.hypot(print.ball[0] - print.heel[0], print.ball[1] - print.heel[1])).toBeGreaterThan(0.08);
    }
    const slides = [...host.querySelectorAll('.character .print')].map((print) =>
      parseFloat(/slides ([\d.]+) mm/.exec(print.getAttribute('aria-label')!)![1]),
    );
    slides.forEach((slide) => expect(slide).toBeLessThan(3));
  });

  it('moves a step by the arrow keys or by dragging it, as the foot points, for the time of that stand alone', async () => {
    const { host, fixture } = await show();
    const print = solved.floor.mine.prints[2];
    const of = (kind: string): TouchUp[] =>
      pair.choices.value.touchUps.filter(({ touchUp }) => touchUp.kind === kind).map(({ touchUp }) => touchUp);
    const element = host.querySelectorAll('.character .print')[2];
    // The walk goes ahead, to the right on the map.
    element.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', altKey: true, bubbles: true }));
    expect(of('stepsAhead')[0].value).toBeGreaterThan(0.8);
    expect(of('stepsAhead')[0].side).toBe(print.side);
    const { mask } = of('stepsAhead')[0];
    expect(mask!.from).toBeCloseTo(print.from * solved.take.frameTime, 6);
    expect(mask!.to).toBeCloseTo(print.to * solved.take.frameTime, 6);
    expect(pair.choices.value.touchUps.every(({ take }) => take === 't1')).toBeTrue();
    element.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowLeft', altKey: true, bubbles: true }));
    expect(Math.abs(of('stepsAhead')[0].value)).toBeLessThan(0.1);
    element.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', altKey: true, shiftKey: true, bubbles: true }));
    expect(of('stepsTurned')[0].value).toBe(print.side === 'left' ? -1 : 1);
    // A tenth of the map to the right, by the pointer.
    const box = host.querySelector('svg')!.getBoundingClientRect();
    const at = { clientX: box.left + box.width / 2, clientY: box.top + box.height / 2, bubbles: true, pointerId: 1 };
    spyOn(Element.prototype, 'setPointerCapture');
    spyOn(Element.prototype, 'releasePointerCapture');
    const before = of('stepsAhead')[0].value;
    element.dispatchEvent(new PointerEvent('pointerdown', at));
    element.dispatchEvent(new PointerEvent('pointermove', { ...at, clientX: at.clientX + 20 }));
    await fixture.whenStable();
    expect(element.getAttribute('transform')).toContain('translate');
    element.dispatchEvent(new PointerEvent('pointerup', at));
    const playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    element.dispatchEvent(new MouseEvent('click', { bubbles: true }));
    expect(playback.state.frame).withContext('the end of a drag is no press').toBe(0);
    expect(of('stepsAhead')[0].value).toBeGreaterThan(before + 1);
    element.dispatchEvent(new MouseEvent('dblclick', { bubbles: true }));
    expect(pair.choices.value.touchUps.every(({ touchUp }) => touchUp.value === 0)).toBeTrue();
  });

  it('leads to the frame of a footprint, and shows where the hips are', async () => {
    const { host, fixture } = await show();
    const playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    host.querySelectorAll('.character .print')[2].dispatchEvent(new MouseEvent('click', { bubbles: true }));
    expect(playback.state.frame).toBe(solved.floor.mine.prints[2].first);
    await fixture.whenStable();
    const { hips, step } = solved.floor.mine;
    const at = Math.floor(playback.state.frame / step) * 2;
    // The walk goes ahead: ahead is to the right, its left is up.
    const now = host.querySelector('.now')!;
    expect(parseFloat(now.getAttribute('cx')!)).toBeCloseTo(hips[at + 1], 4);
    expect(parseFloat(now.getAttribute('cy')!)).toBeCloseTo(-hips[at], 4);
    pressable(host, 'follow the hips').click();
    await fixture.whenStable();
    const [left, , width] = host.querySelector('svg')!.getAttribute('viewBox')!.split(' ').map(Number);
    expect(left + width / 2).toBeCloseTo(hips[at + 1], 4);
  });

  describe('with footprints that lie on each other', () => {
    const { mine } = solved.floor;
    const [first, second] = mine.prints.filter(({ side }) => side === 'left');
    const other = mine.prints.find(({ side }) => side === 'right')!;
    /** The second stand of that foot where the first one was, as a person stands who stays in place. */
    const onFirst = { ...second, heel: first.heel, ball: first.ball, smear: first.smear };
    async function stacked() {
      const shown = await show();
      shown.fixture.componentRef.setInput('solved', {
        ...solved,
        floor: { ...solved.floor, mine: { ...mine, prints: [first, onFirst, other] } },
      });
      await shown.fixture.whenStable();
      const playback = TestBed.inject(PlaybackService);
      playback.setClip(150, 1 / 60);
      const prints = [...shown.host.querySelectorAll('.character .print')];
      const box = prints[0].querySelector('polygon')!.getBoundingClientRect();
      const place = { clientX: box.left + box.width / 2, clientY: box.top + box.height / 2, bubbles: true };
      const press = async (): Promise<number> => {
        const top = document.elementsFromPoint(place.clientX, place.clientY)[0];
        top.dispatchEvent(new PointerEvent('pointerdown', { ...place, pointerId: 1 }));
        top.dispatchEvent(new PointerEvent('pointerup', { ...place, pointerId: 1 }));
        top.dispatchEvent(new MouseEvent('click', { ...place, detail: 1 }));
        await shown.fixture.whenStable();
        return playback.state.frame;
      };
      return { ...shown, playback, press, prints };
    }

    beforeEach(() => {
      // Only real pointers can be captured.
      spyOn(Element.prototype, 'setPointerCapture');
      spyOn(Element.prototype, 'releasePointerCapture');
    });

    it('means the one of the time that is shown, and the next below it at a second press', async () => {
      const { press, playback } = await stacked();
      playback.seek(first.first);
      expect([await press(), await press(), await press()]).toEqual([first.first, onFirst.first, first.first]);
    });

    it('marks the one that the foot stands in', async () => {
      const { prints, fixture, playback } = await stacked();
      playback.seek(onFirst.first);
      await fixture.whenStable();
      expect(prints.map((print) => print.classList.contains('standing')).slice(0, 2)).toEqual([false, true]);
      for (const isFull of [false, true]) {
        fixture.componentRef.setInput('full', isFull);
        await fixture.whenStable();
        expect(prints.slice(0, 2).map((print) => getComputedStyle(print).opacity)).toEqual(['0.5', '1']);
      }
    });
  });

  describe('in full', () => {
    async function full() {
      const shown = await show();
      shown.fixture.componentRef.setInput('full', true);
      await shown.fixture.whenStable();
      const { host, fixture } = shown;
      const svg = host.querySelector('svg')!;
      const box = (): number[] => svg.getAttribute('viewBox')!.split(' ').map(Number);
      const press = async (name: string): Promise<void> => {
        pressable(host, name).click();
        await fixture.whenStable();
      };
      return { ...shown, svg, box, press, says: () => host.querySelector('[role=status]')!.textContent.trim() };
    }

    it('goes nearer about a place, along by a drag, and back to all of it', async () => {
      const { svg, box, press, fixture } = await full();
      const whole = box();
      await press('Zoom in');
      expect(box()[2]).toBeCloseTo(whole[2] / 2, 6);
      const { left, top, width, height } = svg.getBoundingClientRect();
      const at = { clientX: left + width * 0.3, clientY: top + height * 0.4, bubbles: true, buttons: 1 };
      const placeUnder = (): DOMPoint => new DOMPoint(at.clientX, at.clientY).matrixTransform(svg.getScreenCTM()!.inverse());
      const before = placeUnder();
      svg.dispatchEvent(new WheelEvent('wheel', { ...at, deltaY: -1, cancelable: true }));
      await fixture.whenStable();
      expect(box()[2]).toBeCloseTo(whole[2] / 2.5, 6);
      expect(placeUnder().x).withContext('what is under the pointer stays there').toBeCloseTo(before.x, 2);
      const [x] = box();
      svg.dispatchEvent(new PointerEvent('pointerdown', at));
      svg.dispatchEvent(new PointerEvent('pointermove', { ...at, clientX: at.clientX + 40 }));
      svg.dispatchEvent(new PointerEvent('pointerup', at));
      await fixture.whenStable();
      expect(box()[0]).toBeLessThan(x);
      await press('show all');
      expect(box()).toEqual(whole);
      for (let i = 0; i < 4; i++) await press('Zoom out');
      expect(box()).withContext('no farther than all').toEqual(whole);
    });

    it('measures between footprints or any two places, and moves no step', async () => {
      const { host, press, says, fixture, svg } = await full();
      const prints = [...host.querySelectorAll('.character .print')];
      const middle = (i: number): readonly number[] => {
        const { heel, ball } = solved.floor.mine.prints[i];
        return [(heel[0] + ball[0]) / 2, (heel[1] + ball[1]) / 2];
      };
      await press('measure');
      for (const i of [0, 2]) prints[i].dispatchEvent(new MouseEvent('click', { bubbles: true }));
      await fixture.whenStable();
      const apart = Math.hypot(middle(2)[0] - middle(0)[0], middle(2)[1] - middle(0)[1]);
      expect(says()).toBe(apart < 1 ? `${(apart * 100).toFixed(0)} cm apart` : `${apart.toFixed(2)} m apart`);
      const { left, top, width, height } = svg.getBoundingClientRect();
      const at = { clientX: left + width / 2, clientY: top + height * 0.1, bubbles: true };
      svg.dispatchEvent(new PointerEvent('pointerdown', at));
      svg.dispatchEvent(new PointerEvent('pointerup', at));
      await fixture.whenStable();
      expect(says()).withContext('a third press begins anew').toBe('Press the other end.');
      await press('measure');
      prints[1].dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }));
      expect(pair.choices.value.touchUps).toEqual([]);
    });

    it('leads from a footprint to Solve', async () => {
      const { host, says, fixture } = await full();
      TestBed.inject(PlaybackService).setClip(150, 1 / 60);
      expect(host.querySelector('a')).toBeNull();
      host.querySelectorAll('.character .print')[1].dispatchEvent(new MouseEvent('click', { bubbles: true }));
      await fixture.whenStable();
      expect(says()).toContain('character');
      expect(host.querySelector('a')!.getAttribute('href')).toBe('/solve');
      expect(TestBed.inject(PlaybackService).state.frame).toBe(solved.floor.mine.prints[1].first);
    });
  });
});
