import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  input,
  linkedSignal,
  output,
  viewChild,
} from '@angular/core';
import type { Cell, Grid } from './grid';

/** Rows that are drawn, and drawn more, at once. */
const AT_ONCE = 40;
const GLYPHS = { fault: '✕', caution: '!', good: '✓', unseen: '–' } as const;

/** Takes by characters: each cell small bars by figure, what is worst first. */
@Component({
  selector: 'hs-check-grid',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <table>
      <thead>
        <tr>
          <th scope="col"><span class="visually-hidden">take</span></th>
          @for (character of grid().characters; track character.id) {
            <th scope="col">
              <span class="who"><span class="dot" aria-hidden="true"></span>{{ character.name }}</span>
            </th>
          }
        </tr>
      </thead>
      <tbody>
        @for (row of rows(); track row.id) {
          <tr>
            <th scope="row">{{ row.name }}</th>
            @for (cell of row.cells; track $index) {
              <td>
                @if (cell) {
                  <button
                    type="button"
                    [class]="'cell ' + (cell.verdict ?? cell.item.state)"
                    [class.chosen]="cell.item.id === chosen()"
                    [attr.aria-pressed]="cell.item.id === chosen()"
                    [attr.aria-label]="labelOf(cell)"
                    [title]="cell.words"
                    (click)="picked.emit(cell)"
                    (dblclick)="opened.emit(cell)"
                  >
                    @if (cell.bars.length > 0) {
                      <span class="bars" aria-hidden="true">
                        @for (bar of cell.bars; track bar.id) {
                          <i [class]="bar.mark" [style.height.px]="3 + 15 * bar.size" [title]="bar.title"></i>
                        }
                      </span>
                      <b aria-hidden="true">{{ glyphs[cell.verdict ?? 'unseen'] }}</b>
                    } @else {
                      <span class="state">{{ cell.item.state }}</span>
                    }
                    @if (cell.item.review === 'accepted') {
                      <i class="bi bi-check2-circle review" aria-hidden="true"></i>
                    } @else if (cell.item.review === 'returned') {
                      <i class="bi bi-arrow-return-left review" aria-hidden="true"></i>
                    }
                    @if (cell.better !== undefined && cell.better !== 0) {
                      <span class="change" aria-hidden="true">{{ cell.better > 0 ? '▲' : '▼' }}</span>
                    }
                  </button>
                }
              </td>
            }
          </tr>
        }
      </tbody>
    </table>
    @if (rows().length < grid().rows.length) {
      <p #more>
        <button type="button" class="btn btn-sm btn-plain" (click)="showMore()">{{ grid().rows.length - rows().length }} more takes</button>
      </p>
    }
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
    }
    table {
      width: 100%;
      border-collapse: separate;
      border-spacing: 3px;
    }
    th {
      padding: 2px 6px 2px 2px;
      font-weight: 500;
      text-align: left;
      background: var(--hs-paper, #fbf9f4);
    }
    thead th {
      vertical-align: bottom;
      line-height: 1.2;
      position: sticky;
      top: 0;
      z-index: 1;
      font-weight: 600;
    }
    tbody th {
      min-width: 100px;
      position: sticky;
      left: 0;
    }
    .who {
      display: flex;
      align-items: baseline;
    }
    .dot {
      flex: none;
      display: inline-block;
      width: 9px;
      height: 9px;
      margin-right: 5px;
      border: 2px solid var(--hs-character);
      border-radius: 50%;
    }
    .cell {
      display: flex;
      gap: 5px;
      align-items: flex-end;
      width: 100%;
      min-width: 86px;
      height: 28px;
      padding: 3px 5px 4px;
      border: 1px solid var(--hs-rule);
      border-radius: 3px;
      background: var(--hs-sheet);
      color: var(--hs-ink-soft);
    }
    .cell:hover {
      border-color: var(--hs-ink-soft);
    }
    .cell.fault {
      border-left: 4px solid var(--hs-fault);
    }
    .cell.caution {
      border-left: 4px solid var(--hs-caution);
    }
    .cell.chosen {
      outline: 2px solid var(--hs-act);
      outline-offset: 1px;
    }
    .bars {
      display: flex;
      gap: 2px;
      align-items: flex-end;
      height: 18px;
    }
    .bars i {
      width: 6px;
      background: #b9b3a4;
    }
    .bars i.caution {
      background: var(--hs-caution);
    }
    .bars i.fault {
      background: var(--hs-fault);
    }
    .bars i.unseen {
      background: none;
      border-bottom: 1px dotted #b9b3a4;
    }
    b {
      margin-left: auto;
      font-size: 12px;
      line-height: 18px;
    }
    .fault b {
      color: var(--hs-fault);
    }
    .caution b {
      color: var(--hs-caution);
    }
    .good b {
      color: var(--hs-act);
    }
    .state {
      font-size: 12px;
      line-height: 18px;
    }
    .failed .state {
      color: var(--hs-fault);
    }
    .review,
    .change {
      font-size: 11px;
      line-height: 18px;
    }
  `,
})
export class CheckGridComponent {
  private readonly shown = linkedSignal({ source: () => this.grid().rows.length, computation: () => AT_ONCE });
  private readonly more = viewChild<ElementRef<HTMLElement>>('more');
  /** Rows are drawn as they are scrolled to: a run may have thousands of cells. */
  protected readonly rows = computed(() => this.grid().rows.slice(0, this.shown()));
  readonly grid = input.required<Grid>();
  /** The item that is looked at. */
  readonly chosen = input<string | undefined>();
  readonly picked = output<Cell>();
  readonly opened = output<Cell>();
  protected readonly glyphs = GLYPHS;

  constructor() {
    effect((done) => {
      const end = this.more()?.nativeElement;
      // Looked at anew after each part, as an end that stays in sight tells nothing more.
      this.shown();
      if (!end) return;
      const watcher = new IntersectionObserver((seen) => seen.some(({ isIntersecting }) => isIntersecting) && this.showMore());
      watcher.observe(end);
      done(() => watcher.disconnect());
    });
  }

  protected showMore(): void {
    this.shown.update((count) => count + AT_ONCE);
  }

  protected labelOf({ item, words, better }: Cell): string {
    const change = better === undefined || better === 0 ? '' : better > 0 ? ', better than before' : ', worse than before';
    const review = item.review === 'none' ? '' : `, ${item.review === 'accepted' ? 'accepted' : 'sent back'}`;
    return `${item.takeName} on ${item.characterName}: ${words}${review}${change}`;
  }
}
