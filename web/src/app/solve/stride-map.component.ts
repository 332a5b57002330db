import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { FloorPlan, Footprint } from '../solver/floor-plan';
import type { Solved } from '../solver/messages';
import { PlaybackService } from '../timeline/playback.service';

interface Print {
  readonly key: string;
  readonly sole: string;
  readonly heel: string;
  readonly smear: string;
  readonly isLeft: boolean;
  readonly first: number;
  readonly title: string;
}

/** A foot's half width, as a share of its length. */
const HALF = 0.2;
/** Half the width of what is shown near, metres. */
const CLOSE = 1.4;

/** The floor from above: the ways of the hips, a footprint for each stance, its slide as a smear to scale; both bodies. */
@Component({
  selector: 'hs-stride-map',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.viewBox]="box()" role="group" aria-label="Floor from above, with the footprints of both bodies">
      @for (body of bodies(); track body.look) {
        <g [class]="body.look">
          <polyline class="hips" [attr.points]="body.hips" [attr.stroke-width]="line()" />
          @for (print of body.prints; track print.key) {
            <g
              class="print"
              [class.solid]="print.isLeft"
              role="button"
              tabindex="0"
              [attr.aria-label]="print.title"
              [attr.stroke-width]="line()"
              (click)="go(print.first)"
              (keydown.enter)="go(print.first)"
            >
              <title>{{ print.title }}</title>
              <polygon [attr.points]="print.sole" />
              <polygon [attr.points]="print.heel" />
              <polyline class="smear" [attr.points]="print.smear" [attr.stroke-width]="line() * 2" />
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
    return span(1) > span(0) ? (x, z) => [z, -x] : (x, z) => [-x, -z];
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
        const [x, y] = lay(...end);
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
    return `${width.toFixed(1)} by ${height.toFixed(1)} m; left solid, right hollow; press a footprint to go there`;
  });
  protected readonly now = computed(() => {
    const { mine } = this.solved().floor;
    const i = Math.floor(this.state().frame / mine.step) * 2;
    return i < mine.hips.length ? this.lay()(mine.hips[i], mine.hips[i + 1]) : undefined;
  });

  protected go(frame: number): void {
    this.playback.pause();
    this.playback.seek(frame);
  }
}

/** How a place on the floor, seen from above, lies on the map. */
type Lay = (x: number, z: number) => readonly [x: number, y: number];

function textOf(places: ArrayLike<number>, lay: Lay): string {
  const points: string[] = [];
  for (let i = 0; i + 1 < places.length; i += 2) {
    const [x, y] = lay(places[i], places[i + 1]);
    points.push(`${x.toFixed(4)},${y.toFixed(4)}`);
  }
  return points.join(' ');
}

function printOf({ side, first, last, heel, ball, smear }: Footprint, look: string, lay: Lay): Print {
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
  return {
    key: `${side} ${first}`,
    sole: oval(1, 0.42, HALF + 0.08),
    heel: oval(0.05, 0.24, HALF),
    smear: textOf(smear, lay),
    isLeft: side === 'left',
    first,
    title: `${look}, ${side} foot, frames ${first + 1} to ${last + 1}, slides ${(slide * 1000).toFixed(1)} mm`,
  };
}
