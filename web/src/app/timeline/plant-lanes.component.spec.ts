import { TestBed } from '@angular/core/testing';
import { makeSolved } from '../testing/solved';
import { PlantLanesComponent } from './plant-lanes.component';
import { PlaybackService } from './playback.service';

describe('PlantLanesComponent', () => {
  const solved = makeSolved();

  async function show(before = false) {
    const fixture = TestBed.createComponent(PlantLanesComponent);
    fixture.componentRef.setInput('solved', solved);
    fixture.componentRef.setInput('before', before);
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement };
  }

  it('shows a bar for each plant, in its lane and place', async () => {
    const { host } = await show();
    const bars = [...host.querySelectorAll<HTMLElement>('.bar')];
    expect(bars.length).toBe(solved.contacts.plants.length);
    const plant = solved.contacts.plants.find((p) => p.side === 'left' && p.part === 'heel')!;
    const first = host.querySelectorAll('.area .lane')[0].querySelector<HTMLElement>('.bar')!;
    expect(parseFloat(first.style.left)).toBeCloseTo((100 * plant.first) / 150, 3);
    expect(host.querySelectorAll('.slides').length).toBe(0);
  });

  it('marks the plants that slide before pinning', async () => {
    const { host } = await show(true);
    const sliding = solved.report.plain!.plants.filter((p) => p.slide > 1).length;
    expect(host.querySelectorAll('.slides').length).toBe(sliding);
    expect(sliding).toBeGreaterThan(0);
  });

  it('follows the pointer', async () => {
    const { host } = await show();
    const playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    const area = host.querySelector<HTMLElement>('.area')!;
    area.setPointerCapture = () => undefined;
    const box = area.getBoundingClientRect();
    area.dispatchEvent(new PointerEvent('pointerdown', { clientX: box.left + box.width * 0.5, pointerId: 1 }));
    expect(playback.state.frame).toBe(75);
  });
});
