import { ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, viewChild } from '@angular/core';
import type { ClipFault } from '@hollow-stride/core';

/** The whole take as a bar: in and out handles, faults where they are, the playhead. */
@Component({
  selector: 'hs-range-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div #bar class="bar" (pointerdown)="seek($event)">
      <div class="kept" [style.left.%]="at(first())" [style.width.%]="at(last()) - at(first())"></div>
      @for (fault of marks(); track $index) {
        <div class="fault-mark" [style.left.%]="fault.left" [style.width.%]="fault.width" [title]="fault.title"></div>
      }
      <div class="head" [style.left.%]="at(frame())"></div>
      @for (end of ends; track end) {
        <div
          class="handle"
          [class.out]="end === 'out'"
          [style.left.%]="at(end === 'in' ? first() : last())"
          tabindex="0"
          role="slider"
          [attr.aria-label]="end === 'in' ? 'In, first frame that is used' : 'Out, last frame that is used'"
          aria-valuemin="1"
          [attr.aria-valuemax]="frames()"
          [attr.aria-valuenow]="(end === 'in' ? first() : last()) + 1"
          (pointerdown)="down($event)"
          (pointermove)="move($event, end)"
          (pointerup)="up($event)"
          (keydown)="key($event, end)"
        ></div>
      }
    </div>
  `,
  styles: `
    .bar {
      position: relative;
      height: 30px;
      margin: 4px 14px;
      border: 1px solid var(--hs-rule);
      background: repeating-linear-gradient(115deg, transparent 0 5px, rgb(216 209 194 / 60%) 5px 6px);
      touch-action: none;
    }
    .kept {
      position: absolute;
      top: 0;
      bottom: 0;
      background: #cdd6e4;
    }
    .fault-mark {
      position: absolute;
      bottom: 0;
      height: 9px;
      min-width: 3px;
      background: var(--hs-caution);
    }
    .head {
      position: absolute;
      top: -3px;
      bottom: -3px;
      width: 0;
      border-left: 2px solid var(--hs-ink);
      pointer-events: none;
    }
    .handle {
      position: absolute;
      top: -2px;
      bottom: -2px;
      width: 11px;
      margin-left: -11px;
      border: 2px solid var(--hs-performer);
      border-right-width: 3px;
      background: var(--hs-sheet);
      cursor: ew-resize;
      touch-action: none;
    }
    .handle.out {
      margin-left: 0;
      border-right-width: 2px;
      border-left-width: 3px;
    }
  `,
})
export class RangeBarComponent {
  readonly frames = input.required<number>();
  readonly first = input.required<number>();
  readonly last = input.required<number>();
  readonly frame = input(0);
  readonly faults = input<readonly ClipFault[]>([]);
  readonly moved = output<{ end: 'in' | 'out'; frame: number }>();
  readonly sought = output<number>();
  protected readonly ends = ['in', 'out'] as const;
  private readonly bar = viewChild.required<ElementRef<HTMLElement>>('bar');
  private dragging = false;

  protected readonly marks = computed(() =>
    this.faults()
      .filter(({ kind }) => kind !== 'drift')
      .map(({ kind, from, to, message }) => ({
        left: this.at(from),
        width: this.at(to + 1) - this.at(from),
        title: `${kind}: ${message}`,
      })),
  );

  protected at(frame: number): number {
    return (100 * frame) / Math.max(1, this.frames() - 1);
  }

  protected seek(event: PointerEvent): void {
    if (event.target === this.bar().nativeElement || (event.target as Element).className !== 'handle')
      this.sought.emit(this.frameAt(event));
  }

  protected down(event: PointerEvent): void {
    event.stopPropagation();
    this.dragging = true;
    (event.target as Element).setPointerCapture(event.pointerId);
  }

  protected move(event: PointerEvent, end: 'in' | 'out'): void {
    if (this.dragging) this.give(end, this.frameAt(event));
  }

  protected up(event: PointerEvent): void {
    this.dragging = false;
    (event.target as Element).releasePointerCapture(event.pointerId);
  }

  protected key(event: KeyboardEvent, end: 'in' | 'out'): void {
    const way = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    const now = end === 'in' ? this.first() : this.last();
    if (way !== 0) this.give(end, now + way * (event.shiftKey ? 10 : 1));
    else if (event.key === 'Home') this.give(end, end === 'in' ? 0 : this.first() + 1);
    else if (event.key === 'End') this.give(end, end === 'in' ? this.last() - 1 : this.frames() - 1);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private give(end: 'in' | 'out', frame: number): void {
    const held =
      end === 'in' ? Math.max(0, Math.min(this.last() - 1, frame)) : Math.min(this.frames() - 1, Math.max(this.first() + 1, frame));
    this.moved.emit({ end, frame: held });
  }

  private frameAt(event: PointerEvent): number {
    const box = this.bar().nativeElement.getBoundingClientRect();
    return Math.max(0, Math.min(this.frames() - 1, Math.round(((event.clientX - box.left) / box.width) * (this.frames() - 1))));
  }
}
