import { SPEEDS, type PlaybackService } from './playback.service';

/** Does what a key means to the transport; false for keys that mean nothing to it. */
export function transportKey(event: KeyboardEvent, playback: PlaybackService): boolean {
  const { speed, frames, loop } = playback.state;
  const at = SPEEDS.findIndex((s) => s === speed);
  const actions: Record<string, () => void> = {
    ' ': () => playback.toggle(),
    ArrowLeft: () => playback.step(event.shiftKey ? -10 : -1),
    ArrowRight: () => playback.step(event.shiftKey ? 10 : 1),
    Home: () => playback.seek(0),
    End: () => playback.seek(frames - 1),
    ',': () => playback.setSpeed(SPEEDS[Math.max(0, at - 1)]),
    '.': () => playback.setSpeed(SPEEDS[Math.min(SPEEDS.length - 1, at + 1)]),
    l: () => playback.setLoop(!loop),
  };
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if (!Object.hasOwn(actions, key) || event.ctrlKey || event.metaKey) return false;
  actions[key]();
  return true;
}
