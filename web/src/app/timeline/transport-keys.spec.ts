import { PlaybackService, SPEEDS } from './playback.service';
import { transportKey } from './transport-keys';

describe('keys of the transport', () => {
  let playback: PlaybackService;
  beforeEach(() => {
    playback = new PlaybackService();
    playback.setClip(100, 1 / 60);
  });
  afterEach(() => playback.pause());
  const press = (key: string, more: KeyboardEventInit = {}): boolean =>
    transportKey(new KeyboardEvent('keydown', { key, ...more }), playback);

  it('go frame by frame, ten with Shift, and no farther than the ends', () => {
    expect(press('ArrowRight')).toBeTrue();
    expect(playback.state.frame).toBe(1);
    press('ArrowRight', { shiftKey: true });
    press('ArrowRight', { shiftKey: true });
    press('ArrowLeft');
    expect(playback.state.frame).toBe(20);
    press('End');
    press('ArrowRight');
    expect(playback.state.frame).toBe(99);
    press('Home');
    press('ArrowLeft', { shiftKey: true });
    expect(playback.state.frame).toBe(0);
  });

  it('play and pause, and a step pauses', () => {
    press(' ');
    expect(playback.state.playing).toBeTrue();
    press('ArrowRight');
    expect(playback.state.playing).toBeFalse();
    press(' ');
    press(' ');
    expect(playback.state.playing).toBeFalse();
  });

  it('go through the speeds and stay at the last of each side', () => {
    const speeds = (key: string): number[] =>
      Array.from({ length: SPEEDS.length }, () => {
        press(key);
        return playback.state.speed;
      });
    expect(speeds('.').at(-1)).toBe(SPEEDS[SPEEDS.length - 1]);
    expect(speeds(',')).toEqual([...SPEEDS].reverse().slice(1).concat(SPEEDS[0]));
  });

  it('switch the loop, in either case of the letter', () => {
    const { loop } = playback.state;
    press('l');
    expect(playback.state.loop).toBe(!loop);
    press('L', { shiftKey: true });
    expect(playback.state.loop).toBe(loop);
  });

  it('leave what belongs to the browser, and every other key', () => {
    for (const [key, more] of [
      ['ArrowLeft', { ctrlKey: true }],
      ['l', { metaKey: true }],
      ['q', {}],
      ['Enter', {}],
      ['toString', {}],
    ] as const) {
      expect(press(key, more)).withContext(key).toBeFalse();
    }
    expect(playback.state.frame).toBe(0);
  });
});
