import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import type { Role } from '@hollow-stride/core';
import type { MatchBody, MatchView, PoseData, SegmentView } from '../body/messages';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { partsOf, PLANES, project, type Plane } from './plane';
import { arrowDegrees, TurnDrag } from './turning';

interface Dial {
  readonly role: Role;
  readonly title: string;
  readonly right: boolean;
  /** Degrees counter-clockwise from the right, as drawn; undefined where the plane shows no direction. */
  readonly performer: number | undefined;
  readonly character: number | undefined;
  readonly off: number;
  readonly caution: string | undefined;
}

const LIMB = /\.(upperArm|lowerArm|upperLeg|lowerLeg|hock|fetlock)$/;
/** Residuals above this stand as cautions, degrees. */
const DOUBTFUL = 5;

/** A small dial for each limb segment: two needles and the angle between them. */
@Component({
  selector: 'hs-dials',
  imports: [ChoicesComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar">
      <hs-choices label="Plane of the dials" [choices]="planes" [value]="plane()" (chosen)="plane.set($any($event))" />
      <span class="soft key"
        ><span class="of-performer">performer</span> and <span class="of-character">character</span>; solid left, dashed right</span
      >
    </div>
    <div class="dials">
      @for (dial of dials(); track dial.role) {
        <div class="dial" [class.chosen]="dial.role === chosen()">
          <svg
            viewBox="-22 -22 44 44"
            tabindex="0"
            role="slider"
            [attr.aria-label]="dial.role + ', off by'"
            [attr.aria-valuenow]="dial.off"
            aria-valuemin="0"
            aria-valuemax="180"
            [attr.aria-valuetext]="dial.off.toFixed(1) + ' degrees'"
            (focus)="choose.emit(dial.role)"
            (pointerdown)="down($event, dial)"
            (pointermove)="move($event, dial)"
            (pointerup)="drag.end($event)"
            (keydown)="key($event)"
            (dblclick)="cleared.emit(dial.role)"
          >
            <circle r="19" />
            @if (dial.performer !== undefined) {
              <path class="performer" [class.dashed]="dial.right" d="M0 0H17" [attr.transform]="'rotate(' + -dial.performer + ')'" />
            }
            @if (dial.character !== undefined) {
              <path class="character" [class.dashed]="dial.right" d="M0 0H18" [attr.transform]="'rotate(' + -dial.character + ')'" />
            }
          </svg>
          <span class="title">{{ dial.title }}</span>
          <span class="num" [class.caution]="dial.caution" [title]="dial.caution ?? ''">
            @if (dial.caution) {
              <i class="bi bi-exclamation-triangle-fill" aria-hidden="true"></i>
            }
            {{ dial.off.toFixed(1) }}°
          </span>
        </div>
      }
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    .bar {
      display: flex;
      gap: 10px;
      align-items: center;
      padding: 4px 8px;
      overflow: hidden;
      white-space: nowrap;
    }
    .key {
      font-size: 12px;
    }
    .dials {
      display: grid;
      flex: 1;
      grid-template-columns: repeat(auto-fill, minmax(70px, 1fr));
      gap: 2px;
      align-content: start;
      overflow-y: auto;
      padding: 0 6px 6px;
    }
    .dial {
      display: flex;
      flex-direction: column;
      align-items: center;
      padding: 2px 0;
      border-radius: 3px;
      font-size: 11.5px;
      line-height: 1.2;
    }
    .dial.chosen {
      background: rgb(14 106 100 / 10%);
      box-shadow: inset 0 -2px 0 var(--hs-act);
    }
    svg {
      width: 54px;
      height: 54px;
      touch-action: none;
      cursor: grab;
    }
    circle {
      fill: var(--hs-sheet);
      stroke: var(--hs-rule);
    }
    path {
      fill: none;
      stroke-linecap: round;
    }
    .performer {
      stroke: var(--hs-performer);
      stroke-width: 4;
      opacity: 0.6;
    }
    .character {
      stroke: var(--hs-character);
      stroke-width: 1.8;
    }
    .dashed {
      stroke-dasharray: 3.4 3;
    }
    .title {
      color: var(--hs-ink-soft);
      white-space: nowrap;
    }
  `,
})
export class DialsComponent {
  readonly view = input.required<MatchView>();
  readonly chosen = input<Role | undefined>();
  readonly choose = output<Role>();
  readonly turned = output<{ plane: Plane; by: number }>();
  readonly cleared = output<Role>();
  protected readonly plane = signal<Plane>('front');
  protected readonly planes: readonly Choice[] = PLANES.map((value) => ({ value, name: value }));
  protected readonly drag = new TurnDrag();

  protected readonly dials = computed((): Dial[] => {
    const { performer, character, matched, segments } = this.view();
    const plane = this.plane();
    return segments.map((segment) => ({
      role: segment.role,
      title: shortName(segment.role),
      right: segment.role.startsWith('right.'),
      performer: directionOf(performer, performer.rest, segment.performer, plane),
      character: directionOf(character, matched, segment.character, plane),
      off: segment.after,
      caution: cautionOf(segment),
    }));
  });

  protected down(event: PointerEvent, dial: Dial): void {
    this.choose.emit(dial.role);
    this.drag.start(event, angleAt(event));
  }

  protected move(event: PointerEvent, dial: Dial): void {
    const by = dial.role === this.chosen() ? this.drag.by(angleAt(event)) : 0;
    if (by !== 0) this.turned.emit({ plane: this.plane(), by });
  }

  protected key(event: KeyboardEvent): void {
    const by = arrowDegrees(event);
    if (by === 0) return;
    event.preventDefault();
    event.stopPropagation();
    this.turned.emit({ plane: this.plane(), by });
  }
}

/** Whether a segment is one of a limb, which rests are matched by. */
export const isLimb = ({ role }: Pick<SegmentView, 'role'>): boolean => LIMB.test(role);

/** The caution on a segment that is far off: by how much and the likely reason. */
export function cautionOf({ role, after, reason }: Pick<SegmentView, 'role' | 'after' | 'reason'>): string | undefined {
  // Only of limbs is more than a little of it doubtful: trunk, hands and feet have shapes of their own.
  return after > DOUBTFUL && isLimb({ role }) ? reason : undefined;
}

function directionOf(body: MatchBody, { positions }: PoseData, [from, to]: readonly [number, number], plane: Plane): number | undefined {
  if (from < 0 || to < 0) return undefined;
  const v = [0, 1, 2].map((c) => positions[to * 3 + c] - positions[from * 3 + c]);
  const { x, y } = project(partsOf(v, body), plane);
  // A segment that points at who looks on has no direction in this plane.
  if (Math.hypot(x, y) < 0.08 * Math.hypot(...v)) return undefined;
  return (Math.atan2(y, x) * 180) / Math.PI;
}

function angleAt(event: PointerEvent): number {
  const box = (event.currentTarget as Element).getBoundingClientRect();
  return (Math.atan2(-(event.clientY - box.top - box.height / 2), event.clientX - box.left - box.width / 2) * 180) / Math.PI;
}

/** `left.upperArm` as `L upper arm`. */
export function shortName(role: Role): string {
  const name = role.replace(/^left\./, 'L ').replace(/^right\./, 'R ');
  return name.replace(/([A-Z])/g, (letter, _, at: number) => (at < 2 ? letter : ` ${letter.toLowerCase()}`)).replace(/\.(\d)/, ' $1');
}
