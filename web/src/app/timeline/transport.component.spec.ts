import { TestBed } from '@angular/core/testing';
import { PlaybackService } from './playback.service';
import { TransportComponent } from './transport.component';

describe('TransportComponent', () => {
  it('shows frame and time, and drives the playback', async () => {
    const playback = TestBed.inject(PlaybackService);
    playback.setClip(120, 1 / 60);
    const fixture = TestBed.createComponent(TransportComponent);
    const host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
    const press = async (name: string): Promise<void> => {
      [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === name)!.click();
      await fixture.whenStable();
    };
    await press('Last frame');
    expect(host.querySelector('output')!.textContent).toContain('120 / 120');
    expect(host.querySelectorAll('output')[1].textContent).toContain('1.98 s');
    await press('One frame back');
    expect(playback.state.frame).toBe(118);
    await press('Play');
    expect(playback.state.playing).toBeTrue();
    await press('Pause');
    expect(playback.state.playing).toBeFalse();
    const speed = host.querySelector('select')!;
    speed.value = '0.25';
    speed.dispatchEvent(new Event('change'));
    await press('loop');
    expect([playback.state.speed, playback.state.loop]).toEqual([0.25, false]);
  });

  it('has nothing to play without a take', async () => {
    const fixture = TestBed.createComponent(TransportComponent);
    await fixture.whenStable();
    expect((fixture.nativeElement as HTMLElement).querySelector<HTMLButtonElement>('.play')!.disabled).toBeTrue();
  });
});
