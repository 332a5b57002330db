import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { Chart, Decimation, LinearScale, LineController, LineElement, PointElement } from 'chart.js';

Chart.register(Decimation, LinearScale, LineController, LineElement, PointElement);

/** One joint's turn before and after clean-up, degrees over frames. */
@Component({
  selector: 'hs-curve',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<canvas #canvas role="img" [attr.aria-label]="label()"></canvas>
    @if (headAt(); as left) {
      <div class="head" [style.left.px]="left"></div>
    }`,
  styles: `
    :host {
      position: relative;
      display: block;
      min-height: 0;
    }
    .head {
      position: absolute;
      top: 0;
      bottom: 0;
      width: 0;
      border-left: 1.5px solid var(--hs-ink);
      pointer-events: none;
    }
  `,
})
export class CurveComponent {
  readonly before = input.required<Float32Array>();
  readonly after = input.required<Float32Array>();
  readonly label = input.required<string>();
  /** Frames that are shown, from 0; all of them without. */
  readonly window = input<{ readonly first: number; readonly last: number } | undefined>();
  /** Where the playhead stands, from 0. */
  readonly frame = input(0);
  /** Counts what was drawn: the playhead goes by the axis. */
  private readonly drawn = signal(0);
  protected readonly headAt = computed(() => {
    const axis = this.drawn() > 0 ? this.chart?.scales['x'] : undefined;
    const x = this.frame() + 1;
    return axis && x >= axis.min && x <= axis.max ? axis.getPixelForValue(x) : undefined;
  });
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private chart: Chart<'line', { x: number; y: number }[]> | undefined;

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
          onResize: () => this.drawn.update((count) => count + 1),
          events: [],
          scales: {
            x: { type: 'linear', min: 1, ticks: { color: ink, maxTicksLimit: 12 }, grid: { color: '#e4decf' } },
            y: { ticks: { color: ink, maxTicksLimit: 5, callback: (value) => `${value}°` }, grid: { color: '#e4decf' } },
          },
          plugins: { decimation: { enabled: true, algorithm: 'min-max' } },
        },
      });
      this.draw();
    });
    effect(() => {
      this.before();
      this.after();
      this.window();
      untracked(() => this.draw());
    });
    inject(DestroyRef).onDestroy(() => this.chart?.destroy());
  }

  private draw(): void {
    const { chart } = this;
    if (!chart) return;
    const points = (curve: Float32Array): { x: number; y: number }[] => Array.from(curve, (y, f) => ({ x: f + 1, y }));
    const line = (data: { x: number; y: number }[], borderColor: string, borderWidth: number) => ({
      data,
      borderColor,
      borderWidth,
      pointRadius: 0,
      tension: 0,
    });
    // The later one is drawn over the earlier one.
    chart.data.datasets = [line(points(this.after()), '#3A5A95', 1.6), line(points(this.before()), '#A79F8C', 1)];
    const { first, last } = this.window() ?? { first: 0, last: Math.max(1, this.before().length - 1) };
    chart.options.scales!['x']!.min = first + 1;
    chart.options.scales!['x']!.max = last + 1;
    chart.update('none');
    this.drawn.update((count) => count + 1);
  }
}
