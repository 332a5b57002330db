import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  linkedSignal,
  viewChild,
} from '@angular/core';
import { Chart, Decimation, LinearScale, LineController, LineElement, PointElement } from 'chart.js';
import type { Series } from '@hollow-stride/core';

Chart.register(Decimation, LinearScale, LineController, LineElement, PointElement);

/** One quantity of both bodies over the take, sharing the playhead: a press in it leads to that frame. */
@Component({
  selector: 'hs-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="name">{{ series().name }}, {{ series().unit }}</div>
    <div class="box">
      <canvas
        #canvas
        tabindex="0"
        role="slider"
        [attr.aria-label]="series().name + ' over the take'"
        aria-valuemin="1"
        [attr.aria-valuemax]="frames()"
        [attr.aria-valuenow]="frame() + 1"
        [attr.aria-valuetext]="'frame ' + (frame() + 1)"
        (pointerdown)="press($event)"
        (pointermove)="drag($event)"
        (keydown)="key($event)"
      ></canvas>
      <span class="head" [style.left.px]="head" aria-hidden="true"></span>
    </div>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    .name {
      padding-left: 4px;
      font-size: 12px;
      color: var(--hs-ink-soft);
    }
    .box {
      position: relative;
      height: 92px;
    }
    canvas {
      touch-action: none;
      cursor: crosshair;
    }
    .head {
      position: absolute;
      top: 4px;
      bottom: 18px;
      width: 2px;
      background: var(--hs-act);
      pointer-events: none;
    }
  `,
})
export class ChartComponent {
  readonly series = input.required<Series>();
  readonly frames = input.required<number>();
  readonly frame = input.required<number>();
  /** Frames in which the foot or hand that is shown rests on the performer. */
  readonly rests = input<readonly { readonly first: number; readonly last: number }[]>([]);
  /** Where a press leads to; set by who shows it. */
  readonly seek = input.required<(frame: number) => void>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private chart: Chart<'line', { x: number; y: number }[]> | undefined;
  protected head = 0;

  constructor() {
    afterNextRender(() => {
      const ink = getComputedStyle(document.documentElement).getPropertyValue('--hs-ink-soft').trim() || '#55616a';
      this.chart = new Chart(this.canvas().nativeElement, {
        type: 'line',
        data: { datasets: [] },
        options: {
          animation: false,
          parsing: false,
          responsive: true,
          maintainAspectRatio: false,
          events: [],
          scales: {
            x: { type: 'linear', min: 1, ticks: { color: ink, maxTicksLimit: 8, font: { size: 10 } }, grid: { display: false } },
            y: { ticks: { color: ink, maxTicksLimit: 4, font: { size: 10 } }, grid: { color: '#e4decf' } },
          },
          plugins: { decimation: { enabled: true, algorithm: 'min-max' } },
        },
        plugins: [
          {
            id: 'rests',
            beforeDatasetsDraw: ({ ctx, chartArea: area, scales }) => {
              ctx.fillStyle = 'rgb(58 90 149 / 10%)';
              for (const { first, last } of this.rests()) {
                const [a, b] = [scales['x'].getPixelForValue(first + 1), scales['x'].getPixelForValue(last + 1)];
                ctx.fillRect(a, area.top, Math.max(1, b - a), area.bottom - area.top);
              }
            },
            afterRender: () => this.place(),
          },
        ],
      });
      this.draw();
    });
    effect(() => {
      this.series();
      this.rests();
      this.draw();
    });
    effect(() => {
      this.frame();
      this.place();
    });
    inject(DestroyRef).onDestroy(() => this.chart?.destroy());
  }

  protected press(event: PointerEvent): void {
    (event.target as Element).setPointerCapture(event.pointerId);
    this.to(event);
  }

  protected drag(event: PointerEvent): void {
    if (event.buttons === 1) this.to(event);
  }

  /** Where keys have led to, before the page has drawn it. */
  private readonly at = linkedSignal(() => this.frame());

  protected key(event: KeyboardEvent): void {
    const by = { ArrowLeft: -1, ArrowRight: 1, Home: -Infinity, End: Infinity }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    this.at.set(Math.max(0, Math.min(this.frames() - 1, this.at() + by * (event.shiftKey ? 10 : 1))));
    this.seek()(this.at());
  }

  private to(event: PointerEvent): void {
    const value = this.chart?.scales['x'].getValueForPixel(event.offsetX);
    if (value !== undefined) this.seek()(Math.max(0, Math.min(this.frames() - 1, Math.round(value) - 1)));
  }

  private place(): void {
    const scale = this.chart?.scales['x'] as { getPixelForValue(value: number): number } | undefined;
    if (!scale) return;
    this.head = scale.getPixelForValue(this.frame() + 1) - 1;
    const mark = this.canvas().nativeElement.nextElementSibling as HTMLElement | null;
    if (mark) mark.style.left = `${this.head}px`;
  }

  private draw(): void {
    const { chart } = this;
    if (!chart) return;
    const { theirs, mine } = this.series();
    const step = this.frames() / Math.max(1, mine.length);
    const points = (values: readonly number[]): { x: number; y: number }[] => values.map((y, i) => ({ x: 1 + i * step, y }));
    chart.data.datasets = [
      { data: points(theirs), borderColor: '#3A5A95', borderWidth: 1.4, pointRadius: 0, tension: 0 },
      { data: points(mine), borderColor: '#C2602A', borderWidth: 1.4, borderDash: [5, 2], pointRadius: 0, tension: 0 },
    ];
    chart.options.scales!['x']!.max = Math.max(2, this.frames());
    chart.update('none');
  }
}
