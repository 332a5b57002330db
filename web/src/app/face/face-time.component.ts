import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { DecimalPipe } from '@angular/common';
import { faceValueAt } from '@hollow-stride/core';
import { SolveStore } from '../solve/solve.store';
import { TakeTimeService } from '../solve/take-time.service';
import { PlaybackService } from '../timeline/playback.service';
import { FaceStore } from './face.store';

/** Width of the drawings, in their own units. */
const WIDE = 1000;
const TALL = 60;
/** Points of a curve that are drawn. */
const SAMPLES = 500;
/** Seconds that an arrow key moves the recordings by, and with Shift. */
const STEP = 0.01;
const LARGE_STEP = 0.1;

/** The sound under the take, to be dragged to its place, and the curves of the chosen shape, over one time. */
@Component({
  selector: 'hs-face-time',
  imports: [DecimalPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './face-time.component.html',
  styleUrl: './face-time.component.scss',
})
export class FaceTimeComponent {
  protected readonly store = inject(FaceStore);
  private readonly playback = inject(PlaybackService);
  private readonly time = inject(TakeTimeService);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly solving = toSignal(inject(SolveStore).state$, { requireSync: true });
  private readonly now = toSignal(this.playback.state$, { requireSync: true });
  private readonly lanes = viewChild.required<ElementRef<HTMLElement>>('lanes');
  private dragged: { readonly x: number; readonly offset: number } | undefined;

  /** Seconds of the take that are shown. */
  protected readonly range = computed(() => {
    const { solved } = this.solving();
    if (!solved) return { from: 0, to: 1 };
    const { start, pace } = solved.time;
    return { from: start, to: start + Math.max(0.1, ((solved.take.frames - 1) * solved.take.frameTime) / pace) };
  });
  protected readonly head = computed(() => {
    this.now();
    return this.placeOf(this.time.now) / 10;
  });
  /** Where the recordings begin now. */
  protected readonly offset = computed(() => this.state().set?.offset ?? this.state().soundOffset);

  protected readonly wave = computed(() => {
    const { heard, soundOffset } = this.state();
    if (!heard) return '';
    const parts = heard.peaks.length / 2;
    // A clap is many times as loud as a voice, and short: the voice is to be seen.
    const loud = Math.max(0.005, [...heard.peaks].map(Math.abs).sort((a, b) => a - b)[Math.floor(heard.peaks.length * 0.97)]);
    const y = (value: number): string => (TALL / 2 - Math.max(-1, Math.min(1, value / loud)) * (TALL / 2 - 3)).toFixed(1);
    const seconds = (p: number): number => soundOffset + ((p + 0.5) * heard.seconds) / parts;
    const shown = Array.from({ length: parts }, (_, p) => p).filter((p) => this.isShown(seconds(p)));
    const over = shown.map((p) => `${this.placeOf(seconds(p)).toFixed(1)},${y(heard.peaks[p * 2 + 1])}`);
    const under = shown.map((p) => `${this.placeOf(seconds(p)).toFixed(1)},${y(heard.peaks[p * 2])}`).reverse();
    return shown.length > 0 ? `M${[...over, ...under].join('L')}Z` : '';
  });
  protected readonly heardClaps = computed(() => {
    const { heard, soundOffset } = this.state();
    const [first] = heard?.claps ?? [];
    // Others that are a tenth as strong are no claps.
    return (heard?.claps ?? []).filter(({ strength }) => strength > 0.1 * first.strength).map(({ at }) => this.placeOf(at + soundOffset));
  });
  protected readonly seenClaps = computed(() => {
    const seen = this.state().claps?.seen ?? [];
    return seen.filter(({ strength }) => strength > 0.5 * seen[0].strength).map(({ at }) => this.placeOf(at));
  });

  /** What is recorded of the chosen shape's channels, and the shape itself. */
  protected readonly curves = computed(() => {
    const { shown, table, chosen, set } = this.state();
    const row = table?.rows.find(({ shape }) => shape === chosen);
    if (!shown || !row || !set) return undefined;
    const { from, to } = this.range();
    const moments = Array.from({ length: SAMPLES + 1 }, (_, i) => from + ((to - from) * i) / SAMPLES);
    const channels = row.from.map(({ channel }) => shown.track.channels.indexOf(channel)).filter((c) => c >= 0);
    const recorded = channels.map((c) => moments.map((t) => faceValueAt(shown.track, c, t - shown.offset)));
    const s = shown.weights.shapes.indexOf(row.shape);
    const { times, values, shapes } = shown.weights;
    const pace = this.solving().solved?.time.pace ?? 1;
    const mine = Array.from(times, (t, k): [number, number] => [from + t / pace, values[k * shapes.length + s]]);
    const all = [...recorded.flat(), ...mine.map(([, value]) => value)];
    const low = Math.min(0, ...all);
    const high = Math.max(1, ...all);
    const y = (value: number): string => (TALL - 3 - ((value - low) / (high - low)) * (TALL - 6)).toFixed(1);
    return {
      low,
      high,
      recorded: recorded.map((list) => list.map((value, i) => `${((i * WIDE) / SAMPLES).toFixed(1)},${y(value)}`).join(' ')),
      mine: mine.map(([t, value]) => `${this.placeOf(t).toFixed(1)},${y(value)}`).join(' '),
    };
  });

  /** Where the recording holds nothing: before it begins and after it ends. */
  protected readonly outside = computed(() => {
    const { shown } = this.state();
    if (!shown) return [];
    const { track, offset } = shown;
    const begin = this.placeOf(track.start + offset);
    const end = this.placeOf(track.start + (track.frames - 1) * track.frameTime + offset);
    return [
      { x: 0, width: Math.max(0, Math.min(WIDE, begin)) },
      { x: Math.max(0, Math.min(WIDE, end)), width: Math.max(0, WIDE - end) },
    ].filter(({ width }) => width > 0.5);
  });

  protected down(event: PointerEvent): void {
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    this.dragged = { x: event.clientX, offset: this.offset() };
  }

  protected move(event: PointerEvent): void {
    if (!this.dragged) return;
    const { from, to } = this.range();
    const by = ((event.clientX - this.dragged.x) / this.lanes().nativeElement.clientWidth) * (to - from);
    this.store.layAt(this.dragged.offset + by);
  }

  protected up(): void {
    this.dragged = undefined;
  }

  protected key(event: KeyboardEvent): void {
    const way = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (way === 0) return;
    event.preventDefault();
    event.stopPropagation();
    this.store.layAt(this.offset() + way * (event.shiftKey ? LARGE_STEP : STEP));
  }

  protected seek(event: MouseEvent): void {
    const { left, width } = this.lanes().nativeElement.getBoundingClientRect();
    const { from, to } = this.range();
    this.playback.seek(this.time.frameAt(from + ((event.clientX - left) / width) * (to - from)));
  }

  private isShown(seconds: number): boolean {
    const { from, to } = this.range();
    return seconds >= from && seconds <= to;
  }

  private placeOf(seconds: number): number {
    const { from, to } = this.range();
    return ((seconds - from) / (to - from)) * WIDE;
  }
}
