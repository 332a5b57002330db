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
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { valueAt, type LayerKey } from '@hollow-stride/core';
import { Chart, LinearScale, LineController, LineElement, PointElement, ScatterController } from 'chart.js';
import { NumberComponent } from '../shared/number.component';
import { SAME_MOMENT } from '../solve/take-time.service';
import type { Solved } from '../solver/messages';
import { PlaybackService } from '../timeline/playback.service';
import { LayerKeysStore } from './layer-keys.store';
import { LayersStore, type LayerEntry } from './layers.store';
import { nameOfTrack, type Triple } from './tracks';
import { AMOUNTS } from './words';

Chart.register(LinearScale, LineController, LineElement, PointElement, ScatterController);

/** One of the three amounts: by its line, never by colour alone. */
const LINES = [
  { colour: '#22303A', dash: [] },
  { colour: '#0E6A64', dash: [7, 3] },
  { colour: '#C2602A', dash: [2, 3] },
];
/** Points of a curve that are drawn. */
const SAMPLES = 400;
/** A press within so many pixels of a key takes it. */
const NEAR = 9;

interface Dragged {
  readonly key: LayerKey;
  readonly axis: 0 | 1 | 2;
  readonly step: string;
}

/** The curves of what the layer keys: keys are dragged in value, with Shift in time; what is chosen is typed below. */
@Component({
  selector: 'hs-curves',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './curves.component.html',
  styleUrl: './curves.component.scss',
})
export class CurvesComponent {
  readonly solved = input.required<Solved>();
  readonly entry = input<LayerEntry | undefined>();
  protected readonly store = inject(LayersStore);
  protected readonly keys = inject(LayerKeysStore);
  protected readonly playback = inject(PlaybackService);
  private readonly state = toSignal(this.playback.state$, { requireSync: true });
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly axes = [0, 1, 2] as const;
  protected readonly lines = LINES;
  protected readonly nameOf = nameOfTrack;

  protected readonly tracks = computed(() => {
    const does = this.entry()?.layer.does;
    return does?.kind === 'turns' || does?.kind === 'reach' ? does.tracks : [];
  });
  protected readonly track = linkedSignal({ source: () => this.entry()?.index, computation: () => 0 });
  protected readonly own = computed(() => this.tracks().at(this.track()));
  protected readonly words = computed(() => AMOUNTS[this.entry()?.layer.does.kind === 'reach' ? 'reach' : 'turns']);
  protected readonly unit = computed(() => (this.entry()?.layer.does.kind === 'reach' ? 'cm' : '°'));
  /** Second of the key that is chosen. */
  private readonly chosenAt = signal<number | undefined>(undefined);
  protected readonly chosen = computed(() => this.own()?.keys.find(({ at }) => Math.abs(at - (this.chosenAt() ?? -1)) < SAME_MOMENT));
  /** Millimetres that keys may be off the motion, and what came of it. */
  protected readonly tolerance = signal(5);
  private readonly thinned = signal({ of: '', text: '' });
  private readonly shown = computed(() => `${this.entry()?.index} ${this.track()}`);
  protected readonly said = computed(() => (this.thinned().of === this.shown() ? this.thinned().text : ''));
  private readonly dragged = signal<Dragged | undefined>(undefined);
  private chart: Chart<'line', { x: number; y: number }[]> | undefined;

