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
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { distinctUntilChanged, firstValueFrom, map } from 'rxjs';
import { ApiService } from '../api/api.service';
import type { Clip } from '@hollow-stride/core';
import type { Solved } from '../solver/messages';
import { PlaybackService } from '../timeline/playback.service';
import type { StageOptions } from './options';
import { StageView } from './stage-view';
import type { Watcher } from './watched-joints';
import { turnOf } from './turn-keys';

/** The 3D stage: performer and character, side by side, over each other or alone. */
@Component({
  selector: 'hs-stage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas #canvas tabindex="0" role="img" [attr.aria-label]="label()" aria-describedby="stage-keys" (keydown)="turn($event)"></canvas>
    <span id="stage-keys" class="visually-hidden">Arrow keys with Shift turn the view, plus and minus move nearer and away.</span>
    @if (solved()) {
      @if (options().layout !== 'character') {
        <p class="tag left">
          <span class="dot solid" aria-hidden="true"></span>performer <b>{{ solved()!.report.take.file }}</b>
          @if (options().layout === 'over') {
            at the character's scale
          }
        </p>
      }
      @if (options().layout !== 'performer') {
        <p
          class="tag"
          [class.right]="options().layout === 'beside' || options().layout === 'over'"
          [class.left]="options().layout === 'character'"
        >
          <span class="dot hollow" aria-hidden="true"></span>character <b>{{ solved()!.report.character.file }}</b>
          @if (options().before) {
            <em>plain, before pinning</em>
          }
        </p>
      }
    }
    <button type="button" class="fit" (click)="fit()" title="Both whole bodies in sight again (X)">
      <i class="bi bi-arrows-fullscreen" aria-hidden="true"></i> fit
    </button>
    @if (loading(); as text) {
      <p class="loading" role="status"><span class="spinner-border spinner-border-sm" aria-hidden="true"></span> {{ text }}</p>
    }
    <ng-content />
    @if (failed) {
      <p class="no-stage">
        This browser gives the page no WebGL, so the figures cannot be drawn. The solve, its figures and the files are not affected.
      </p>
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
      display: block;
      width: 100%;
      height: 100%;
      touch-action: none;
    }
    canvas:focus-visible {
      outline-offset: -3px;
    }
    .tag {
      position: absolute;
      top: 8px;
      margin: 0;
      padding: 1px 8px;
      background: rgb(251 249 244 / 88%);
      border-radius: 3px;
      pointer-events: none;
      font-size: 12.5px;
      color: var(--hs-ink-soft);
    }
    .tag b {
      color: var(--hs-ink);
      font-weight: 600;
    }
    .tag em {
      color: var(--hs-caution);
      font-style: normal;
      font-weight: 600;
    }
    .left {
      left: 8px;
    }
    .right {
      left: calc(50% + 8px);
    }
    .dot {
      display: inline-block;
      width: 9px;
      height: 9px;
      border-radius: 50%;
      margin-right: 6px;
      border: 2px solid var(--hs-performer);
    }
    .dot.solid {
      background: var(--hs-performer);
    }
    .dot.hollow {
      border-color: var(--hs-character);
    }
    .fit {
      position: absolute;
      right: 8px;
      bottom: 8px;
      padding: 1px 8px;
      border: 1px solid var(--hs-rule);
      border-radius: 3px;
      background: rgb(251 249 244 / 88%);
      color: var(--hs-ink);
      font-size: 12.5px;
    }
    .loading {
      position: absolute;
      inset: auto 0 44%;
      margin: 0;
      text-align: center;
      color: var(--hs-ink-soft);
    }
    .no-stage {
      position: absolute;
      inset: 40% 20% auto;
      text-align: center;
    }
  `,
})
export class StageComponent {
  readonly solved = input<Solved | undefined>();
  readonly options = input.required<StageOptions>();
  /** The character's motion before it was changed, shown as a ghost. */
  readonly ghost = input<Clip | undefined>();
  /** Joints of the character whose places on the stage are asked for, and who is told. */
  readonly watched = input<readonly number[]>([]);
  readonly watcher = input<Watcher | undefined>();
  /** Message while there is nothing to draw yet. */
  readonly loading = input<string | undefined>();
  /** The view was turned by hand. */
  readonly freed = output<void>();

  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly api = inject(ApiService);
  private readonly playback = inject(PlaybackService);
  private readonly destroyRef = inject(DestroyRef);
  private view: StageView | undefined;
  protected failed = false;

  constructor() {
    afterNextRender(() => this.start());
    effect(() => {
      const solved = this.solved();
      this.view?.show(solved);
    });
    effect(() => {
      const options = this.options();
      this.view?.setOptions(options);
    });
    effect(() => {
      const [joints, tell] = [this.watched(), this.watcher()];
      this.view?.watch(joints, tell);
    });
    effect(() => {
      const ghost = this.ghost();
      this.view?.setGhost(ghost);
    });
  }

  /** Holds both whole bodies in sight again. */
  fit(): void {
    this.view?.fit();
  }

  protected label(): string {
    const solved = this.solved();
    return solved ? `Stage with ${solved.report.take.file} on the performer and on ${solved.report.character.file}` : 'Stage, empty';
  }

  protected turn(event: KeyboardEvent): void {
    if (!this.view) return;
    const way = turnOf(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    this.freed.emit();
    this.view.nudge(...way);
  }

  private start(): void {
    const canvas = this.canvas().nativeElement;
    try {
      this.view = new StageView(
        canvas,
        this.options(),
        (hash) => firstValueFrom(this.api.file(hash)),
        () => this.freed.emit(),
      );
    } catch {
      this.failed = true;
      return;
    }
    const { view } = this;
    const host = canvas.parentElement!;
    const observer = new ResizeObserver(() => view.resize(host.clientWidth, host.clientHeight));
    observer.observe(host);
    view.show(this.solved());
    view.watch(this.watched(), this.watcher());
    this.playback.state$
      .pipe(
        map((state) => state.frame),
        distinctUntilChanged(),
        takeUntilDestroyed(this.destroyRef),
      )
      .subscribe((frame) => view.setFrame(frame));
    this.destroyRef.onDestroy(() => {
      observer.disconnect();
      view.dispose();
    });
  }
}
