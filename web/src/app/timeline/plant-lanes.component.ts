import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, input, viewChild } from '@angular/core';
import type { Plant, RestSeen } from '@hollow-stride/core';
import type { Solved } from '../solver/messages';
import { PlaybackService } from './playback.service';

interface Bar {
  readonly left: number;
  readonly width: number;
  readonly first: number;
  readonly text: string;
}

interface Lane {
  readonly name: string;
  readonly bars: readonly Bar[];
  /** What the judge saw resting. */
  readonly rests: readonly (Bar & { readonly lost: boolean })[];
}

interface FootRow {
  readonly side: 'left' | 'right';
  readonly curve: string;
  readonly lanes: readonly Lane[];
}

/** A rest of which more than this is not held, seconds, is marked. */
const LOST = 0.06;
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
                  <span class="bar" [style.left.%]="bar.left" [style.width.%]="bar.width" [title]="bar.text"></span>
                }
                @for (rest of lane.rests; track rest.first) {
                  <span
                    class="rest"
                    [class.lost]="rest.lost"
                    [style.left.%]="rest.left"
                    [style.width.%]="rest.width"
                    [title]="rest.text"
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
    .rest {
      position: absolute;
      bottom: -2px;
      height: 2px;
      background: var(--hs-performer);
    }
    .rest.lost {
      top: 3px;
      bottom: 3px;
      height: auto;
      background: repeating-linear-gradient(45deg, transparent 0 3px, rgb(158 47 39 / 55%) 3px 5px);
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
    const plants = solved?.contacts.plants ?? [];
    const rests = (this.before() ? solved?.report.plain : solved?.report.verdict)?.rests ?? [];
    return (['left', 'right'] as const).map((side) => ({
      side,
      curve: curveOf(solved?.curves.find((c) => c.side === side)?.heights),
      lanes: (['heel', 'ball'] as const).map((part) => ({
        name: part,
        bars: plants.filter((p) => p.side === side && p.part === part).map((p) => barOf(p, this.frames())),
        rests: rests
          .filter(({ name }) => name === `${side} ${part}`)
          .map((rest) => restOf(rest, this.frames(), solved?.take.frameTime ?? 0)),
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

function placeOf({ first, last }: { first: number; last: number }, frames: number): Pick<Bar, 'left' | 'width' | 'first'> {
  return { left: (100 * first) / frames, width: (100 * (last - first + 1)) / frames, first };
}

function barOf(plant: Plant, frames: number): Bar {
  const { side, part, first, last } = plant;
  return { ...placeOf(plant, frames), text: `${side} ${part} planted, frames ${first + 1} to ${last + 1}` };
}

function restOf(rest: RestSeen, frames: number, frameTime: number): Bar & { lost: boolean } {
  const { name, first, last } = rest;
  const lost = rest.lost > LOST;
  const seconds = ((last - first + 1) * frameTime).toFixed(1);
  const text = `${name} rests for ${seconds} s, frames ${first + 1} to ${last + 1}${lost ? `; ${rest.lost.toFixed(1)} s of it not held` : ', held'}`;
  return { ...placeOf(rest, frames), lost, text };
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
