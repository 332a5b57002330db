import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, input, output, signal, viewChildren } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ClipReader, type Side } from '@hollow-stride/core';
import { map } from 'rxjs';
import { PlaybackService } from '../../timeline/playback.service';
import type { LaneOf } from '../lanes/lanes';
import type { Solved } from '../../solver/messages';
import { nearest } from './near';
import { partnersOf, sourcesOf } from './touch-points';

/** Partners that are offered beside the stage: the nearest. */
const OFFERED = 3;

/** Two presses on the stage make a touch: what touches, then what it touches. */
@Component({
  selector: 'hs-touch-picker',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p class="says" role="status">
      {{ hand() ? 'Press what the ' + hand() + ' hand touches' : 'Press what touches: a hand, or a part of the body on the floor' }}
      <button type="button" class="btn btn-quiet" (click)="hand() ? hand.set(undefined) : left.emit()">
        {{ hand() ? 'Back' : 'Cancel' }}
      </button>
    </p>
    @if (near().length > 0) {
      <p class="near">
        Nearest:
        @for (one of near(); track one.index) {
          <button type="button" class="btn btn-sm btn-plain" (click)="press(one.index)">
            {{ one.name }} <span class="soft num">{{ (one.metres * 100).toFixed(0) }} cm</span>
          </button>
        }
      </p>
    }
    @for (point of points(); track point.name) {
      <button #knob type="button" class="knob" [attr.aria-label]="point.name" (click)="press($index)">
        <span aria-hidden="true">{{ point.name }}</span>
      </button>
    }
  `,
  styles: `
    :host {
      position: absolute;
      inset: 0;
      overflow: hidden;
      pointer-events: none;
    }
    .says,
    .near {
      position: absolute;
      left: 8px;
      bottom: 8px;
      margin: 0;
      padding: 2px 4px 2px 10px;
      background: rgb(251 249 244 / 94%);
      border-radius: 3px;
      font-size: 13px;
      pointer-events: auto;
    }
    .near {
      bottom: 42px;
      display: flex;
      align-items: center;
      gap: 6px;
    }
    .knob {
      position: absolute;
      left: -10px;
      top: -10px;
      width: 20px;
      height: 20px;
      padding: 0;
      border: 2px solid var(--hs-act);
      border-radius: 50%;
      background: rgb(251 249 244 / 72%);
      transform: translate(-100px, -100px);
      pointer-events: auto;
    }
    .knob:hover,
    .knob:focus-visible {
      background: var(--hs-act);
      z-index: 1;
    }
    .knob span {
      display: none;
      position: absolute;
      left: 20px;
      top: -4px;
      padding: 1px 7px;
      border-radius: 3px;
      background: var(--hs-ink);
      color: var(--hs-paper);
      font-size: 12.5px;
      white-space: nowrap;
      pointer-events: none;
    }
    .knob:hover span,
    .knob:focus-visible span {
      display: block;
    }
  `,
})
export class TouchPickerComponent {
  readonly solved = input.required<Solved>();
  readonly picked = output<LaneOf>();
  readonly left = output<void>();
  protected readonly hand = signal<Side | undefined>(undefined);
  private readonly knobs = viewChildren<ElementRef<HTMLButtonElement>>('knob');
  private readonly chest = computed(() => {
    const { roles } = this.solved();
    let spine = 0;
    while (roles.has(`spine.${spine + 1}`)) spine++;
    return spine === 0 ? undefined : `spine.${spine}`;
  });
  protected readonly points = computed(() => {
    const hand = this.hand();
    const { roles, props } = this.solved();
    return (hand ? partnersOf(hand, props) : sourcesOf(this.chest())).filter(({ role, joint }) => joint !== undefined || roles.has(role));
  });
  private readonly frame = toSignal(inject(PlaybackService).state$.pipe(map(({ frame }) => frame)), { requireSync: true });
  private readonly motion = computed(() => {
    const { character, solved } = this.solved();
    return new ClipReader(character.skeleton, solved);
  });
  /** Partners nearest to the pressed hand at this frame. */
  protected readonly near = computed(() => {
    const hand = this.hand();
    const joint = hand && this.solved().roles.get(`${hand}.hand`);
    if (joint === undefined) return [];
    const motion = this.motion();
    const pose = motion.at(Math.min(this.frame(), motion.clip.frames - 1));
    return nearest(this.points(), joint, pose, this.solved().roles, OFFERED);
  });
  readonly joints = computed(() => this.points().map(({ role, joint }) => joint ?? this.solved().roles.get(role) ?? 0));

  readonly place = (places: Float64Array): void => {
    this.knobs().forEach(({ nativeElement }, i) => {
      const [x, y] = [places[i * 2], places[i * 2 + 1]];
      nativeElement.style.transform = Number.isFinite(x) ? `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px)` : 'translate(-100px, -100px)';
    });
  };

  protected press(index: number): void {
    const { hand, of } = this.points()[index];
    if (hand) this.hand.set(hand);
    else if (of) {
      this.hand.set(undefined);
      this.picked.emit(of);
    }
  }
}
