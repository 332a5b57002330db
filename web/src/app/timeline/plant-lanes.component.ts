import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, input, viewChild } from '@angular/core';
import type { PlantFigure } from '@hollow-stride/core';
import type { Solved } from '../solver/messages';
import { PlaybackService } from './playback.service';

interface Bar {
  readonly left: number;
  readonly width: number;
  readonly first: number;
  readonly slides: boolean;
  readonly text: string;
}

interface Lane {
  readonly name: string;
  readonly bars: readonly Bar[];
}

interface FootRow {
  readonly side: 'left' | 'right';
  readonly curve: string;
  readonly lanes: readonly Lane[];
}

/** A plant that still slides more than this, mm, is marked. */
const SLIDES = 1;
const CURVE_POINTS = 900;

/** Under the transport: a lane for each heel and ball with its plants, the foot's height behind them. */
@Component({
  selector: 'hs-plant-lanes',
  imports: [AsyncPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="lanes">
      <div class="names" aria-hidden="true">
        @for (row of rows(); track row.side) {
          <div class="foot">
            <b>{{ row.side }}</b><span>
              @for (lane of row.lanes; track lane.name) {
                <i>{{ lane.name }}</i>
              }
            </span>
          </div>
        }
      </div>
      <div
        #area
        class="area"
        role="slider"
        tabindex="0"
        aria-label="Frame, over the plants of both feet"
        [attr.aria-valuemin]="1"
        [attr.aria-valuemax]="frames()"
        [attr.aria-valuenow]="((playback.state$ | async)?.frame ?? 0) + 1"
        (pointerdown)="grab($event)"
        (pointermove)="drag($event)"
      >
        @for (row of rows(); track row.side) {
          <div class="foot">
            <svg viewBox="0 0 1000 100" preserveAspectRatio="none" aria-hidden="true"><polyline [attr.points]="row.curve" /></svg>
            @for (lane of row.lanes; track lane.name) {
              <div class="lane">
                @for (bar of lane.bars; track bar.first) {
                  <span
                    class="bar"
                    [class.slides]="bar.slides"
                    [style.left.%]="bar.left"
                    [style.width.%]="bar.width"
                    [title]="bar.text"
                  ></span>
                }
              </div>
            }
          </div>
        }
        <div class="head" [style.left.%]="headAt((playback.state$ | async)?.frame ?? 0)"></div>
      </div>
    </div>
  `,
  styles: `
    :host {
      display: block;
    }
    .lanes {
      display: flex;
      height: 108px;
      padding: 4px 8px 6px;
    }
    .names {
      width: 84px;
      flex: none;
    }
    .area {
      position: relative;
      flex: 1;
      cursor: ew-resize;
      touch-action: none;
    }
    .foot {
      position: relative;
      height: 50%;
      display: flex;
      flex-direction: column;
      justify-content: center;
      gap: 3px;
    }
    .foot + .foot {
      border-top: 1px solid var(--hs-rule);
    }
    .names .foot {
      flex-direction: row;
      align-items: center;
      justify-content: space-between;
      padding-right: 8px;
      font-size: 12px;
    }
    .names span {
      display: flex;
      flex-direction: column;
      gap: 1px;
      text-align: right;
    }
    .names i {
      font-style: normal;
      color: var(--hs-ink-soft);
      line-height: 17px;
    }
    svg {
      position: absolute;
      inset: 2px 0;
      width: 100%;
      height: calc(100% - 4px);
    }
    polyline {
      fill: none;
      stroke: var(--hs-performer);
      stroke-width: 1;
      vector-effect: non-scaling-stroke;
      opacity: 0.55;
    }
    .lane {
      position: relative;
      height: 15px;
      background: rgb(216 209 194 / 32%);
      border-radius: 2px;
    }
    .bar {
      position: absolute;
      top: 1px;
      bottom: 1px;
      border: 2px solid var(--hs-character);
      border-radius: 3px;
      background: rgb(251 249 244 / 82%);
      min-width: 3px;
    }
    .bar.slides {
      border-color: var(--hs-fault);
      background: repeating-linear-gradient(45deg, transparent 0 3px, rgb(158 47 39 / 30%) 3px 5px);
    }
    .head {
      position: absolute;
      top: -2px;
      bottom: -2px;
      width: 2px;
      margin-left: -1px;
      background: var(--hs-act);
      pointer-events: none;
    }
  `,
})
export class PlantLanesComponent {
  readonly solved = input<Solved | undefined>();
  /** Show the plants as the plain transfer holds them. */
  readonly before = input(false);
  protected readonly playback = inject(PlaybackService);
  private readonly area = viewChild.required<ElementRef<HTMLElement>>('area');

  protected readonly frames = computed(() => this.solved()?.take.frames ?? 0);
  protected readonly rows = computed((): readonly FootRow[] => {
    const solved = this.solved();
    const plants = (this.before() ? solved?.report.plain : solved?.report.figures)?.plants ?? [];
    return (['left', 'right'] as const).map((side) => ({
      side,
      curve: curveOf(solved?.curves.find((c) => c.side === side)?.heights),
      lanes: (['heel', 'ball'] as const).map((part) => ({
        name: part,
        bars: plants.filter((p) => p.side === side && p.part === part).map((p) => barOf(p, this.frames())),
      })),
    }));
  });

  protected headAt(frame: number): number {
    return this.frames() > 1 ? (100 * (frame + 0.5)) / this.frames() : 0;
  }

  protected grab(event: PointerEvent): void {
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    this.playback.pause();
    this.seek(event);
  }

  protected drag(event: PointerEvent): void {
    if ((event.currentTarget as HTMLElement).hasPointerCapture(event.pointerId)) this.seek(event);
  }

  private seek(event: PointerEvent): void {
    const box = this.area().nativeElement.getBoundingClientRect();
    this.playback.seek(Math.floor(((event.clientX - box.left) / box.width) * this.frames()));
  }
}

function barOf(plant: PlantFigure, frames: number): Bar {
  return {
    left: (100 * plant.first) / frames,
    width: (100 * (plant.last - plant.first + 1)) / frames,
    first: plant.first,
    slides: plant.slide > SLIDES,
    text: `${plant.side} ${plant.part}, frames ${plant.first + 1} to ${plant.last + 1}: slides ${plant.slide.toFixed(2)} mm`,
  };
}

/** Foot height as a fine line: 0 at the lane's foot, 30 cm at its top. */
function curveOf(heights: Float32Array | undefined): string {
  if (!heights || heights.length < 2) return '';
  const step = Math.max(1, Math.floor(heights.length / CURVE_POINTS));
  const points: string[] = [];
  for (let f = 0; f < heights.length; f += step) {
    const y = 96 - Math.min(1, Math.max(0, heights[f] / 0.3)) * 92;
    points.push(`${((1000 * (f + 0.5)) / heights.length).toFixed(1)},${y.toFixed(1)}`);
  }
  return points.join(' ');
}
