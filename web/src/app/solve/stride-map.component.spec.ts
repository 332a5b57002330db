import { TestBed } from '@angular/core/testing';
import { makeSolved } from '../testing/solved';
import { PlaybackService } from '../timeline/playback.service';
import { StrideMapComponent } from './stride-map.component';

describe('StrideMapComponent', () => {
  const solved = makeSolved();

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
    host.querySelector('button')!.click();
    await fixture.whenStable();
    const [left, , width] = host.querySelector('svg')!.getAttribute('viewBox')!.split(' ').map(Number);
    expect(left + width / 2).toBeCloseTo(hips[at + 1], 4);
  });
});
