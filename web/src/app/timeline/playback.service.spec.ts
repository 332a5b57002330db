import { TestBed } from '@angular/core/testing';
import { PlaybackService } from './playback.service';

describe('PlaybackService', () => {
  let playback: PlaybackService;
  let tick: FrameRequestCallback;
  let now: number;

  beforeEach(() => {
    now = 1000;
    spyOn(performance, 'now').and.callFake(() => now);
    spyOn(window, 'requestAnimationFrame').and.callFake((callback) => {
      tick = callback;
      return 1;
    });
    playback = TestBed.inject(PlaybackService);
    playback.setClip(100, 0.01);
  });

  const after = (seconds: number): void => {
    now += seconds * 1000;
    tick(now);
  };

  it('plays in the take’s own time, at any speed', () => {
    playback.play();
    after(0.105);
    expect(playback.state.frame).toBe(10);
    playback.setSpeed(0.5);
    after(0.2);
    expect(playback.state.frame).toBe(20);
  });

  it('never goes before the first frame, though the first picture was begun before play was pressed', () => {
    const seen: number[] = [];
    playback.state$.subscribe(({ frame }) => seen.push(frame));
    playback.play();
    after(-0.012);
    expect(Math.min(...seen)).toBe(0);
    after(0.012 + 0.055);
    expect(playback.state.frame).toBe(5);
  });

  it('loops, or stops at the end', () => {
    playback.seek(95);
    playback.play();
    after(0.1);
    expect([playback.state.frame, playback.state.playing]).toEqual([5, true]);
    playback.setLoop(false);
    after(5);
    expect([playback.state.frame, playback.state.playing]).toEqual([99, false]);
  });

  it('steps and seeks within the take', () => {
    playback.seek(500);
    expect(playback.state.frame).toBe(99);
    playback.step(-200);
    expect(playback.state.frame).toBe(0);
  });

  it('keeps its time when the rate changes', () => {
    playback.seek(50);
    playback.setClip(50, 0.02);
    expect(playback.state.frame).toBe(25);
  });
});
