import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { toObservable, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { catchError, debounceTime, distinctUntilChanged, EMPTY, switchMap } from 'rxjs';
import { FitService } from './fit.service';
import type { FitSource, LaidView, Picture } from './messages';
import { axesOf, pixelOf, placeOf, scaleOf } from './picture';

type Place = readonly [number, number, number];

/** Metres that an arrow key moves a landmark by, and with Shift. */
const [STEP, FINE] = [0.01, 0.001];
const SHARPER = 2;
/** Strokes of a brush that is drawn lie so far apart, share of its radius. */
const APART = 0.5;

/** A mesh from one side: its landmarks and skeleton to be moved over it, or its weights to be brushed. */
@Component({
  selector: 'hs-fit-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas
      #canvas
      role="img"
      [attr.aria-label]="label() + ' of the mesh'"
      [class.brushing]="brush() > 0"
      (pointerdown)="brushDown($event)"
      (pointermove)="brushMove($event)"
      (pointerup)="brushUp()"
    ></canvas>
    <svg [attr.viewBox]="'0 0 ' + size().width + ' ' + size().height" role="group" [attr.aria-label]="label()">
      @for (line of lines(); track $index) {
        <line
          class="bone"
          [class.chosen]="line.name === joint()"
          [attr.x1]="line.a[0]"
          [attr.y1]="line.a[1]"
          [attr.x2]="line.b[0]"
          [attr.y2]="line.b[1]"
        />
      }
      @for (spot of spots(); track $index) {
        <circle class="spot" [attr.cx]="spot.at[0]" [attr.cy]="spot.at[1]" r="9">
          <title>{{ spot.says }}</title>
        </circle>
      }
      @for (mark of marks(); track mark.name) {
        <g
          class="mark"
          tabindex="0"
          role="slider"
          [class.chosen]="mark.name === chosen()"
          [class.unsure]="mark.sure < 0.5"
          [attr.aria-label]="mark.name + ', ' + label()"
          aria-valuenow="0"
          [attr.aria-valuetext]="mark.says"
          (focus)="choose.emit(mark.name)"
          (pointerdown)="down($event, mark.name)"
          (pointermove)="move($event)"
          (pointerup)="up($event)"
          (keydown)="key($event, mark.name)"
        >
          <circle class="reach" [attr.cx]="mark.at[0]" [attr.cy]="mark.at[1]" r="10" />
          <path [attr.d]="cross(mark.at)" />
          @if (mark.name === chosen()) {
            <text [attr.x]="mark.at[0] + 12" [attr.y]="mark.at[1] - 8">{{ mark.name }}</text>
          }
        </g>
      }
      @if (over(); as ring) {
        <circle class="ring" [attr.cx]="ring[0]" [attr.cy]="ring[1]" [attr.r]="ring[2]" />
      }
    </svg>
    <span class="name">{{ label() }}</span>
  `,
  styleUrl: './fit-view.component.scss',
})
export class FitViewComponent {
  readonly source = input.required<FitSource>();
  readonly laid = input.required<LaidView>();
  readonly label = input.required<string>();
  /** Radians that the viewer stands to the body's left of its front. */
  readonly yaw = input(0);
  /** Weights that are shown: of a joint, of all, of none. */
  readonly weights = input<string | null>(null);
  /** Counted up when weights are others. */
  readonly made = input(0);
  readonly hasMarks = input(true);
  readonly chosen = input<string>();
  readonly joint = input<string>();
  /** Places that a person should look at. */
  readonly doubts = input<readonly { readonly at: Place; readonly message: string }[]>([]);
  /** Radius of the brush, metres; 0 for none. */
  readonly brush = input(0);
  readonly choose = output<string>();
  readonly moved = output<{ readonly name: string; readonly place: Place }>();
  /** By an arrow key, metres: several may come before the first is drawn. */
  readonly nudged = output<{ readonly name: string; readonly by: Place }>();
  readonly stroked = output<readonly Place[]>();

  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly service = inject(FitService);
  private readonly destroyRef = inject(DestroyRef);
  protected readonly size = signal({ width: 300, height: 400 });
  private readonly picture = signal<Picture | undefined>(undefined);
  private readonly pointer = signal<readonly [number, number] | undefined>(undefined);
  private dragged: string | undefined;
  private drawn: Place[] | undefined;

  private readonly view = computed(() => ({ yaw: this.yaw(), ...this.size(), weights: this.weights() }));
  /** Pictures have more pixels than the page, so that their edges are smooth. */
  private readonly sharp = computed(() => ({ ...this.view(), width: this.size().width * SHARPER, height: this.size().height * SHARPER }));
  private readonly scale = computed(() => scaleOf(this.laid(), this.size().width, this.size().height));
  private readonly asked = computed(() => ({ source: standing(this.source()), view: this.sharp(), made: this.made() }));

  protected readonly lines = computed(() =>
    this.laid().bones.map(({ name, from, to }) => ({ name, a: this.pixel(from), b: this.pixel(to) })),
  );
  protected readonly marks = computed(() => {
    if (!this.hasMarks()) return [];
    const { landmarks, confidence } = this.laid();
    return Object.keys(landmarks)
      .map((name) => ({ name, place: this.place(name)! }))
      .map(({ name, place }) => ({
        name,
        at: this.pixel(place),
        sure: this.source().choices.landmarks[name] ? 1 : (confidence[name] ?? 1),
        says: `${place.map((v) => v.toFixed(3)).join(', ')} m; arrow keys move it by a centimetre, with Shift by a millimetre`,
      }));
  });
  protected readonly spots = computed(() => this.doubts().map(({ at, message }) => ({ at: this.pixel(at), says: message })));
  protected readonly over = computed(() => {
    const at = this.pointer();
    return at && this.brush() > 0 ? ([at[0], at[1], this.brush() * this.scale().perMetre] as const) : undefined;
  });

  constructor() {
    toObservable(this.asked)
      .pipe(
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
        debounceTime(30),
        switchMap(({ source, view }) => this.service.picture(source, view).pipe(catchError(() => EMPTY))),
        takeUntilDestroyed(),
      )
      .subscribe((picture) => this.picture.set(picture));
    effect(() => {
      const picture = this.picture();
      if (picture) this.paint(picture);
    });
    afterNextRender(() => {
      const observer = new ResizeObserver(([{ contentRect }]) => {
        const size = { width: Math.max(50, Math.round(contentRect.width)), height: Math.max(50, Math.round(contentRect.height)) };
        if (size.width !== this.size().width || size.height !== this.size().height) this.size.set(size);
      });
      observer.observe(this.host.nativeElement);
      this.destroyRef.onDestroy(() => observer.disconnect());
    });
  }

  protected cross([x, y]: readonly number[]): string {
    return `M${x - 5} ${y}H${x + 5}M${x} ${y - 5}V${y + 5}`;
  }

  protected down(event: PointerEvent, name: string): void {
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    this.dragged = name;
    this.choose.emit(name);
  }

  protected move(event: PointerEvent): void {
    if (this.dragged === undefined) return;
    const [x, y] = this.spotOf(event);
    const place = this.place(this.dragged);
    if (place) this.moved.emit({ name: this.dragged, place: placeOf(x, y, this.pixel(place)[2], this.view(), this.scale()) });
  }

  protected up(event: PointerEvent): void {
    this.dragged = undefined;
    (event.currentTarget as Element).releasePointerCapture(event.pointerId);
  }

  protected key(event: KeyboardEvent, name: string): void {
    const ways: Readonly<Record<string, readonly [number, number]>> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, 1],
      ArrowDown: [0, -1],
    };
    const way = ways[event.key] as readonly [number, number] | undefined;
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const { right } = axesOf(this.yaw());
    const by = event.shiftKey ? FINE : STEP;
    this.nudged.emit({ name, by: [way[0] * by * right[0], way[1] * by, way[0] * by * right[2]] });
  }

  protected brushDown(event: PointerEvent): void {
    if (this.brush() <= 0) return;
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    this.drawn = [];
    this.draw(event);
  }

  protected brushMove(event: PointerEvent): void {
    this.pointer.set(this.spotOf(event));
    if (this.drawn) this.draw(event);
  }

  protected brushUp(): void {
    const { drawn } = this;
    this.drawn = undefined;
    if (drawn && drawn.length > 0) this.stroked.emit(drawn);
  }

  /** Takes the place of the surface under the pointer, unless it is near the last. */
  private draw(event: PointerEvent): void {
    const picture = this.picture();
    const [x, y] = this.spotOf(event);
    const { width, height } = this.size();
    if (!picture || !this.drawn || x < 0 || y < 0 || x >= width || y >= height) return;
    const nearness = picture.depth[Math.floor(y * SHARPER) * picture.view.width + Math.floor(x * SHARPER)];
    if (!(nearness > -Infinity)) return;
    const place = placeOf(x, y, nearness, this.view(), this.scale());
    const last = this.drawn.at(-1);
    if (last && Math.hypot(...last.map((v, c) => v - place[c])) < APART * this.brush()) return;
    this.drawn.push(place.map((v) => Math.round(v * 1e4) / 1e4) as unknown as Place);
  }

  /** Where a landmark is now: what was set a moment ago is not laid yet. */
  private place(name: string): Place | undefined {
    return (this.source().choices.landmarks[name] ?? this.laid().landmarks[name]) as Place | undefined;
  }

  private pixel(place: Place): [number, number, number] {
    return pixelOf(place, this.view(), this.scale());
  }

  private spotOf(event: PointerEvent): [number, number] {
    const { left, top } = this.host.nativeElement.getBoundingClientRect();
    return [event.clientX - left, event.clientY - top];
  }

  private paint({ pixels, view: { width, height } }: Picture): void {
    const canvas = this.canvas().nativeElement;
    canvas.width = width;
    canvas.height = height;
    canvas.getContext('2d')?.putImageData(new ImageData(pixels, width, height), 0, 0);
  }
}

/** What a picture depends on: how the mesh stands, not its landmarks. */
function standing(source: FitSource): FitSource {
  return { ...source, choices: { ...source.choices, landmarks: {}, strokes: [], whole: {} } };
}
