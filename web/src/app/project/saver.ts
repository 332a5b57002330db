import type { Observable } from 'rxjs';

const WAIT = 250;

/**
 * Sends changes to the server a moment after the last of them, one thing's changes merged, so that a drag is one request; what
 * waits is sent at once when the page is left.
 */
export class Saver {
  private readonly waiting = new Map<string, { value: object; timer: ReturnType<typeof setTimeout>; send: () => void }>();

  constructor(private readonly failed: (error: unknown) => void) {
    addEventListener('pagehide', this.flush);
  }

  save<T extends object>(key: string, change: T, send: (whole: T) => Observable<unknown>): void {
    const before = this.waiting.get(key);
    if (before) clearTimeout(before.timer);
    const value = { ...(before?.value as T | undefined), ...change };
    const go = (): void => {
      this.waiting.delete(key);
      send(value).subscribe({ error: this.failed });
    };
    this.waiting.set(key, { value, timer: setTimeout(go, WAIT), send: go });
  }

  /** Sends all that waits. */
  readonly flush = (): void => {
    for (const { timer, send } of [...this.waiting.values()]) {
      clearTimeout(timer);
      send();
    }
  };

  /** Lets go of what waits; nothing is sent any more. */
  stop(): void {
    removeEventListener('pagehide', this.flush);
    for (const { timer } of this.waiting.values()) clearTimeout(timer);
    this.waiting.clear();
  }
}
