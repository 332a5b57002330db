import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { Cell, Grid } from './grid';

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
            <th scope="col"><span class="dot" aria-hidden="true"></span>{{ character.name }}</th>
          }
        </tr>
      </thead>
      <tbody>
        @for (row of grid().rows; track row.take) {
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
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
    }
    table {
      border-collapse: separate;
      border-spacing: 3px;
    }
    th {
      padding: 2px 8px 2px 2px;
      font-weight: 500;
      text-align: left;
      white-space: nowrap;
      background: var(--hs-paper, #fbf9f4);
    }
    thead th {
      position: sticky;
      top: 0;
      z-index: 1;
      font-weight: 600;
    }
    tbody th {
      position: sticky;
      left: 0;
    }
    .dot {
      display: inline-block;
      width: 9px;
      height: 9px;
      margin-right: 6px;
      border: 2px solid var(--hs-character);
      border-radius: 50%;
    }
    .cell {
      display: flex;
      gap: 6px;
      align-items: flex-end;
      width: 100px;
      height: 28px;
      padding: 3px 6px 4px;
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
  readonly grid = input.required<Grid>();
  /** The item that is looked at. */
  readonly chosen = input<string | undefined>();
  readonly picked = output<Cell>();
  readonly opened = output<Cell>();
  protected readonly glyphs = GLYPHS;

  protected labelOf({ item, words, better }: Cell): string {
    const change = better === undefined || better === 0 ? '' : better > 0 ? ', better than before' : ', worse than before';
    const review = item.review === 'none' ? '' : `, ${item.review === 'accepted' ? 'accepted' : 'sent back'}`;
    return `${item.takeName} on ${item.characterName}: ${words}${review}${change}`;
  }
}
