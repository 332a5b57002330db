import { computed, effect, signal, untracked, type Signal } from '@angular/core';
import type { PlaybackState } from '../../timeline/playback.service';
import { followed, leftOf, scrolled, wholeOf, zoomed } from './frames-window';

/** Which frames lanes show: zoomed, scrolled, and moved on where what plays has left them. Made while a component is. */
export class LanesView {
  readonly window = signal(wholeOf(1));
  readonly frame: Signal<number>;

  /** @param area what the lanes are drawn in, edge to edge */
  constructor(
    readonly frames: Signal<number>,
    state: Signal<PlaybackState>,
    private readonly area: () => HTMLElement,
  ) {
    this.frame = computed(() => state().frame);
    effect(() => {
      this.window.set(wholeOf(frames()));
    });
    effect(() => {
      const frame = this.frame();
      if (untracked(() => state().playing)) this.window.update((window) => followed(window, untracked(frames), frame));
    });
  }

  /** Where a frame's left edge lies, in percent. */
  left(frame: number): number {
    return leftOf(this.window(), frame);
  }

  /** Width of some frames, in percent. */
  width(count: number): number {
    return (100 * count) / this.window().count;
  }

  zoom(factor: number): void {
    this.window.update((window) => zoomed(window, this.frames(), factor, this.frame()));
  }

  whole(): void {
    this.window.set(wholeOf(this.frames()));
  }

  scrollTo(event: Event): void {
    const from = Number((event.target as HTMLInputElement).value);
    this.window.update((window) => scrolled(window, this.frames(), from - window.from));
  }

  wheel(event: WheelEvent): void {
    event.preventDefault();
    const sideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
    if (sideways) {
      const by = ((event.deltaX || event.deltaY) / 600) * this.window().count;
      this.window.update((window) => scrolled(window, this.frames(), by));
    } else this.window.update((window) => zoomed(window, this.frames(), event.deltaY < 0 ? 1.25 : 0.8, this.frameAt(event)));
  }

  /** The frame under the pointer. */
  frameAt({ clientX }: MouseEvent): number {
    const box = this.area().getBoundingClientRect();
    const { from, count } = this.window();
    return Math.max(0, Math.min(this.frames() - 1, Math.floor(from + ((clientX - box.left) / box.width) * count)));
  }
}
