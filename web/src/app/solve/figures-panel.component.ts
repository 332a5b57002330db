import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { LIMITS, limitText, type Figure, type FigureId, type Limit, type Mark, valueText, worstFirst } from '@hollow-stride/core';
import type { Solved } from '../solver/messages';
import { PlaybackService } from '../timeline/playback.service';

interface Row {
  readonly figure: Figure;
  readonly before: string;
  readonly after: string;
  readonly title: string;
  readonly limit: string;
}

const MARKS: Readonly<Record<Mark, { readonly icon: string; readonly says: string }>> = {
  good: { icon: 'bi-check2', says: 'good' },
  caution: { icon: 'bi-exclamation-triangle-fill', says: 'look at it' },
  fault: { icon: 'bi-x-circle-fill', says: 'fault' },
  unseen: { icon: 'bi-dash', says: 'not seen' },
};

const REMEMBERED = 'hollow-stride.figures.all';
/** Looked at first, good or not. */
const FIRST: ReadonlySet<FigureId> = new Set([
  'held.feet',
  'held.hands',
  'meet',
  'slide',
  'sink',
  'knees',
  'likeness.arms',
  'joints.turns',
  'joints.places',
  'joints.sizes',
  'joints.left',
  'face.shapes',
  'face.joints',
]);

/** The judge's figures, worst first, before (plain transfer, or a compared version) and after (held); a row leads to its worst frame. */
@Component({
  selector: 'hs-figures-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <table>
      <thead>
        <tr>
          <th scope="col">figure</th>
          <th scope="col" class="n beside" [title]="other()?.name ?? 'plain, nothing held'">{{ other()?.name ?? 'before' }}</th>
          <th scope="col" class="n">{{ other() ? 'this' : 'after' }}</th>
          <th scope="col"><span class="visually-hidden">verdict</span></th>
        </tr>
      </thead>
      <tbody>
        @for (row of rows(); track row.figure.id) {
          <tr [class.bad]="row.figure.mark === 'fault' || row.figure.mark === 'caution'">
            <th scope="row">
              @if (row.figure.frame !== undefined) {
                <button type="button" (click)="go(row.figure.frame)" [title]="row.title + '. Go to frame ' + (row.figure.frame + 1)">
                  {{ row.figure.name }}
                </button>
              } @else {
                <span [title]="row.title">{{ row.figure.name }}</span>
              }
            </th>
            <td class="n num soft">{{ row.before }}</td>
            <td class="n num">
              <b>{{ row.after }}</b>
            </td>
            <td class="v">
              <i [class]="'bi ' + marks[row.figure.mark].icon + ' ' + row.figure.mark" aria-hidden="true"></i>
              <span class="visually-hidden">{{ marks[row.figure.mark].says }}</span>
            </td>
          </tr>
          @if (row.figure.mark === 'fault' || row.figure.mark === 'caution') {
            <tr class="words">
              <td colspan="4">
                {{ row.figure.words }}; {{ row.limit }}
                @if (mends()) {
                  <button type="button" [attr.aria-label]="'Mend ' + row.figure.name" (click)="mend.emit(row.figure)">mend</button>
                }
              </td>
            </tr>
          }
        }
      </tbody>
    </table>
    <button type="button" class="all" [attr.aria-expanded]="all()" (click)="toggle()">
      {{ all() ? 'fewer figures' : 'all ' + count() + ' figures' }}
    </button>
  `,
  styles: `
    .all {
      margin-top: 4px;
      font-size: 12.5px;
    }
    table {
      width: 100%;
      border-collapse: collapse;
    }
    th {
      font-weight: 400;
      text-align: left;
      padding: 2px 0;
    }
    thead th {
      white-space: nowrap;
      color: var(--hs-ink-soft);
      font-size: 12px;
      border-bottom: 1px solid var(--hs-rule);
    }
    .bad th {
      padding-top: 5px;
    }
    .words td {
      padding: 0 0 5px;
      font-size: 12.5px;
      line-height: 1.35;
      color: var(--hs-ink-soft);
      border-bottom: 1px solid var(--hs-rule);
    }
    .n {
      text-align: right;
      padding-left: 6px;
      white-space: nowrap;
    }
    .beside {
      max-width: 84px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .v {
      width: 24px;
      padding-left: 5px;
      text-align: right;
    }
    .good {
      color: var(--hs-act);
    }
    .unseen {
      color: var(--hs-ink-soft);
    }
    button {
      border: 0;
      padding: 0;
      background: none;
      color: inherit;
      text-align: start;
      text-decoration: underline dotted;
      text-underline-offset: 3px;
    }
    button:hover {
      color: var(--hs-act);
    }
  `,
})
export class FiguresPanelComponent {
  readonly solved = input.required<Solved>();
  /** A version that is compared, in the place of the plain transfer. */
  readonly other = input<{ readonly name: string; readonly figures: readonly Figure[] } | undefined>();
  /** Each figure over its limits offers to be mended. */
  readonly mends = input(false);
  readonly mend = output<Figure>();
  private readonly playback = inject(PlaybackService);
  protected readonly marks = MARKS;
  /** All figures are shown, or those that are over a limit and the few that are looked at first. */
  protected readonly all = signal(localStorage.getItem(REMEMBERED) === '1');
  protected readonly count = computed(() => this.solved().report.verdict.figures.length);
  protected readonly rows = computed((): Row[] => {
    const { verdict, plain } = this.solved().report;
    const before = new Map((this.other()?.figures ?? plain?.figures)?.map((figure) => [figure.id, figure]));
    const shown = worstFirst(verdict.figures).filter(
      ({ id, mark }) => this.all() || FIRST.has(id) || mark === 'fault' || mark === 'caution',
    );
    return shown.map((figure) => {
      const was = before.get(figure.id);
      return {
        figure,
        before: was ? valueText(was) : '–',
        after: valueText(figure),
        title: titleOf(figure),
        limit: limitText(figure.id, figure.limit),
      };
    });
  });

  protected toggle(): void {
    this.all.update((all) => !all);
    localStorage.setItem(REMEMBERED, this.all() ? '1' : '0');
  }

  protected go(frame: number): void {
    this.playback.pause();
    this.playback.seek(frame);
  }
}

/** Tooltip: the measure, its value, how much was looked at, and the limits. */
function titleOf({ id, words, looked, limit }: Figure): string {
  const { what, why } = LIMITS[id] as Limit;
  return `${what}: ${words}. Looked at ${looked}. ${limitText(id, limit)}: ${why}`;
}
