import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  output,
  viewChild,
} from '@angular/core';
import { firstValueFrom } from 'rxjs';
import { ApiService } from '../api/api.service';
import { FigureView, type Figure } from './figure-view';
import type { ViewName } from './options';
import { turnOf } from './turn-keys';

/** A stage for looking at bodies and picking their joints. */
@Component({
  selector: 'hs-figure-stage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas
      #canvas
      tabindex="0"
      role="img"
      [attr.aria-label]="label()"
      [class.picking]="picking()"
      (keydown)="turn($event)"
      (pointerdown)="down($event)"
      (pointerup)="up($event)"
      (pointermove)="over($event)"
      (pointerleave)="hovered.emit(-1)"
    ></canvas>
    <ng-content />
    @if (failed) {
      <p class="no-stage">This browser gives the page no WebGL, so the figures cannot be drawn. Everything else works as it should.</p>
    }
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      min-height: 0;
      overflow: hidden;
      background: linear-gradient(var(--hs-stage-high), var(--hs-stage-low));
    }
    canvas {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
      touch-action: none;
    }
    canvas:focus-visible {
      outline-offset: -3px;
    }
    .picking {
      cursor: crosshair;
    }
    .no-stage {
      position: absolute;
      inset: 40% 20% auto;
      text-align: center;
    }
  `,
})
export class FigureStageComponent {
  readonly figures = input.required<readonly Figure[]>();
  readonly floor = input(0);
  readonly frame = input(0);
  readonly view = input<ViewName>('free');
  readonly label = input.required<string>();
  readonly marks = input<readonly { joint: number; solid: boolean }[]>([]);
  /** Joint of the first figure that moves to and fro with all that hangs on it; −1 for none. */
  readonly wiggled = input(-1);
  /** Joint of the first figure that is looked at from near; −1 looks at the whole. */
  readonly near = input(-1);
  /** True where a press picks a joint. */
  readonly picking = input(false);
  readonly picked = output<number>();
  readonly hovered = output<number>();
  readonly freed = output<void>();

  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly api = inject(ApiService);
  private readonly destroyRef = inject(DestroyRef);
  private stage: FigureView | undefined;
  private pressed: { x: number; y: number } | undefined;
  protected failed = false;

  constructor() {
    afterNextRender(() => this.start());
    effect(() => {
      const [figures, floor] = [this.figures(), this.floor()];
      this.stage?.show(figures, floor);
    });
    effect(() => {
      const marks = this.marks();
      this.stage?.mark(marks);
    });
    effect(() => {
      const joint = this.wiggled();
      this.stage?.wiggle(joint);
    });
    effect(() => {
      const near = this.near();
      this.stage?.close(near);
    });
    effect(() => {
      const frame = this.frame();
      this.stage?.setFrame(frame);
    });
    effect(() => {
      const view = this.view();
      this.stage?.look(view);
    });
  }

  protected turn(event: KeyboardEvent): void {
    const way = turnOf(event);
    if (!way || !this.stage) return;
    event.preventDefault();
    event.stopPropagation();
    this.freed.emit();
    this.stage.nudge(...way);
  }

  protected down(event: PointerEvent): void {
    this.pressed = { x: event.offsetX, y: event.offsetY };
  }

  /** A press that is no drag picks. */
  protected up(event: PointerEvent): void {
    const { pressed } = this;
    this.pressed = undefined;
    if (!this.picking() || !pressed || Math.hypot(event.offsetX - pressed.x, event.offsetY - pressed.y) > 4) return;
    this.picked.emit(this.stage?.pick(event.offsetX, event.offsetY) ?? -1);
  }

  protected over(event: PointerEvent): void {
    if (this.picking() && !this.pressed) this.hovered.emit(this.stage?.pick(event.offsetX, event.offsetY) ?? -1);
  }

  private start(): void {
    const canvas = this.canvas().nativeElement;
    try {
      this.stage = new FigureView(
        canvas,
        (hash) => (/^(\/|blob:)/.test(hash) ? fetch(hash).then((response) => response.arrayBuffer()) : firstValueFrom(this.api.file(hash))),
        () => this.freed.emit(),
      );
    } catch {
      this.failed = true;
      return;
    }
    const { stage } = this;
    const host = canvas.parentElement!;
    const observer = new ResizeObserver(() => stage.resize(host.clientWidth, host.clientHeight));
    observer.observe(host);
    stage.show(this.figures(), this.floor());
    stage.mark(this.marks());
    stage.wiggle(this.wiggled());
    stage.close(this.near());
    stage.setFrame(this.frame());
    stage.look(this.view());
    this.destroyRef.onDestroy(() => {
      observer.disconnect();
      stage.dispose();
    });
  }
}
