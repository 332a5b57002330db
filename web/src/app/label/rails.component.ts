import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Rail } from '@hollow-stride/core';
import type { BodyView } from '../body/messages';

const WIDTH = 220;
const EDGE = 10;

/** Every chain of a skeleton as a rail, its joints at their distance along it: left solid, right hollow. */
@Component({
  selector: 'hs-rails',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="rails" [class.of-character]="party() === 'character'">
      @for (rail of rows(); track rail.chain) {
        <div class="rail" [class.none]="rail.dots.length === 0">
          <span class="chain">{{ rail.title }}</span>
          <svg [attr.viewBox]="'0 0 ' + width + ' 20'" role="group" [attr.aria-label]="'rail of ' + rail.title">
            <line [attr.x1]="edge" [attr.x2]="width - edge" y1="10" y2="10" [class.dashed]="rail.dots.length === 0" />
            @for (dot of rail.dots; track dot.joint) {
              <circle
                [attr.cx]="dot.x"
                cy="10"
                [attr.r]="dot.role ? 5 : 3"
                [class.solid]="dot.solid"
                [class.unlabelled]="!dot.role"
                [class.chosen]="dot.joint === joint()"
                [class.partner]="dot.joint === partner()"
                tabindex="0"
                role="button"
                [attr.aria-label]="dot.says"
                [attr.aria-pressed]="dot.joint === joint()"
                (click)="picked.emit(dot.joint)"
                (keydown.enter)="picked.emit(dot.joint)"
                (pointerenter)="pointed.emit(dot.joint)"
                (pointerleave)="pointed.emit(-1)"
                (focus)="pointed.emit(dot.joint)"
                (blur)="pointed.emit(-1)"
              >
                <title>{{ dot.says }}</title>
              </circle>
            }
          </svg>
          <span class="short">
            @if (rail.missing > 0) {
              <span class="fault"><i class="bi bi-x-circle-fill" aria-hidden="true"></i> {{ rail.missing }} missing</span>
            }
          </span>
        </div>
      }
    </div>
  `,
  styles: `
    .rails {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(318px, 1fr));
      gap: 0 14px;
      color: var(--hs-performer);
    }
    .rails.of-character {
      color: var(--hs-character);
    }
    .rail {
      display: flex;
      align-items: center;
      height: 22px;
    }
    .chain {
      flex: none;
      width: 78px;
      font-size: 12px;
      color: var(--hs-ink-soft);
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    svg {
      flex: 1;
      min-width: 0;
      height: 20px;
    }
    line {
      stroke: currentColor;
      stroke-width: 1.5;
      opacity: 0.55;
    }
    .dashed {
      stroke-dasharray: 2 4;
    }
    circle {
      fill: var(--hs-paper);
      stroke: currentColor;
      stroke-width: 2;
      cursor: pointer;
    }
    .solid {
      fill: currentColor;
    }
    .unlabelled {
      stroke: var(--hs-ink-soft);
      fill: var(--hs-paper);
      stroke-dasharray: 2 1.5;
    }
    .chosen {
      stroke: var(--hs-act);
      stroke-width: 3.5;
    }
    .partner {
      stroke: var(--hs-act);
    }
    circle:focus-visible {
      outline: 2px solid var(--hs-act);
    }
    .short {
      flex: none;
      width: 76px;
      font-size: 11.5px;
    }
  `,
})
export class RailsComponent {
  readonly view = input.required<BodyView>();
  readonly party = input.required<'performer' | 'character'>();
  readonly joint = input(-1);
  readonly partner = input(-1);
  readonly picked = output<number>();
  readonly pointed = output<number>();
  protected readonly width = WIDTH;
  protected readonly edge = EDGE;

  protected readonly rows = computed(() => {
    const { rails, display } = this.view();
    const shown = (rail: Rail): boolean =>
      rail.joints.length > 0 || rail.missing.length > 0 || !/\.(thumb|index|middle|ring|little)$/.test(rail.chain);
    return rails.filter(shown).map((rail) => ({
      chain: rail.chain,
      title: rail.chain.replace(/^extra\./, '').replace('.', ' '),
      missing: rail.missing.length,
      dots: rail.joints.map(({ joint, role, place }) => ({
        joint,
        role,
        x: EDGE + place * (WIDTH - 2 * EDGE),
        solid: !rail.chain.startsWith('right.'),
        says: `${display.skeleton.names[joint]}: ${role ?? 'no role'}`,
      })),
    }));
  });
}
