import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, input, output, viewChildren } from '@angular/core';
import { TOUCH_UPS } from '@hollow-stride/core';
import type { Solved } from '../../solver/messages';
import { PlaybackService } from '../../timeline/playback.service';
import { HANDLES, worthOf, type Handle, type Way } from './handles';
import { TouchUpsStore } from './touch-ups.store';

interface Drag {
  readonly handle: Handle;
  readonly x: number;
  readonly y: number;
  readonly side: Handle['side'];
  readonly key: string;
  /** The handle being dragged, and its start. */
  readonly ways: readonly { readonly way: Way; readonly vertical: boolean; readonly worth: number; index: number; from: number }[];
}

/** Pixels that the pointer goes before a way is taken. */
const START = 3;

/**
 * Handles on the stage, over shoulders, elbows, hands, hips, knees, feet and head: dragged or moved by the arrow keys they make
 * touch-ups, of both sides alike or with Alt of one. A double click takes back what a handle changes.
 */
@Component({
  selector: 'hs-handles',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (handle of handles(); track handle.name) {
      <button
        #knob
        type="button"
        [class.solid]="handle.side === 'left'"
        [title]="titleOf(handle)"
        [attr.aria-label]="titleOf(handle)"
        (pointerdown)="down($event)"
        (pointermove)="move($event)"
        (pointerup)="up($event)"
        (pointercancel)="up($event)"
        (dblclick)="reset($event)"
        (keydown)="key($event, handle)"
      ></button>
    }
  `,
  styles: `
    :host {
      position: absolute;
      inset: 0;
      overflow: hidden;
      pointer-events: none;
    }
    button {
      position: absolute;
      left: -8px;
      top: -8px;
      width: 16px;
      height: 16px;
      padding: 0;
      border: 2px solid var(--hs-act);
      border-radius: 3px;
      background: rgb(251 249 244 / 72%);
      transform: translate(-100px, -100px);
      pointer-events: auto;
      touch-action: none;
      cursor: move;
    }
    /* Bodies move while they are worked on: what is pressed is larger than what is seen. */
    button::before {
      content: '';
      position: absolute;
      inset: -10px;
    }
    button.solid {
      background: rgb(14 106 100 / 62%);
    }
    button:hover,
    button:focus-visible {
      background: var(--hs-act);
    }
  `,
})
export class HandlesComponent {
  readonly solved = input.required<Solved>();
  /** A handle is being dragged. */
  readonly dragging = output<boolean>();
  private readonly store = inject(TouchUpsStore);
  private readonly playback = inject(PlaybackService);
  private readonly host: ElementRef<HTMLElement> = inject(ElementRef);
  private readonly knobs = viewChildren<ElementRef<HTMLButtonElement>>('knob');
  protected readonly handles = computed(() => HANDLES.filter(({ role }) => this.solved().roles.has(role)));
  /** Joints whose places are asked for: those of the handles, then both shoulders and the hips, by which sides are told. */
  readonly joints = computed(() => {
    const { roles } = this.solved();
    return [...this.handles().map(({ role }) => role), 'left.upperArm', 'right.upperArm', 'hips'].map((role) => roles.get(role) ?? 0);
  });
  private places: Float64Array = new Float64Array(0);
  private drag: Drag | undefined;

  /** Puts the handles where their joints have been drawn. */
  readonly place = (places: Float64Array): void => {
    this.places = places;
    this.knobs().forEach(({ nativeElement }, i) => {
      const [x, y] = [places[i * 2], places[i * 2 + 1]];
      nativeElement.style.transform = Number.isFinite(x) ? `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px)` : 'translate(-100px, -100px)';
    });
  };

  protected titleOf({ name, across, along }: Handle): string {
    const says = (way: Way | undefined, keys: string): string =>
      way ? ` ${keys}: ${TOUCH_UPS[way.kind].name} ${TOUCH_UPS[way.kind].way}.` : '';
    return `${name}, drag or use the arrow keys.${says(across, 'Left and right')}${says(along, 'Up and down')} With Alt one side alone; double click takes it back`;
  }

  protected down(event: PointerEvent): void {
    event.stopPropagation();
    const handle = this.nearest(event);
    (event.target as Element).setPointerCapture(event.pointerId);
    const side = event.altKey ? handle.side : 'both';
    const way = (of: Way | undefined, vertical: boolean) =>
      of ? [{ way: of, vertical, worth: this.worth(handle, of), index: -1, from: 0 }] : [];
    this.drag = {
      handle,
      x: event.clientX,
      y: event.clientY,
      side,
      key: `drag ${handle.name} ${performance.now()}`,
      ways: [...way(handle.across, false), ...way(handle.along, true)],
    };
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    if (!drag) return;
    const [dx, dy] = [event.clientX - drag.x, event.clientY - drag.y];
    for (const one of drag.ways) {
      const way = one.vertical ? dy : dx;
      if (one.index < 0) {
        if (Math.abs(way) < START || Math.abs(way) < 0.5 * Math.abs(one.vertical ? dx : dy)) continue;
        this.dragging.emit(true);
        one.index = this.store.placeOf(one.way.kind, drag.side, drag.key);
        const touchUp = this.store.at(one.index);
        one.from = touchUp ? this.store.amount(touchUp) : 0;
      }
      this.store.setAmount(one.index, one.from + way * one.worth, drag.key);
    }
  }

  protected up(event: PointerEvent): void {
    if (!this.drag) return;
    this.drag = undefined;
    (event.target as Element).releasePointerCapture(event.pointerId);
    this.dragging.emit(false);
  }

  protected key(event: KeyboardEvent, handle: Handle): void {
    // A handle has nothing to press: what plays is stopped and goes on as anywhere.
    if (event.key === ' ') {
      event.preventDefault();
      this.playback.toggle();
    }
    const ways: Readonly<Record<string, readonly [way: Way | undefined, by: 1 | -1]>> = {
      ArrowLeft: [handle.across, -1],
      ArrowRight: [handle.across, 1],
      ArrowUp: [handle.along, -1],
      ArrowDown: [handle.along, 1],
    };
    if (!(event.key in ways)) return;
    event.preventDefault();
    event.stopPropagation();
    const [way, by] = ways[event.key];
    if (!way) return;
    const side = event.altKey ? handle.side : 'both';
    const key = `keys ${handle.name} ${way.kind}`;
    const index = this.store.placeOf(way.kind, side, key);
    const touchUp = this.store.at(index);
    const step = Math.sign(this.worth(handle, way)) * by * (event.shiftKey ? 5 : 1);
    this.store.setAmount(index, (touchUp ? this.store.amount(touchUp) : 0) + step, key);
  }

  protected reset(event: MouseEvent): void {
    const { across, along, side } = this.nearest(event);
    for (const way of [across, along]) {
      if (!way) continue;
      for (const { index, touchUp } of this.store.entries) {
        if (touchUp.kind === way.kind && (touchUp.side === 'both' || touchUp.side === side)) this.store.setAmount(index, 0);
      }
    }
  }

  /** Handles lie over each other where the body folds: the one meant is the nearest, not the one on top. */
  private nearest({ clientX, clientY }: MouseEvent): Handle {
    const { left, top } = this.host.nativeElement.getBoundingClientRect();
    const away = this.handles().map((_, i) => {
      const distance = Math.hypot(this.places[i * 2] - clientX + left, this.places[i * 2 + 1] - clientY + top);
      return Number.isFinite(distance) ? distance : Infinity;
    });
    return this.handles()[away.reduce((best, distance, i) => (distance < away[best] ? i : best), 0)];
  }

  private worth(handle: Handle, way: Way): number {
    const { places } = this;
    const count = this.handles().length;
    const at = (i: number): number => places[i * 2];
    const own = this.handles().indexOf(handle);
    return worthOf(way, at(own) >= at(count + 2), at(count) >= at(count + 1));
  }
}
