import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { compareRoles, REQUIRED_ROLES, rolesOfBody, type Role } from '@hollow-stride/core';
import type { BodyView } from '../body/messages';

interface Row {
  readonly role: Role;
  readonly joint: string | undefined;
  readonly needed: boolean;
  readonly sure: number | undefined;
}

/** Doubts about all labels together. */
const DOUBTS: ReadonlySet<string> = new Set(['label/uncertain', 'label/four-legs']);

/** Every role: needed or optional, filled or not, by word and shape; a press makes it the next pick's. */
@Component({
  selector: 'hs-roles-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p class="ready" [class.caution]="missing() > 0">
      <i class="bi" [class.bi-check2]="missing() === 0" [class.bi-exclamation-triangle-fill]="missing() > 0" aria-hidden="true"></i>
      @if (missing() === 0) {
        Ready: all {{ required }} needed roles, {{ optional() }} optional ones.
      } @else {
        Not ready: {{ missing() }} of {{ required }} needed roles missing.
      }
    </p>
    @for (doubt of doubts(); track doubt.code) {
      <p class="ready">
        <i class="bi bi-exclamation-triangle-fill caution" aria-hidden="true"></i>
        {{ doubt.message }}
      </p>
    }
    <ul>
      @for (row of rows(); track row.role) {
        <li [class.armed]="row.role === armed()">
          <button
            type="button"
            class="role"
            (click)="armedRole.emit(row.role)"
            (pointerenter)="pointed.emit(row.role)"
            (pointerleave)="pointed.emit(undefined)"
            (focus)="pointed.emit(row.role)"
            (blur)="pointed.emit(undefined)"
            [attr.aria-pressed]="row.role === armed()"
          >
            <span class="dot" [class.full]="row.joint" [class.needed]="row.needed" aria-hidden="true"></span>
            <span class="of">{{ row.role }}</span>
            @if (row.joint) {
              <span class="joint">{{ row.joint }}</span>
            } @else if (row.needed) {
              <span class="fault">missing</span>
            } @else {
              <span class="soft">optional</span>
            }
            @if (row.sure !== undefined && row.sure < 60) {
              <span class="caution" title="Found with little certainty">{{ row.sure }} %</span>
            }
          </button>
          @if (row.joint) {
            <button
              type="button"
              class="btn-close"
              (click)="removed.emit(row.role)"
              [attr.aria-label]="'Remove the role ' + row.role"
            ></button>
          }
        </li>
      }
    </ul>
  `,
  styles: `
    .ready {
      margin: 0 0 4px;
      font-size: 12.5px;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      display: flex;
      align-items: center;
    }
    .role {
      display: flex;
      flex: 1;
      gap: 7px;
      align-items: center;
      min-width: 0;
      padding: 1px 4px;
      border: 0;
      background: none;
      color: inherit;
      font-size: 12.5px;
      text-align: left;
    }
    .role:hover {
      background: #f3eee2;
    }
    .armed .role {
      box-shadow: inset 3px 0 0 var(--hs-act);
      font-weight: 600;
    }
    .dot {
      flex: none;
      width: 9px;
      height: 9px;
      border: 1.5px solid var(--hs-ink-soft);
      border-radius: 50%;
    }
    .dot.needed {
      border-radius: 1px;
    }
    .dot.full {
      background: var(--hs-ink-soft);
    }
    .of {
      flex: none;
    }
    .joint,
    .soft,
    .fault {
      margin-left: auto;
      text-align: right;
      overflow-wrap: anywhere;
    }
    .joint {
      color: var(--hs-ink-soft);
    }
    .btn-close {
      flex: none;
      font-size: 9px;
      padding: 5px;
    }
  `,
})
export class RolesPanelComponent {
  readonly view = input.required<BodyView>();
  protected readonly doubts = computed(() => this.view().facts.warnings.filter(({ code }) => DOUBTS.has(code)));
  readonly armed = input<Role | undefined>();
  readonly armedRole = output<Role>();
  readonly removed = output<Role>();
  readonly pointed = output<Role | undefined>();
  protected readonly required = REQUIRED_ROLES.length;
  protected readonly missing = computed(() => this.view().missing.length);
  protected readonly optional = computed(() => Object.keys(this.view().roles).length - (REQUIRED_ROLES.length - this.missing()));

  protected readonly rows = computed((): Row[] => {
    const { roles, confidence, display } = this.view();
    const all = new Set<Role>([...rolesOfBody().flatMap((chain) => chain.roles), ...REQUIRED_ROLES, ...Object.keys(roles)]);
    const row = (role: Role): Row => ({
      role,
      joint: role in roles ? display.skeleton.names[roles[role]] : undefined,
      needed: REQUIRED_ROLES.includes(role),
      sure: role in confidence ? Math.round(confidence[role] * 100) : undefined,
    });
    // Missing roles that are needed stand first.
    const missing = [...all].filter((role) => REQUIRED_ROLES.includes(role) && !(role in roles));
    const rest = [...all].filter((role) => !missing.includes(role)).sort(compareRoles);
    return [...missing, ...rest].map(row);
  });
}
