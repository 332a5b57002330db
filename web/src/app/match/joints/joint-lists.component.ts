import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { Party } from '../../body/bodies.store';
import type { JointedBody, JointsView } from '../../body/messages';
import { RovingDirective } from '../../shared/roving.directive';
import { JointsStore } from './joints.store';
import { REASONS } from './words';

/** Height of a line, pixels. */
const LINE = 24;

interface Row {
  readonly joint: number;
  readonly name: string;
  readonly indent: number;
  /** Joints that it is paired with; empty for one that is left over. */
  readonly partners: number;
  readonly isLeftOver: boolean;
  /** Takes no part: outside the branch that is carried. */
  readonly isOut: boolean;
  readonly isClash: boolean;
  readonly title: string;
}

/** Both rigs as lists of joints, one beside the other, with a line for each pair. */
@Component({
  selector: 'hs-joint-lists',
  imports: [RovingDirective],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="lists">
      @for (side of sides(); track side.party) {
        <ol [attr.aria-label]="'Joints of the ' + side.party" [class.theirs]="side.party === 'performer'" hsRoving="button">
          @for (row of side.rows; track row.joint) {
            <li>
              <button
                type="button"
                [class.over]="row.isLeftOver"
                [class.out]="row.isOut"
                [attr.aria-pressed]="row.joint === chosen()[side.party]"
                [title]="row.title"
                [style.padding-left.px]="6 + row.indent"
                (click)="store.choose(side.party, row.joint)"
                (dblclick)="pairOf(side.party)"
              >
                <span class="name">{{ row.name }}</span>
                @if (row.isClash) {
                  <i class="bi bi-exclamation-triangle-fill caution" title="Another joint has this name" aria-label="name clash"></i>
                }
                @if (row.isLeftOver) {
                  <span class="mark">left over</span>
                }
                @if (row.partners > 1) {
                  <span class="mark">{{ row.partners }} drive it</span>
                }
              </button>
            </li>
          }
        </ol>
        @if (side.party === 'performer') {
          <svg
            aria-hidden="true"
            [attr.height]="height()"
            viewBox="0 0 100 1"
            preserveAspectRatio="none"
            [attr.viewBox]="'0 0 100 ' + height()"
          >
            @for (line of lines(); track $index) {
              <path
                [attr.d]="line.path"
                [class]="line.why"
                [class.chosen]="line.target === chosen().character"
                vector-effect="non-scaling-stroke"
              />
            }
          </svg>
        }
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
      background: var(--hs-sheet);
    }
    .lists {
      display: grid;
      grid-template-columns: minmax(150px, 1fr) 76px minmax(150px, 1fr);
      align-items: start;
      padding: 6px 8px;
    }
    ol {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      height: 24px;
    }
    button {
      display: flex;
      gap: 6px;
      align-items: center;
      width: 100%;
      height: 22px;
      padding-right: 6px;
      border: 1px solid transparent;
      border-radius: 3px;
      background: none;
      color: var(--hs-ink);
      font-size: 12.5px;
      text-align: left;
    }
    button:hover {
      border-color: var(--hs-rule);
    }
    button[aria-pressed='true'] {
      border-color: var(--hs-character);
      background: color-mix(in srgb, var(--hs-character) 16%, transparent);
    }
    .theirs button[aria-pressed='true'] {
      border-color: var(--hs-performer);
      background: color-mix(in srgb, var(--hs-performer) 16%, transparent);
    }
    .name {
      flex: 1;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .over .name {
      font-style: italic;
    }
    .out {
      color: var(--hs-ink-soft);
    }
    .mark {
      flex: none;
      color: var(--hs-ink-soft);
      font-size: 11.5px;
    }
    svg {
      width: 100%;
    }
    path {
      fill: none;
      stroke: var(--hs-ink-soft);
      stroke-width: 1.4;
    }
    .hand {
      stroke: var(--hs-ink);
      stroke-width: 2.2;
    }
    .shape {
      stroke-dasharray: 5 3;
    }
    .order {
      stroke-dasharray: 1.5 3;
    }
    .chosen {
      stroke: var(--hs-act);
      stroke-width: 3;
    }
  `,
})
export class JointListsComponent {
  protected readonly store = inject(JointsStore);
  readonly view = input.required<JointsView>();
  protected readonly chosen = toSignal(this.store.chosen$, { requireSync: true });

  protected readonly sides = computed(() => {
    const { performer, character, map } = this.view();
    const drives = new Map<number, string[]>();
    const driven = new Map<number, { names: string[]; why: string }>();
    for (const { target, sources, why } of map.pairs) {
      driven.set(target, { names: sources.map(({ joint }) => performer.names[joint]), why: REASONS[why] });
      for (const { joint } of sources) drives.set(joint, [...(drives.get(joint) ?? []), character.names[target]]);
    }
    const clashing = (of: Party): Set<number> => new Set(map.clashes.filter((clash) => clash.of === of).flatMap(({ joints }) => joints));
    const rows = (party: Party, body: JointedBody): Row[] => {
      const over = new Set(map.leftOver[party]);
      const clashes = clashing(party);
      return body.names.map((name, joint) => {
        const partners = party === 'performer' ? (drives.get(joint) ?? []) : (driven.get(joint)?.names ?? []);
        const why = party === 'character' ? driven.get(joint)?.why : undefined;
        const title =
          partners.length === 0
            ? `${name}: left over`
            : party === 'performer'
              ? `${name} drives ${partners.join(', ')}`
              : `${name}: ${partners.join(', ')}, ${why}`;
        return {
          joint,
          name,
          indent: Math.min(body.depths[joint], 8) * 8,
          partners: partners.length,
          isLeftOver: over.has(joint),
          isOut: party === 'character' && map.taking[joint] === 0,
          isClash: clashes.has(joint),
          title,
        };
      });
    };
    return [
      { party: 'performer' as const, rows: rows('performer', performer) },
      { party: 'character' as const, rows: rows('character', character) },
    ];
  });
  protected readonly height = computed(() => Math.max(...this.sides().map(({ rows }) => rows.length)) * LINE);
  protected readonly lines = computed(() =>
    this.view().map.pairs.flatMap(({ target, sources, why }) =>
      sources.map(({ joint }) => {
        const [a, b] = [joint, target].map((row) => row * LINE + LINE / 2 - 1);
        return { target, why, path: `M0 ${a} C45 ${a} 55 ${b} 100 ${b}` };
      }),
    ),
  );

  /** A double press on a joint of the performer pairs it with the chosen one. */
  protected pairOf(party: Party): void {
    if (party === 'performer') this.store.pair();
  }
}
