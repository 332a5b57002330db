import { ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, viewChild } from '@angular/core';
import type { Role } from '@hollow-stride/core';
import type { MatchBody, MatchView, PoseData } from '../body/messages';
import { layLimbs } from './laid';
import { partsOf, project, type Plane, type Spot } from './plane';
import { arrowDegrees, TurnDrag } from './turning';

interface Line {
  readonly a: Spot;
  readonly b: Spot;
  readonly right: boolean;
}

const SIZE = 100;

/** Performer and character at rest laid over each other in one plane; the chosen segment has a handle. */
@Component({
  selector: 'hs-pose-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg #picture [attr.viewBox]="box()" preserveAspectRatio="xMidYMid meet" role="group" [attr.aria-label]="plane() + ' view'">
      @if (plane() !== 'top') {
        <line class="floor" [attr.x1]="-90" [attr.x2]="90" y1="0" y2="0" />
      }
      @for (line of drawing().performer; track $index) {
        <line
          class="performer"
          [class.right]="line.right"
          [attr.x1]="line.a.x"
          [attr.y1]="line.a.y"
          [attr.x2]="line.b.x"
          [attr.y2]="line.b.y"
        />
      }
      @for (line of drawing().character; track $index) {
        <line
          class="character"
          [class.right]="line.right"
          [attr.x1]="line.a.x"
          [attr.y1]="line.a.y"
          [attr.x2]="line.b.x"
          [attr.y2]="line.b.y"
        />
      }
      @for (segment of drawing().segments; track segment.role) {
        <line
          class="grip"
          [class.chosen]="segment.role === chosen()"
          [attr.x1]="segment.a.x"
          [attr.y1]="segment.a.y"
          [attr.x2]="segment.b.x"
          [attr.y2]="segment.b.y"
          (pointerdown)="choose.emit(segment.role)"
        >
          <title>{{ segment.role }}</title>
        </line>
      }
      @if (handle(); as h) {
        <circle
          class="handle"
          [attr.cx]="h.b.x"
          [attr.cy]="h.b.y"
          r="3.4"
          tabindex="0"
          role="slider"
          [attr.aria-label]="'turn ' + chosen() + ' in the ' + plane() + ' view'"
          [attr.aria-valuenow]="0"
          aria-valuetext="arrow keys turn by a degree, with Shift by ten"
          (pointerdown)="drag.start($event, angleAt($event))"
          (pointermove)="move($event)"
          (pointerup)="drag.end($event)"
          (keydown)="key($event)"
        />
      }
    </svg>
    <span class="name">{{ plane() }}</span>
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      min-width: 0;
      min-height: 0;
      background: var(--hs-sheet);
    }
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
      touch-action: none;
    }
    .name {
      position: absolute;
      left: 8px;
      top: 4px;
      font-size: 12px;
      color: var(--hs-ink-soft);
      pointer-events: none;
    }
    line {
      stroke-linecap: round;
      pointer-events: none;
    }
    .floor {
      stroke: var(--hs-rule);
      stroke-width: 0.6;
    }
    .performer {
      stroke: var(--hs-performer);
      stroke-width: 2.6;
      opacity: 0.55;
    }
    .character {
      stroke: var(--hs-character);
      stroke-width: 1.1;
    }
    .right {
      stroke-dasharray: 2.4 2.2;
    }
    .grip {
      stroke: transparent;
      stroke-width: 6;
      pointer-events: stroke;
      cursor: pointer;
    }
    .grip:hover {
      stroke: rgb(14 106 100 / 18%);
    }
    .grip.chosen {
      stroke: rgb(14 106 100 / 24%);
    }
    .handle {
      fill: var(--hs-sheet);
      stroke: var(--hs-act);
      stroke-width: 1.4;
      cursor: grab;
    }
    .handle:focus-visible {
      outline: 2px solid var(--hs-act);
    }
  `,
})
export class PoseViewComponent {
  readonly view = input.required<MatchView>();
  readonly plane = input.required<Plane>();
  readonly chosen = input<Role | undefined>();
  /** Limb on limb, root to root and of one length, in place of body on body. */
  readonly byLimb = input(false);
  readonly choose = output<Role>();
  /** Turn of the chosen segment, degrees counter-clockwise as drawn. */
  readonly turned = output<number>();
  private readonly picture = viewChild.required<ElementRef<SVGSVGElement>>('picture');
  protected readonly drag = new TurnDrag();

  protected readonly box = computed(() => (this.plane() === 'top' ? `-78 -40 156 80` : `-78 -110 156 116`));

  protected readonly drawing = computed(() => {
    const { performer, character, matched, scale, segments } = this.view();
    const plane = this.plane();
    const unit = SIZE / Math.max(character.height, performer.height * scale.lift, 1e-6);
    const a = spots(performer, performer.rest, plane, unit * scale.lift);
    const b = spots(character, matched, plane, unit);
    const laid = this.byLimb()
      ? layLimbs(performer, character, { performer: performer.rest, character: matched }, a, b, scale.lift)
      : undefined;
    return {
      performer: linesOf(performer, laid?.spots ?? a, laid?.limb),
      character: linesOf(character, b),
      segments: segments
        .filter(({ character: [joint, end] }) => joint >= 0 && end >= 0)
        .map(({ role, character: [joint, end] }) => ({ role, a: b[joint], b: b[end] })),
    };
  });

  protected readonly handle = computed(() => this.drawing().segments.find(({ role }) => role === this.chosen()));

  protected move(event: PointerEvent): void {
    const by = this.drag.by(this.angleAt(event));
    if (by !== 0) this.turned.emit(by);
  }

  protected key(event: KeyboardEvent): void {
    const by = arrowDegrees(event);
    if (by === 0) return;
    event.preventDefault();
    event.stopPropagation();
    this.turned.emit(by);
  }

  /** Degrees, counter-clockwise, of the pointer about the segment's joint. */
  protected angleAt(event: PointerEvent): number {
    const svg = this.picture().nativeElement;
    const matrix = svg.getScreenCTM();
    const h = this.handle();
    if (!matrix || !h) return 0;
    const spot = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    return (Math.atan2(-(spot.y - h.a.y), spot.x - h.a.x) * 180) / Math.PI;
  }
}

/** Where each joint is drawn: hips' ground point at the middle, SVG's y down. */
function spots(body: MatchBody, pose: PoseData, plane: Plane, unit: number): Spot[] {
  const { skeleton, hips } = body.display;
  const low = lowest(pose);
  const origin = [pose.positions[hips * 3], plane === 'top' ? pose.positions[hips * 3 + 1] : low, pose.positions[hips * 3 + 2]];
  return skeleton.names.map((_, j) => {
    const v = [0, 1, 2].map((c) => (pose.positions[j * 3 + c] - origin[c]) * unit);
    const { x, y } = project(partsOf(v, body), plane);
    return { x, y: -y };
  });
}

function lowest({ positions }: PoseData): number {
  let low = Infinity;
  for (let i = 1; i < positions.length; i += 3) low = Math.min(low, positions[i]);
  return low;
}

/** Bones of the labelled body: what hangs on no label (props, helpers) is left out. */
function linesOf({ display, roles }: MatchBody, at: readonly Spot[], limb?: Int32Array): Line[] {
  const { parents } = display.skeleton;
  const wanted = new Uint8Array(parents.length);
  const right = new Uint8Array(parents.length);
  for (const [role, joint] of Object.entries(roles)) {
    for (let j = joint; j >= 0; j = parents[j]) wanted[j] = 1;
    if (role.startsWith('right.')) right[joint] = 1;
  }
  const lines: Line[] = [];
  parents.forEach((parent, j) => {
    if (parent < 0 || !wanted[j] || roles['ground'] === parent || (parents[parent] < 0 && j === display.hips)) return;
    if (right[parent]) right[j] = 1;
    if (limb && limb[parent] !== limb[j]) return;
    lines.push({ a: at[parent], b: at[j], right: right[j] === 1 });
  });
  return lines;
}
