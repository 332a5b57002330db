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
  });

  it('shows what the judge saw resting, and marks what the plain transfer does not hold', async () => {
    const shown = (rests: readonly { name: string }[]) => rests.filter(({ name }) => / (heel|ball)$/.test(name));
    const { host } = await show();
    expect(host.querySelectorAll('.rest').length).toBe(shown(solved.rests).length);
    expect(host.querySelectorAll('.rest.lost').length).toBe(0);
    const { host: plain } = await show(true);
    const lost = solved.report.plain!.rests.filter((rest) => rest.lost > 0.06);
    expect(plain.querySelectorAll('.rest.lost').length).toBe(shown(lost).length);
    expect(lost.length).toBeGreaterThan(0);
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
