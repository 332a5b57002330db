import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, input, viewChildren } from '@angular/core';
import { frameOf, LAYER_ENDS, movedOn, turnedOn } from '@hollow-stride/core';
import type { Solved } from '../solver/messages';
import type { Gauge } from '../stage/watched-joints';
import { PlaybackService } from '../timeline/playback.service';
import { LayerKeysStore } from './layer-keys.store';
import { LayersStore, type LayerEntry } from './layers.store';
import { nameOfTrack, type Triple } from './tracks';

/** A joint or limb end on the stage that the layer keys, or may key. */
interface Knob {
  readonly name: string;
  readonly joint: number;
  readonly isReach: boolean;
}

interface Drag {
  readonly knob: Knob;
  readonly track: number;
  readonly key: string;
  x: number;
  y: number;
}

/** Joints that stand on the stage for a layer of turns before it keys any: fingers and twist joints are keyed from the list. */
const OFFERED = /^(hips|spine\.\d+|neck\.\d+|head|(left|right)\.(clavicle|upperArm|lowerArm|hand|upperLeg|lowerLeg|foot|toes))$/;
/** A pixel of a drag turns by so many radians; an arrow key turns, or moves, by so many pixels. */
const TURN = 0.007;
const ARROW = 5;

/** Filled, an outline alone, or four strokes about its middle. */
export const HANDLE_SHAPES = ['filled', 'open', 'cross'] as const;
export type HandleShape = (typeof HANDLE_SHAPES)[number];

/**
 * Handles of the layer that is worked on: round ones turn their joint as the pointer goes across it (with Alt about the line of sight), square
 * ones take their limb end along. Each drag sets the key of the frame that is shown.
 */
