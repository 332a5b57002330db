import {
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { FloorPlan, Footprint } from '../../solver/floor-plan';
import type { Solved } from '../../solver/messages';
import { PlaybackService } from '../../timeline/playback.service';
import { asStep, StepsStore, type StepChange } from './steps.store';

interface Print {
  readonly key: string;
  /** The character's stand, which can be moved; undefined for the performer's. */
  readonly of: Footprint | undefined;
  /** Beyond the toes, where it is turned by, and the middle that it turns about. */
  readonly toe: readonly [number, number];
  readonly middle: readonly [number, number];
  readonly sole: string;
  readonly heel: string;
  readonly smear: string;
  readonly isLeft: boolean;
  readonly first: number;
  readonly title: string;
}

/** A footprint that is being moved. */
interface Drag {
  readonly print: Print;
  readonly isTurn: boolean;
  readonly from: readonly [number, number];
  readonly was: StepChange;
  readonly key: string;
}

/** Pixels that a pointer goes before it drags. */
const START = 3;
/** A foot's half width, as a share of its length. */
const HALF = 0.2;
/** Half the width of what is shown near, metres. */
const CLOSE = 1.4;

/** The floor from above: the ways of the hips, a footprint for each stance, its slide as a smear to scale; both bodies. */
@Component({
  selector: 'hs-stride-map',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg #map [attr.viewBox]="box()" role="group" aria-label="Floor from above, with the footprints of both bodies">
      @for (body of bodies(); track body.look) {
        <g [class]="body.look">
          <polyline class="hips" [attr.points]="body.hips" [attr.stroke-width]="line()" />
          @for (print of body.prints; track print.key) {
            <g
              class="print"
              [class.solid]="print.isLeft"
              [class.own]="print.of"
              role="button"
              tabindex="0"
              [attr.aria-label]="print.title"
              [attr.stroke-width]="line()"
              [attr.transform]="print.of && moved()?.key === print.key ? moved()!.transform : null"
              (click)="press(print)"
              (keydown)="key($event, print)"
              (pointerdown)="down($event, print, false)"
              (pointermove)="move($event)"
              (pointerup)="up($event)"
              (pointercancel)="up($event)"
              (dblclick)="reset(print)"
            >
              <title>{{ print.title }}</title>
              <polygon [attr.points]="print.sole" />
              <polygon [attr.points]="print.heel" />
              <polyline class="smear" [attr.points]="print.smear" [attr.stroke-width]="line() * 2" />
              @if (print.of && chosen() === print.key) {
                <circle
                  class="turn"
                  [attr.cx]="print.toe[0]"
                  [attr.cy]="print.toe[1]"
                  [attr.r]="line() * 4"
                  (pointerdown)="down($event, print, true)"
                />
              }
            </g>
          }
        </g>
      }
      @if (now(); as p) {
        <circle class="now" [attr.cx]="p[0]" [attr.cy]="p[1]" [attr.r]="line() * 3.5" />
      }
    </svg>
    <p class="soft small">
      <button type="button" [attr.aria-pressed]="near()" (click)="near.set(!near())">{{ near() ? 'all of it' : 'near' }}</button>
      {{ scaleText() }}
    </p>
  `,
  styles: `
    svg {
      display: block;
      width: 100%;
      height: 124px;
      background: #fdfbf6;
      border: 1px solid var(--hs-rule);
      border-radius: 3px;
    }
    polyline {
      fill: none;
    }
    .performer {
      stroke: var(--hs-performer);
      opacity: 0.45;
    }
    .performer .solid polygon {
      fill: var(--hs-performer);
    }
    .character {
      stroke: var(--hs-character);
    }
    .character .solid polygon {
      fill: var(--hs-character);
      fill-opacity: 0.75;
    }
    polygon {
      fill: #fdfbf6;
      fill-opacity: 0.6;
      stroke-linejoin: round;
    }
    .hips {
      opacity: 0.7;
    }
    .smear {
      stroke: var(--hs-fault);
    }
    .print {
      cursor: pointer;
    }
    .own {
      cursor: move;
      touch-action: none;
    }
    .turn {
      fill: #fdfbf6;
      stroke: var(--hs-act);
      cursor: grab;
    }
    .print:focus-visible polygon {
      stroke: var(--hs-act);
    }
    .now {
      fill: var(--hs-act);
    }
    p {
      margin: 4px 0 0;
    }
    button {
      border: 0;
      padding: 0 6px 0 0;
      background: none;
      color: var(--hs-act);
      text-decoration: underline dotted;
      text-underline-offset: 3px;
    }
  `,
})
export class StrideMapComponent {
  readonly solved = input.required<Solved>();
  private readonly playback = inject(PlaybackService);
  private readonly steps = inject(StepsStore);
  private readonly map = viewChild.required<ElementRef<SVGSVGElement>>('map');
  private drag: Drag | undefined;
  private dragged = false;
  /** Of the footprint that was pressed last. */
  protected readonly chosen = signal('');
  /** Where a footprint is dragged to, until the solve has put it there. */
  protected readonly moved = linkedSignal<FloorPlan, { readonly key: string; readonly transform: string } | undefined>({
    source: () => this.solved().floor.mine,
    computation: () => undefined,
  });
  private readonly state = toSignal(this.playback.state$, { requireSync: true });

  /** Near the hips of the frame that is shown, or all of it. */
  protected readonly near = signal(false);
  /** The longer way lies across: ahead is up, or to the right. */
  private readonly lay = computed((): Lay => {
    const { mine, theirs } = this.solved().floor;
    const span = (c: 0 | 1): number => {
      let [low, high] = [Infinity, -Infinity];
      for (const { hips } of [mine, theirs])
        for (let i = c; i < hips.length; i += 2) [low, high] = [Math.min(low, hips[i]), Math.max(high, hips[i])];
      return high - low;
    };
    return span(1) > span(0) ? { to: (x, z) => [z, -x], back: (x, y) => [-y, x] } : { to: (x, z) => [-x, -z], back: (x, y) => [-x, -y] };
  });

  protected readonly bodies = computed(() => {
    const { mine, theirs } = this.solved().floor;
    const lay = this.lay();
    const body = (look: string, plan: FloorPlan) => ({
      look,
      hips: textOf(plan.hips, lay),
      prints: plan.prints.map((print) => printOf(print, look, lay)),
    });
    return [body('performer', theirs), body('character', mine)];
  });

  /** The ground that both bodies cover, with a margin. */
  private readonly ground = computed(() => {
    const { mine, theirs } = this.solved().floor;
    const lay = this.lay();
    let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
    for (const plan of [mine, theirs]) {
      const ends = plan.prints.flatMap(({ heel, ball }) => [heel, ball]);
      for (let i = 0; i < plan.hips.length; i += 2) ends.push([plan.hips[i], plan.hips[i + 1]]);
      for (const end of ends) {
        const [x, y] = lay.to(end[0], end[1]);
        [left, right] = [Math.min(left, x), Math.max(right, x)];
        [top, bottom] = [Math.min(top, y), Math.max(bottom, y)];
      }
    }
    const margin = 0.12 + 0.04 * Math.max(right - left, bottom - top);
    return { left: left - margin, top: top - margin, width: right - left + 2 * margin, height: bottom - top + 2 * margin };
  });
  /** What is shown of it. */
  private readonly shown = computed(() => {
    const now = this.near() ? this.now() : undefined;
    return now ? { left: now[0] - CLOSE, top: now[1] - CLOSE / 2, width: 2 * CLOSE, height: CLOSE } : this.ground();
  });
  protected readonly box = computed(() => {
    const { left, top, width, height } = this.shown();
    return `${left} ${top} ${width} ${height}`;
  });
  protected readonly line = computed(() => Math.max(this.shown().width / 275, this.shown().height / 124) * 1.1);
  protected readonly scaleText = computed(() => {
    const { width, height } = this.shown();
    return `${width.toFixed(1)} by ${height.toFixed(1)} m; left solid, right hollow; press a footprint to go there, drag one to move it`;
  });
  protected readonly now = computed(() => {
    const { mine } = this.solved().floor;
    const i = Math.floor(this.state().frame / mine.step) * 2;
    return i < mine.hips.length ? this.lay().to(mine.hips[i], mine.hips[i + 1]) : undefined;
  });

  protected down(event: PointerEvent, print: Print, isTurn: boolean): void {
    if (!print.of) return;
    event.stopPropagation();
    event.preventDefault();
    const target = event.currentTarget as Element;
    (target.closest('.print') ?? target).setPointerCapture(event.pointerId);
    this.chosen.set(print.key);
    this.dragged = false;
    this.drag = { print, isTurn, from: [event.clientX, event.clientY], was: this.steps.now(print.of), key: `step ${performance.now()}` };
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    const of = drag?.print.of;
    if (!drag || !of) return;
    if (this.moved() === undefined && Math.hypot(event.clientX - drag.from[0], event.clientY - drag.from[1]) < START) return;
    this.dragged = true;
    const [a, b] = [this.placeOf(...drag.from), this.placeOf(event.clientX, event.clientY)];
    const { key, middle } = drag.print;
    if (drag.isTurn) {
      const way = (p: readonly [number, number]): number => Math.atan2(p[1] - middle[1], p[0] - middle[0]);
      const turn = ((((way(b) - way(a)) * 180) / Math.PI + 540) % 360) - 180;
      this.moved.set({ key, transform: `rotate(${turn} ${middle[0]} ${middle[1]})` });
      // On the map, as from above, a turn to the right is a positive one.
      this.steps.set(of, { ...drag.was, turn: drag.was.turn + (of.side === 'left' ? -turn : turn) }, drag.key);
      return;
    }
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    this.moved.set({ key, transform: `translate(${dx} ${dy})` });
    const step = asStep(of, ...this.lay().back(dx, dy));
    this.steps.set(of, { ...drag.was, out: drag.was.out + step.out, ahead: drag.was.ahead + step.ahead }, drag.key);
  }

  protected up(event: PointerEvent): void {
    if (!this.drag) return;
    this.drag = undefined;
    (event.currentTarget as Element).releasePointerCapture(event.pointerId);
  }

  /** Arrow keys move a step over the map, with Alt they turn it. */
  protected key(event: KeyboardEvent, print: Print): void {
    if (event.key === 'Enter') this.go(print.first);
    const ways: Readonly<Record<string, readonly [number, number]>> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    if (!print.of || !(event.key in ways)) return;
    event.preventDefault();
    event.stopPropagation();
    this.chosen.set(print.key);
    const was = this.steps.now(print.of);
    const size = event.shiftKey ? 5 : 1;
    const [x, y] = ways[event.key];
    const key = `keys ${print.key}`;
    if (event.altKey) {
      const turn = (x - y) * size;
      this.steps.set(print.of, { ...was, turn: was.turn + (print.isLeft ? -turn : turn) }, key);
      return;
    }
    const step = asStep(print.of, ...this.lay().back((x * size) / 100, (y * size) / 100));
    this.steps.set(print.of, { ...was, out: was.out + step.out, ahead: was.ahead + step.ahead }, key);
  }

  protected reset({ of }: Print): void {
    if (of) this.steps.set(of, { out: 0, ahead: 0, turn: 0 }, `step back ${performance.now()}`);
  }

  /** Where a place on the screen lies on the map. */
  private placeOf(x: number, y: number): readonly [number, number] {
    const matrix = this.map().nativeElement.getScreenCTM()?.inverse();
    const at = new DOMPoint(x, y).matrixTransform(matrix);
    return [at.x, at.y];
  }

  /** Leads to a footprint's frame, unless the press was the end of a drag. */
  protected press({ first }: Print): void {
    if (!this.dragged) this.go(first);
    this.dragged = false;
  }

  protected go(frame: number): void {
    this.playback.pause();
    this.playback.seek(frame);
  }
}

/** How a place on the floor, seen from above, lies on the map, and the way back. */
interface Lay {
  readonly to: (x: number, z: number) => readonly [x: number, y: number];
  readonly back: (x: number, y: number) => readonly [x: number, z: number];
}

function textOf(places: ArrayLike<number>, lay: Lay): string {
  const points: string[] = [];
  for (let i = 0; i + 1 < places.length; i += 2) {
    const [x, y] = lay.to(places[i], places[i + 1]);
    points.push(`${x.toFixed(4)},${y.toFixed(4)}`);
  }
  return points.join(' ');
}

function printOf(print: Footprint, look: string, lay: Lay): Print {
  const { side, first, last, heel, ball, smear } = print;
  const length = Math.hypot(ball[0] - heel[0], ball[1] - heel[1]) || 0.01;
  const ahead = [(ball[0] - heel[0]) / length, (ball[1] - heel[1]) / length];
  /** A place along the foot and across it. */
  const at = (along: number, across: number): number[] => [
    heel[0] + (ahead[0] * along - ahead[1] * across) * length,
    heel[1] + (ahead[1] * along + ahead[0] * across) * length,
  ];
  const oval = (middle: number, long: number, wide: number): string =>
    textOf(
      Array.from({ length: 12 }, (_, i) => at(middle + long * Math.cos((i * Math.PI) / 6), wide * Math.sin((i * Math.PI) / 6))).flat(),
      lay,
    );
  let slide = 0;
  for (let i = 2; i < smear.length; i += 2) slide += Math.hypot(smear[i] - smear[i - 2], smear[i + 1] - smear[i - 1]);
  const on = (place: readonly number[]): readonly [number, number] => lay.to(place[0], place[1]);
  const isOwn = look === 'character';
  return {
    key: `${side} ${first}`,
    of: isOwn ? print : undefined,
    toe: on(at(1.8, 0)),
    middle: on(at(0.5, 0)),
    sole: oval(1, 0.42, HALF + 0.08),
    heel: oval(0.05, 0.24, HALF),
    smear: textOf(smear, lay),
    isLeft: side === 'left',
    first,
    title: `${look}, ${side} foot, frames ${first + 1} to ${last + 1}, slides ${(slide * 1000).toFixed(1)} mm${isOwn ? '. Drag it or use the arrow keys, with Alt to turn; double click puts it back' : ''}`,
  };
}