  constructor() {
    afterNextRender(() => {
      const ink = '#5E6A70';
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
            x: { type: 'linear', min: 1, ticks: { color: ink, maxTicksLimit: 10, font: { size: 10 } }, grid: { display: false } },
            y: { ticks: { color: ink, maxTicksLimit: 5, font: { size: 10 } }, grid: { color: '#e4decf' }, grace: '12%' },
          },
        },
        plugins: [{ id: 'head', afterRender: () => this.placeHead() }],
      });
      this.draw();
    });
    effect(() => {
      this.own();
      this.solved();
      this.chosen();
      this.draw();
    });
    effect(() => {
      this.state();
      this.placeHead();
    });
    inject(DestroyRef).onDestroy(() => this.chart?.destroy());
  }

  protected pick(event: Event): void {
    this.track.set(Number((event.target as HTMLSelectElement).value));
  }

  protected down(event: PointerEvent): void {
    (event.target as Element).setPointerCapture(event.pointerId);
    const found = this.near(event);
    this.playback.pause();
    if (found) {
      this.chosenAt.set(found.key.at);
      this.dragged.set({ ...found, step: `curve ${performance.now()}` });
      this.playback.seek(Math.round(this.store.frameAt(found.key.at)));
    } else this.seek(event);
  }

  protected move(event: PointerEvent): void {
    if (event.buttons !== 1) return;
    const dragged = this.dragged();
    const own = this.own();
    const entry = this.entry();
    if (!dragged || !own || !entry || !this.chart) {
      if (!dragged) this.seek(event);
      return;
    }
    const { scales } = this.chart;
    const value = [...dragged.key.value] as Triple;
    let { at } = dragged.key;
    if (event.shiftKey) at = this.store.secondsAt(Math.max(0, Math.round(scales['x'].getValueForPixel(event.offsetX) ?? 1) - 1));
    else value[dragged.axis] = Math.round((scales['y'].getValueForPixel(event.offsetY) ?? 0) * 100) / 100;
    const key = { ...dragged.key, at, value };
    const others = own.keys.filter((one) => Math.abs(one.at - dragged.key.at) > SAME_MOMENT && Math.abs(one.at - at) > SAME_MOMENT);
    this.keys.setKeys(entry.index, this.track(), [...others, key], `curve of ${nameOfTrack(own)}`, dragged.step);
    this.chosenAt.set(at);
    this.dragged.set({ ...dragged, key });
  }

  protected up(): void {
    this.dragged.set(undefined);
  }

  /** Left and right go from key to key, up and down change nothing here: amounts are typed below. */
  protected press(event: KeyboardEvent): void {
    if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return;
    event.preventDefault();
    event.stopPropagation();
    const keys = this.own()?.keys ?? [];
    const now = this.chosenAt() ?? this.store.now;
    const next =
      event.key === 'ArrowLeft'
        ? [...keys].reverse().find(({ at }) => at < now - SAME_MOMENT)
        : keys.find(({ at }) => at > now + SAME_MOMENT);
    if (!next) return;
    this.chosenAt.set(next.at);
    this.playback.pause();
    this.playback.seek(Math.round(this.store.frameAt(next.at)));
  }

  protected setValue(axis: 0 | 1 | 2, amount: number): void {
    this.change((key) => ({ ...key, value: key.value.map((x, c) => (c === axis ? amount : x)) as Triple }), `value ${axis}`);
  }

  protected setSlope(axis: 0 | 1 | 2, amount: number): void {
    this.change((key) => {
      const slope = [...(key.slope ?? this.slopeOf(key))] as Triple;
      slope[axis] = amount;
      return { ...key, slope };
    }, `slope ${axis}`);
  }

  protected setFrame(frame: number): void {
    const chosen = this.chosen();
    const entry = this.entry();
    if (!chosen || !entry) return;
    const to = this.store.secondsAt(frame - 1);
    this.keys.moveKey(entry.index, this.track(), chosen.at, to);
    this.chosenAt.set(to);
  }

  protected frameOf({ at }: LayerKey): number {
    return Math.round(this.store.frameAt(at)) + 1;
  }

  /** The slope of the curve through a key, a second. */
  protected slopeOf({ at, slope }: LayerKey): Triple {
    if (slope) return [...slope] as Triple;
    const step = 1e-3;
    const [a, b] = [new Float64Array(3), new Float64Array(3)];
    const keys = this.own()?.keys ?? [];
    valueAt(a, keys, at);
    valueAt(b, keys, at + step);
    return [0, 1, 2].map((c) => Math.round(((b[c] - a[c]) / step) * 10) / 10) as Triple;
  }

  /** All keys of the track made larger or smaller. */
  protected scale(factor: number): void {
    const own = this.own();
    const entry = this.entry();
    if (!own || !entry) return;
    const keys = own.keys.map((key) => ({
      ...key,
      value: key.value.map((x) => Math.round(x * factor * 100) / 100) as Triple,
      slope: null,
    }));
    this.keys.setKeys(entry.index, this.track(), keys, `scale keys of ${nameOfTrack(own)}`);
  }

  /** Keys that are added would mean something else in place of the motion. */
  protected readonly canThin = computed(() => {
    const does = this.entry()?.layer.does;
    return (
      does !== undefined &&
      'way' in does &&
      (does.way === 'replace' || !this.tracks().some(({ keys }, i) => i !== this.track() && keys.length > 0))
    );
  });

  /** Takes up the motion as keys; says how many there are, and how far they are off. */
  protected thin(): void {
    const entry = this.entry();
    const done = entry && this.keys.thin(entry.index, this.track(), this.tolerance() / 1000);
    if (done) this.thinned.set({ of: this.shown(), text: `${done.keys} keys, ${(done.worst * 1000).toFixed(1)} mm off at most` });
  }

  protected mirror(): void {
    const entry = this.entry();
    if (entry) this.keys.mirrorTrack(entry.index, this.track());
  }

  protected copy(): void {
    this.keys.copied.set(this.own()?.keys ?? []);
  }

  protected paste(): void {
    const entry = this.entry();
    if (entry) this.keys.pasteKeys(entry.index, this.track());
  }

  private change(to: (key: LayerKey) => LayerKey, step: string): void {
    const chosen = this.chosen();
    const own = this.own();
    const entry = this.entry();
    if (!chosen || !own || !entry) return;
    const keys = own.keys.map((key) => (key === chosen ? to(key) : key));
    this.keys.setKeys(entry.index, this.track(), keys, `key of ${nameOfTrack(own)}`, `${step} ${entry.index} ${this.track()} ${chosen.at}`);
  }

  private near({ offsetX, offsetY }: PointerEvent): { key: LayerKey; axis: 0 | 1 | 2 } | undefined {
    const scales = this.chart?.scales;
    const all = (this.own()?.keys ?? []).flatMap((key) => this.axes.map((axis) => ({ key, axis })));
    const away = all.map(({ key, axis }) =>
      Math.hypot(
        (scales?.['x'].getPixelForValue(this.frameOf(key)) ?? 1e9) - offsetX,
        (scales?.['y'].getPixelForValue(key.value[axis]) ?? 1e9) - offsetY,
      ),
    );
    const best = away.indexOf(Math.min(...away));
    return best >= 0 && away[best] <= NEAR ? all[best] : undefined;
  }

  private seek({ offsetX }: PointerEvent): void {
    const frame = this.chart?.scales['x'].getValueForPixel(offsetX);
    if (frame !== undefined) this.playback.seek(Math.max(0, Math.min(this.solved().take.frames - 1, Math.round(frame) - 1)));
  }

  private placeHead(): void {
    const scale = this.chart?.scales['x'] as { getPixelForValue(value: number): number } | undefined;
    const mark = this.canvas().nativeElement.nextElementSibling as HTMLElement | null;
    if (scale && mark) mark.style.left = `${scale.getPixelForValue(this.state().frame + 1) - 1}px`;
  }

  private draw(): void {
    const { chart } = this;
    if (!chart) return;
    const { frames } = this.solved().take;
    const keys = this.own()?.keys ?? [];
    const step = Math.max(1, (frames - 1) / SAMPLES);
    const value = new Float64Array(3);
    const curves: { x: number; y: number }[][] = [[], [], []];
    for (let f = 0; keys.length > 0 && f <= frames - 1; f += step) {
      valueAt(value, keys, this.store.secondsAt(f));
      for (const c of this.axes) curves[c].push({ x: f + 1, y: value[c] });
    }
    const chosen = this.chosen();
    chart.data.datasets = this.axes.flatMap((c) => [
      { data: curves[c], borderColor: LINES[c].colour, borderDash: LINES[c].dash, borderWidth: 1.5, pointRadius: 0, tension: 0 },
      {
        data: keys.map((key) => ({ x: this.frameOf(key), y: key.value[c] })),
        showLine: false,
        pointStyle: 'rectRot' as const,
        pointRadius: keys.map((key) => (key === chosen ? 7 : 5)),
        pointBackgroundColor: keys.map((key) => (key === chosen ? LINES[c].colour : '#FBF9F4')),
        borderColor: LINES[c].colour,
        pointBorderWidth: 2,
      },
    ]);
    chart.options.scales!['x']!.max = Math.max(2, frames);
    chart.update('none');
  }
}
