import { ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, viewChild } from '@angular/core';
import { rungAt, type Ladder, type LadderRung, type Role, type Rung } from '@hollow-stride/core';

const WIDTH = 300;
const EDGE = 12;
const HEIGHT = 78;
const TOP = 22;
const BOTTOM = 56;

/** One chain of both bodies: performer above, character below, a rung for each joint that is driven. */
@Component({
  selector: 'hs-ladder',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span class="title">{{ title() }}</span>
    <svg #picture [attr.viewBox]="'0 0 ' + width + ' ' + height" role="group" [attr.aria-label]="'ladder of ' + title()">
      <line
        class="rail performer"
        [attr.x1]="edge"
        [attr.x2]="width - edge"
        [attr.y1]="top"
        [attr.y2]="top"
        [class.none]="ladder().performer.length === 0"
      />
      <line
        class="rail character"
        [attr.x1]="edge"
        [attr.x2]="width - edge"
        [attr.y1]="bottom"
        [attr.y2]="bottom"
        [class.none]="ladder().character.length === 0"
      />
      @for (rung of rungs(); track rung.role) {
        <line class="rung" [class.by-hand]="rung.byHand" [attr.x1]="rung.above" [attr.y1]="top" [attr.x2]="rung.below" [attr.y2]="bottom" />
      }
      @for (joint of above(); track joint.joint) {
        <circle class="joint performer" [class.solid]="solid()" [attr.cx]="joint.x" [attr.cy]="top" r="4.5">
          <title>{{ joint.name }}: {{ joint.role }}</title>
        </circle>
        <text class="joint-name" aria-hidden="true" [attr.x]="joint.x" [attr.y]="top - 8 - ($index % 2) * 7">{{ joint.name }}</text>
      }
      @for (joint of below(); track joint.joint) {
        <circle
          class="joint character"
          [class.solid]="solid()"
          [class.loose]="joint.loose"
          [attr.cx]="joint.x"
          [attr.cy]="bottom"
          r="4.5"
          [attr.tabindex]="joint.loose ? 0 : null"
          [attr.role]="joint.loose ? 'button' : null"
          [attr.aria-label]="joint.loose ? 'add a rung to ' + joint.role + ', which keeps its rest' : null"
          (click)="add(joint)"
          (keydown.enter)="add(joint)"
        >
          <title>{{ joint.name }}: {{ joint.role }}{{ joint.loose ? ', keeps its rest; press to add a rung' : '' }}</title>
        </circle>
        <text class="joint-name" aria-hidden="true" [attr.x]="joint.x" [attr.y]="bottom + 13 + ($index % 2) * 7">{{ joint.name }}</text>
      }
      @for (rung of rungs(); track rung.role) {
        <circle
          class="grip"
          [attr.cx]="rung.above"
          [attr.cy]="top"
          r="8"
          tabindex="0"
          role="slider"
          [attr.aria-label]="'rung of ' + rung.role"
          aria-valuemin="0"
          aria-valuemax="100"
          [attr.aria-valuenow]="(rung.place * 100).toFixed(0)"
          [attr.aria-valuetext]="says(rung)"
          (pointerdown)="down($event, rung)"
          (pointermove)="move($event)"
          (pointerup)="up($event)"
          (keydown)="key($event, rung)"
          (dblclick)="changed.emit({ role: rung.role, rung: undefined })"
        >
          <title>{{ says(rung) }}. Drag to move, Delete cuts, double click links automatically</title>
        </circle>
      }
    </svg>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 6px;
    }
    .title {
      flex: none;
      width: 74px;
      font-size: 12px;
      color: var(--hs-ink-soft);
    }
    svg {
      flex: 1;
      min-width: 0;
      height: 74px;
      /* Names at the ends reach beyond the rails. */
      overflow: visible;
      touch-action: none;
    }
    .rail {
      stroke-width: 1.5;
      opacity: 0.6;
    }
    .none {
      stroke-dasharray: 2 4;
    }
    .performer {
      stroke: var(--hs-performer);
    }
    .character {
      stroke: var(--hs-character);
    }
    .joint {
      fill: var(--hs-paper);
      stroke-width: 2;
    }
    .performer.solid {
      fill: var(--hs-performer);
    }
    .character.solid {
      fill: var(--hs-character);
    }
    .character.loose {
      fill: var(--hs-paper);
      stroke-dasharray: 2 1.6;
      cursor: pointer;
    }
    .joint-name {
      font-size: 7.5px;
      fill: var(--hs-ink-soft);
      text-anchor: middle;
    }
    .rung {
      stroke: var(--hs-ink-soft);
      stroke-width: 1.2;
    }
    .rung.by-hand {
      stroke: var(--hs-act);
      stroke-width: 2;
    }
    .grip {
      fill: transparent;
      cursor: grab;
    }
    .grip:hover {
      fill: rgb(14 106 100 / 18%);
    }
    .grip:focus-visible,
    .joint:focus-visible {
      outline: 2px solid var(--hs-act);
    }
  `,
})
export class LadderComponent {
  readonly ladder = input.required<Ladder>();
  readonly changed = output<{ role: Role; rung: Rung | undefined; drag?: boolean }>();
  protected readonly width = WIDTH;
  protected readonly height = HEIGHT;
  protected readonly edge = EDGE;
  protected readonly top = TOP;
  protected readonly bottom = BOTTOM;
  private readonly picture = viewChild.required<ElementRef<SVGSVGElement>>('picture');
  private dragged: Role | undefined;

  protected readonly title = computed(() =>
    this.ladder()
      .chain.replace(/^extra\./, '')
      .replace('.', ' '),
  );
  protected readonly solid = computed(() => !this.ladder().chain.startsWith('right.'));
  protected readonly above = computed(() => this.ladder().performer.map((joint) => ({ ...joint, x: toX(joint.place) })));
  protected readonly below = computed(() =>
    this.ladder().character.map((joint) => ({ ...joint, x: toX(joint.place), loose: this.ladder().loose.includes(joint.role) })),
  );
  protected readonly rungs = computed(() => {
    const places = new Map(this.ladder().character.map(({ role, place }) => [role, place]));
    return this.ladder().rungs.map((rung) => ({ ...rung, above: toX(rung.place), below: toX(places.get(rung.role) ?? 0) }));
  });

  protected says({ role, a, b, t, byHand }: LadderRung): string {
    const from = a === b || t === 0 ? a : `${Math.round(t * 100)} % of the way from ${a} to ${b}`;
    return `${role} is driven by ${from}${byHand ? ', set by hand' : ''}`;
  }

  protected add(joint: { role: Role; place: number; loose: boolean }): void {
    if (!joint.loose) return;
    const rung = rungAt(this.ladder(), joint.place);
    if (rung) this.changed.emit({ role: joint.role, rung });
  }

  protected down(event: PointerEvent, { role }: LadderRung): void {
    (event.target as Element).setPointerCapture(event.pointerId);
    this.dragged = role;
  }

  protected move(event: PointerEvent): void {
    if (this.dragged === undefined || event.buttons === 0) return;
    const matrix = this.picture().nativeElement.getScreenCTM();
    if (!matrix) return;
    const { x } = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    this.place(this.dragged, (x - EDGE) / (WIDTH - 2 * EDGE), true);
  }

  protected up(event: PointerEvent): void {
    this.dragged = undefined;
    (event.target as Element).releasePointerCapture(event.pointerId);
  }

  protected key(event: KeyboardEvent, rung: LadderRung): void {
    const way = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (way !== 0) this.place(rung.role, rung.place + way * (event.shiftKey ? 0.1 : 0.05), false);
    else if (event.key === 'Delete' || event.key === 'Backspace') this.changed.emit({ role: rung.role, rung: null });
    else if (event.key === 'Home') this.changed.emit({ role: rung.role, rung: undefined });
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private place(role: Role, place: number, drag: boolean): void {
    const rung = rungAt(this.ladder(), Math.max(0, Math.min(1, place)), drag ? 0.03 : 0.01);
    if (rung) this.changed.emit({ role, rung, drag });
  }
}

function toX(place: number): number {
  return EDGE + place * (WIDTH - 2 * EDGE);
}
