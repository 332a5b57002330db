import { type ComponentFixture, TestBed } from '@angular/core/testing';
import type { Series } from '@hollow-stride/core';
import { ChartComponent } from './charts.component';

describe('a chart of the check sheet', () => {
  const FRAMES = 200;
  let fixture: ComponentFixture<ChartComponent>;
  let asked: number[];
  const series = (count = FRAMES): Series =>
    ({
      id: 'knee',
      name: 'left knee, bend',
      unit: '°',
      theirs: Array.from({ length: count }, (_, i) => i % 60),
      mine: Array.from({ length: count }, (_, i) => (i + 5) % 60),
    }) as unknown as Series;
  const canvas = (): HTMLCanvasElement => (fixture.nativeElement as HTMLElement).querySelector('canvas')!;
  const head = (): number => parseFloat((fixture.nativeElement as HTMLElement).querySelector<HTMLElement>('.head')!.style.left);
  const press = (key: string, shiftKey = false): void => {
    canvas().dispatchEvent(new KeyboardEvent('keydown', { key, shiftKey, bubbles: true }));
  };
  const show = async (frame: number, of = series()): Promise<void> => {
    fixture.componentRef.setInput('series', of);
    fixture.componentRef.setInput('frames', FRAMES);
    fixture.componentRef.setInput('frame', frame);
    fixture.componentRef.setInput('seek', (to: number) => asked.push(to));
    fixture.detectChanges();
    await fixture.whenStable();
  };

  beforeEach(() => {
    asked = [];
    fixture = TestBed.createComponent(ChartComponent);
    const host = fixture.nativeElement as HTMLElement;
    host.style.width = '400px';
    document.body.append(host);
  });
  afterEach(() => fixture.destroy());

  it('says what it shows and which frame, for those who do not see it', async () => {
    await show(41);
    const said = ['role', 'aria-label', 'aria-valuemax', 'aria-valuenow', 'aria-valuetext'].map((name) => canvas().getAttribute(name));
    expect(said).toEqual(['slider', 'left knee, bend over the take', '200', '42', 'frame 42']);
  });

  it('leads from frame to frame by keys, by tens, to both ends and no farther', async () => {
    await show(50);
    press('ArrowRight');
    press('ArrowLeft');
    press('ArrowRight', true);
    press('Home');
    press('End');
    press('a');
    // Pressed faster than the page is drawn, each goes on from the last.
    expect(asked).toEqual([51, 50, 60, 0, 199]);
    await show(198);
    press('ArrowRight', true);
    expect(asked.at(-1)).toBe(199);
  });

  it('has its head where the frame is, and leads where it is pressed', async () => {
    await show(0);
    const first = head();
    await show(199);
    const last = head();
    expect(last - first).toBeGreaterThan(250);
    await show(100);
    expect(head()).toBeCloseTo(first + ((last - first) * 100) / 199, 0);
    const bounds = canvas().getBoundingClientRect();
    const at = { clientX: bounds.left + (first + last) / 2 + 1, clientY: bounds.top + 20, pointerId: 1, buttons: 1, bubbles: true };
    canvas().setPointerCapture = () => undefined;
    canvas().dispatchEvent(new PointerEvent('pointerdown', at));
    expect(Math.abs(asked.at(-1)! - 99.5)).toBeLessThan(2);
    canvas().dispatchEvent(new PointerEvent('pointermove', { ...at, clientX: bounds.left + 2000 }));
    expect(asked.at(-1)).toBe(199);
    const count = asked.length;
    canvas().dispatchEvent(new PointerEvent('pointermove', { ...at, buttons: 0 }));
    expect(asked.length).toBe(count);
  });

  it('spreads values that were thinned over the whole take', async () => {
    await show(199, series(50));
    const thinned = head();
    await show(199);
    expect(thinned).toBeCloseTo(head(), 0);
  });
});
