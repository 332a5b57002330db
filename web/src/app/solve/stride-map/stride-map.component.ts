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
import { RouterLink } from '@angular/router';
import type { FloorPlan } from '../../solver/floor-plan';
import type { Solved } from '../../solver/messages';
import { PlaybackService } from '../../timeline/playback.service';
import { groundOf, layOf, lengthText, printOf, roundLength, textOf, zoomedBox, type Box, type Place, type Print } from './layout';
import { asStep, StepsStore, type StepChange } from './steps.store';
import { RovingDirective } from '../../shared/roving.directive';

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
/** Half the width of what is shown near, metres. */
const CLOSE = 1.4;

/** The floor from above: the ways of the hips, a footprint for each stance, its slide as a smear to scale; both bodies. */
@Component({
  selector: 'hs-stride-map',
  imports: [RovingDirective, RouterLink],
  host: { '[class.full]': 'full()' },
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './stride-map.component.html',
  styleUrl: './stride-map.component.scss',
})
export class StrideMapComponent {
  readonly solved = input.required<Solved>();
  /** To be looked at, zoomed and measured; otherwise steps can be moved on it. */
  readonly full = input(false);
  protected readonly howTo =
    '. Arrow keys go from print to print; Alt and an arrow key move it, with Shift they turn it; Backspace puts it back';
  private readonly playback = inject(PlaybackService);
  private readonly steps = inject(StepsStore);
  private readonly map = viewChild.required<ElementRef<SVGSVGElement>>('map');
  private drag: Drag | undefined;
  private dragged = false;
  private chosenBefore = '';
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
  /** Where a person zoomed to, of this take on this character. */
  private readonly zoomedTo = linkedSignal<string, Box | undefined>({
    source: () => `${this.solved().pair.take.file} ${this.solved().pair.character.file}`,
    computation: () => undefined,
  });
  /** Where a drag along the map began. */
  private grabbed: { readonly at: Place; moved: boolean } | undefined;
  protected readonly measuring = signal(false);
  /** Ends of what is measured. */
  protected readonly ends = signal<readonly Place[]>([]);
  private readonly plans = computed(() => [this.solved().floor.mine, this.solved().floor.theirs]);
  private readonly lay = computed(() => layOf(this.plans()));

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

  private readonly ground = computed(() => groundOf(this.plans(), this.lay()));
  /** The part in view: where a person zoomed to, about the hips, or all. */
  private readonly shown = computed((): Box => {
    const now = this.near() ? this.now() : undefined;
    if (now) return { left: now[0] - CLOSE, top: now[1] - CLOSE / 2, width: 2 * CLOSE, height: CLOSE };
    return this.zoomedTo() ?? this.ground();
  });
  protected readonly box = computed(() => {
    const { left, top, width, height } = this.shown();
    return `${left} ${top} ${width} ${height}`;
  });
  /** About a pixel, in metres. */
  protected readonly line = computed(() => {
    const [wide, high] = this.full() ? [510, 230] : [275, 124];
    return Math.max(this.shown().width / wide, this.shown().height / high) * 1.1;
  });
  protected readonly scaleText = computed(() => {
    const { width, height } = this.shown();
    return `${width.toFixed(1)} by ${height.toFixed(1)} m; left solid, right hollow; press a footprint to go to it, drag one to move it`;
  });
  protected readonly now = computed(() => {
    const { mine } = this.solved().floor;
    const i = Math.floor(this.state().frame / mine.step) * 2;
    return i < mine.hips.length ? this.lay().to(mine.hips[i], mine.hips[i + 1]) : undefined;
  });

  protected readonly pickedPrint = computed(() =>
    this.bodies()
      .flatMap(({ prints }) => prints)
      .find(({ key }) => key === this.chosen()),
  );
  protected readonly says = computed(() => {
    if (!this.measuring()) return this.pickedPrint()?.title ?? 'Press a footprint to go to it. Turn the wheel to zoom, drag to pan.';
    const [a, b] = this.ends();
    return a && b
      ? `${lengthText(Math.hypot(b[0] - a[0], b[1] - a[1]))} apart`
      : a
        ? 'Press the other end.'
        : 'Press one end: a footprint, or any place.';
  });
  protected readonly bar = computed(() => {
    const { left, top, width, height } = this.shown();
    const length = roundLength(width / 5);
    const [x, y, tick] = [left + width * 0.02, top + height * 0.96, height * 0.025];
    return { points: `${x},${y - tick} ${x},${y} ${x + length},${y} ${x + length},${y - tick}`, text: lengthText(length) };
  });

  /** Nearer or farther about a place: what is chosen, where the body is, or the middle. */
  protected zoom(factor: number, about?: Place): void {
    const box = this.shown();
    const at = about ?? this.pickedPrint()?.middle ?? this.now() ?? [box.left + box.width / 2, box.top + box.height / 2];
    this.near.set(false);
    this.zoomedTo.set(zoomedBox(box, this.ground(), factor, at));
  }

  protected all(): void {
    this.near.set(false);
    this.zoomedTo.set(undefined);
  }

  protected measure(): void {
    this.measuring.set(!this.measuring());
    this.ends.set([]);
  }

  protected wheel(event: WheelEvent): void {
    if (!this.full()) return;
    event.preventDefault();
    this.zoom(event.deltaY < 0 ? 1.25 : 0.8, this.placeOf(event.clientX, event.clientY));
  }

  protected grab(event: PointerEvent): void {
    this.grabbed = { at: this.placeOf(event.clientX, event.clientY), moved: false };
  }