@Component({
  selector: 'hs-layer-handles',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (knob of knobs(); track knob.name) {
      <button
        #button
        type="button"
        [class.round]="!knob.isReach"
        [class.solid]="knob.name.startsWith('left')"
        [class.keyed]="trackOf(knob.name) >= 0"
        [style.--size.px]="size()"
        [attr.data-shape]="shape()"
        [title]="titleOf(knob)"
        [attr.aria-label]="titleOf(knob)"
        (pointerdown)="down($event, knob)"
        (pointermove)="move($event)"
        (pointerup)="up($event)"
        (pointercancel)="up($event)"
        (keydown)="press($event, knob)"
      ></button>
    }
  `,
  styles: `
    :host {
      position: absolute;
      inset: 0;
      overflow: hidden;
      pointer-events: none;
    }
    button {
      position: absolute;
      left: calc(var(--size) / -2);
      top: calc(var(--size) / -2);
      width: var(--size);
      height: var(--size);
      padding: 0;
      border: 2px solid var(--hs-ink-soft);
      border-radius: 2px;
      background: rgb(251 249 244 / 72%);
      transform: translate(-100px, -100px);
      pointer-events: auto;
      touch-action: none;
      cursor: move;
    }
    button.round {
      border-radius: 50%;
    }
    /* What is under a handle is seen through it. */
    button[data-shape='open'] {
      background: none;
    }
    button[data-shape='cross'] {
      border-color: transparent;
      background:
        linear-gradient(var(--hs-ink) 0 0) 0 50% / 35% 2px no-repeat,
        linear-gradient(var(--hs-ink) 0 0) 100% 50% / 35% 2px no-repeat,
        linear-gradient(var(--hs-ink) 0 0) 50% 0 / 2px 35% no-repeat,
        linear-gradient(var(--hs-ink) 0 0) 50% 100% / 2px 35% no-repeat;
    }
    button[data-shape='filled'].solid {
      background: rgb(94 106 112 / 55%);
    }
    button.keyed {
      border-color: var(--hs-act);
      border-width: 3px;
    }
    button:hover,
    button:focus-visible {
      background: var(--hs-act);
    }
  `,
})
export class LayerHandlesComponent {
  readonly solved = input.required<Solved>();
  readonly entry = input.required<LayerEntry>();
  /** Size of a handle, CSS pixels. */
  readonly size = input(14);
  /** How a handle is drawn. */
  readonly shape = input<HandleShape>('filled');
  private readonly store = inject(LayersStore);
  protected readonly keys = inject(LayerKeysStore);
  private readonly playback = inject(PlaybackService);
  private readonly buttons = viewChildren<ElementRef<HTMLButtonElement>>('button');
  protected readonly knobs = computed((): Knob[] => {
    const { roles } = this.solved();
    const { does } = this.entry().layer;
    const knobOf = (name: string, isReach: boolean): Knob[] => (roles.has(name) ? [{ name, joint: roles.get(name)!, isReach }] : []);
    if (does.kind === 'reach') return LAYER_ENDS.flatMap((end) => knobOf(end, true));
    if (does.kind !== 'turns') return [];
    const keyed = new Set(does.tracks.map(({ role }) => role));
    return [...roles.keys()].filter((role) => keyed.has(role) || OFFERED.test(role)).flatMap((role) => knobOf(role, false));
  });
  /** Joints whose places are asked for. */
  readonly joints = computed(() => this.knobs().map(({ joint }) => joint));
  private gauge: Gauge | undefined;
  private drag: Drag | undefined;

  /** Puts the handles where their joints have been drawn. */
  readonly place = (places: Float64Array, gauge: Gauge): void => {
    this.gauge = gauge;
    this.buttons().forEach(({ nativeElement }, i) => {
      const [x, y] = [places[i * 2], places[i * 2 + 1]];
      nativeElement.style.transform = Number.isFinite(x) ? `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px)` : 'translate(-100px, -100px)';
    });
  };

  protected titleOf({ name, isReach }: Knob): string {
    return isReach
      ? `${name}, drag or use the arrow keys to move it`
      : `${name}, drag or use the arrow keys to turn it; with Alt about the line of sight`;
  }

  protected trackOf(name: string): number {
    return this.keys.tracksOf(this.entry().index).findIndex((track) => nameOfTrack(track) === name);
  }

  protected down(event: PointerEvent, knob: Knob): void {
    if (event.button !== 0) return;
    event.stopPropagation();
    (event.target as Element).setPointerCapture(event.pointerId);
    this.playback.pause();
    this.drag = { knob, track: this.trackFor(knob), key: `drag ${knob.name} ${performance.now()}`, x: event.clientX, y: event.clientY };
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    if (!drag) return;
    const [dx, dy] = [event.clientX - drag.x, event.clientY - drag.y];
    if (dx === 0 && dy === 0) return;
    [drag.x, drag.y] = [event.clientX, event.clientY];
    this.by(drag.knob, drag.track, dx, dy, event.altKey, drag.key);
  }

  protected up(event: PointerEvent): void {
    if (!this.drag) return;
    this.drag = undefined;
    (event.target as Element).releasePointerCapture(event.pointerId);
  }

  protected press(event: KeyboardEvent, knob: Knob): void {
    const step = ARROW * (event.shiftKey ? 4 : 1);
    const ways: Readonly<Record<string, readonly [number, number]>> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    if (event.key === ' ') {
      // A handle has nothing to press: what plays is stopped and goes on as anywhere.
      event.preventDefault();
      event.stopPropagation();
      this.playback.toggle();
      return;
    }
    if (!(event.key in ways)) return;
    event.preventDefault();
    event.stopPropagation();
    this.by(knob, this.trackFor(knob), ...ways[event.key], event.altKey, `keys ${knob.name}`);
  }

  /** The track of a knob, made when there is none. */
  private trackFor({ name }: Knob): number {
    if (this.trackOf(name) < 0) this.keys.addTrack(this.entry().index, name);
    return this.trackOf(name);
  }

  /** Goes on by a way on the canvas, CSS pixels. */
  private by({ joint, isReach }: Knob, track: number, dx: number, dy: number, isAbout: boolean, key: string): void {
    const { gauge } = this;
    const pose = this.store.pose();
    const solved = this.solved();
    if (!gauge || !pose) return;
    const { index } = this.entry();
    const { right, up } = gauge;
    const value = this.keys.value(index, track);
    let next: Triple;
    if (isReach) {
      const metres = gauge.metres[this.joints().indexOf(joint)];
      const own = this.keys.tracksOf(index)[track];
      const way = Float64Array.from({ length: 3 }, (_, c) => metres * (dx * right[c] - dy * up[c]));
      next = movedOn(solved.axes, pose, frameOf(solved, 'frame' in own ? own.frame : 'world'), value, way);
    } else {
      // Toward the eye: right × up.
      const sight = [right[1] * up[2] - right[2] * up[1], right[2] * up[0] - right[0] * up[2], right[0] * up[1] - right[1] * up[0]];
      const turn = Float64Array.from({ length: 3 }, (_, c) => TURN * (isAbout ? -dx * sight[c] : dx * up[c] + dy * right[c]));
      next = turnedOn(solved.axes, pose, joint, value, turn);
    }
    this.keys.setValue(index, track, next, key);
  }
}
