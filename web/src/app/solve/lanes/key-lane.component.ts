import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { PlaybackService } from '../../timeline/playback.service';
import { nameOf, TouchUpsStore, type TouchUpEntry } from '../touch-ups/touch-ups.store';
import { leftOf, type FramesWindow } from './frames-window';

/** The keys of one touch-up over time: pressed to go there, dragged or moved by the arrow keys, taken away with Delete. */
@Component({
  selector: 'hs-key-lane',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (key of keys(); track key.at) {
      <button
        type="button"
        [style.left.%]="key.left"
        [title]="key.text"
        [attr.aria-label]="key.text"
        (pointerdown)="down($event, key.at)"
        (pointermove)="move($event)"
        (pointerup)="up($event)"
        (keydown)="press($event, key.at)"
      >
        <i class="bi bi-diamond-fill" aria-hidden="true"></i>
      </button>
    }
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      height: 15px;
      background: rgb(216 209 194 / 32%);
      border-radius: 2px;
    }
    button {
      position: absolute;
      top: 0;
      width: 15px;
      height: 15px;
      margin-left: -7px;
      padding: 0;
      border: 0;
      background: none;
      font-size: 11px;
      line-height: 15px;
      color: var(--hs-act);
      touch-action: none;
      cursor: ew-resize;
    }
  `,
})
export class KeyLaneComponent {
  readonly entry = input.required<TouchUpEntry>();
  readonly window = input.required<FramesWindow>();
  private readonly store = inject(TouchUpsStore);
  private readonly playback = inject(PlaybackService);
  /** The key that is dragged, and the frame that it has been dragged to. */
  private readonly dragged = signal<{ at: number; frame: number; from: number } | undefined>(undefined);

  protected readonly keys = computed(() => {
    const { touchUp } = this.entry();
    const dragged = this.dragged();
    return touchUp.keys.map(({ at, value }) => {
      const frame = Math.round(dragged?.at === at ? dragged.frame : this.store.frameAt(at));
      const text = `${nameOf(touchUp)} ${value}${touchUp.kind === 'hips' ? ' cm' : '°'} at frame ${frame + 1}`;
      return { at, text, left: leftOf(this.window(), frame + 0.5) };
    });
  });

  protected down(event: PointerEvent, at: number): void {
    event.stopPropagation();
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    const frame = Math.round(this.store.frameAt(at));
    this.dragged.set({ at, frame, from: event.clientX });
    this.playback.pause();
    this.playback.seek(frame);
  }

  protected move(event: PointerEvent): void {
    const dragged = this.dragged();
    if (!dragged) return;
    event.stopPropagation();
    const lane = (event.currentTarget as HTMLElement).parentElement!.clientWidth;
    const by = ((event.clientX - dragged.from) / lane) * this.window().count;
    this.dragged.set({ ...dragged, frame: Math.max(0, Math.round(this.store.frameAt(dragged.at) + by)) });
  }

  protected up(event: PointerEvent): void {
    const dragged = this.dragged();
    event.stopPropagation();
    this.dragged.set(undefined);
    if (dragged && dragged.frame !== Math.round(this.store.frameAt(dragged.at))) this.moveTo(dragged.at, dragged.frame);
  }

  protected press(event: KeyboardEvent, at: number): void {
    const frame = Math.round(this.store.frameAt(at));
    if (event.key === 'Enter') this.playback.seek(frame);
    else if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') this.moveTo(at, frame + (event.key === 'ArrowLeft' ? -1 : 1));
    else if (event.key === 'Delete' || event.key === 'Backspace') {
      this.playback.seek(frame);
      this.store.toggleKey(this.entry().index);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private moveTo(at: number, frame: number): void {
    this.store.moveKey(this.entry().index, at, this.store.secondsAt(Math.max(0, frame)));
    this.playback.seek(Math.max(0, frame));
  }
}