  protected pan(event: PointerEvent): void {
    const { grabbed } = this;
    if (!grabbed || event.buttons === 0) return;
    const at = this.placeOf(event.clientX, event.clientY);
    const [dx, dy] = [grabbed.at[0] - at[0], grabbed.at[1] - at[1]];
    if (!grabbed.moved && Math.hypot(dx, dy) < this.line() * START) return;
    grabbed.moved = true;
    const box = this.shown();
    this.near.set(false);
    this.zoomedTo.set({ ...box, left: box.left + dx, top: box.top + dy });
  }

  protected leave(event: PointerEvent): void {
    const { grabbed } = this;
    this.grabbed = undefined;
    if (!grabbed) return;
    this.dragged = grabbed.moved;
    const onPrint = (event.target as Element).closest('.print');
    if (this.measuring() && !grabbed.moved && !onPrint) this.end(this.placeOf(event.clientX, event.clientY));
  }

  /** An end of what is measured; a third begins anew. */
  private end(place: Place): void {
    this.ends.update((ends) => (ends.length === 2 ? [place] : [...ends, place]));
  }

  /** Whether the foot stands there at the frame that is shown. */
  protected isStanding({ first, last }: Print): boolean {
    const { frame } = this.state();
    return frame >= first && frame <= last;
  }

  /** The prints under a place on the screen that are of one kind with another, the uppermost first. */
  private under({ clientX, clientY }: MouseEvent, { of }: Print): Print[] {
    const keys = document
      .elementsFromPoint(clientX, clientY)
      .map((element) => element.closest('.print')?.getAttribute('data-key'))
      .filter((key) => key !== undefined && key !== null);
    const prints = new Map(this.bodies().flatMap(({ prints }) => prints.map((print) => [print.key, print])));
    return [...new Set(keys)].map((key) => prints.get(key)!).filter((print) => (print.of === undefined) === (of === undefined));
  }

  /** Of prints that lie on each other the chosen one is meant, or the one nearest in time to the frame that is shown. */
  private meant(event: MouseEvent, print: Print): Print {
    const under = this.under(event, print);
    const away = ({ first, last }: Print): number => Math.max(0, first - this.state().frame, this.state().frame - last);
    return under.find(({ key }) => key === this.chosen()) ?? under.sort((a, b) => away(a) - away(b))[0] ?? print;
  }

  protected down(event: PointerEvent, pressed: Print, isTurn: boolean): void {
    this.chosenBefore = this.chosen();
    if (!pressed.of || this.full()) return;
    const print = isTurn ? pressed : this.meant(event, pressed);
    if (!print.of) return;
    event.stopPropagation();
    event.preventDefault();
    const target = event.currentTarget as Element;
    (target.closest('.print') ?? target).setPointerCapture(event.pointerId);
    this.chosen.set(print.key);
    this.dragged = false;
    this.show(print);
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

  /** Alt and an arrow key move a step over the map, with Shift they turn it; without, they go from print to print. */
  protected key(event: KeyboardEvent, print: Print): void {
    if (event.key === 'Enter') this.press(print);
    if (this.full()) return;
    const ways: Readonly<Record<string, readonly [number, number]>> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    if (print.of && event.key === 'Backspace') this.reset(print);
    if (!print.of || !event.altKey || !(event.key in ways)) return;
    event.preventDefault();
    event.stopPropagation();
    this.chosen.set(print.key);
    const was = this.steps.now(print.of);
    this.show(print);
    const [x, y] = ways[event.key];
    const key = `keys ${print.key}`;
    if (event.shiftKey) {
      const turn = x - y;
      this.steps.set(print.of, { ...was, turn: was.turn + (print.isLeft ? -turn : turn) }, key);
      return;
    }
    const step = asStep(print.of, ...this.lay().back(x / 100, y / 100));
    this.steps.set(print.of, { ...was, out: was.out + step.out, ahead: was.ahead + step.ahead }, key);
  }

  protected reset({ of }: Print): void {
    if (of && !this.full()) this.steps.set(of, { out: 0, ahead: 0, turn: 0 }, `step back ${performance.now()}`);
  }

  /** Where a place on the screen lies on the map. */
  private placeOf(x: number, y: number): Place {
    const matrix = this.map().nativeElement.getScreenCTM()?.inverse();
    const at = new DOMPoint(x, y).matrixTransform(matrix);
    return [at.x, at.y];
  }

  /** Leads to the print that was pressed, unless that was the end of a drag; a second press goes on to the one below it. */
  protected click(event: MouseEvent, pressed: Print): void {
    const wasDrag = this.dragged;
    this.dragged = false;
    if (wasDrag) return;
    const under = this.under(event, pressed);
    const at = under.findIndex(({ key }) => key === this.chosenBefore);
    const isAgain = at >= 0 && event.detail <= 1;
    this.press(isAgain ? under[(at + 1) % under.length] : this.meant(event, pressed));
  }

  private press({ first, key, middle }: Print): void {
    if (this.measuring()) {
      this.end(middle);
      return;
    }
    this.chosen.set(key);
    this.go(first);
  }

  /** Leads the playhead into a stand that is being moved, that the body shows it. */
  private show({ of }: Print): void {
    const { frame } = this.state();
    if (of && (frame < of.first || frame > of.last)) this.go(of.first);
  }

  protected go(frame: number): void {
    this.playback.pause();
    this.playback.seek(frame);
  }
}
