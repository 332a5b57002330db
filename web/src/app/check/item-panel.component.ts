import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import type { FigureJson, ItemWhole, ProductionLimits, RunItemJson } from '@hollow-stride/contract';
import { LIMITS, limitText, pictureShape, textOf, withLimits, type Mark } from '@hollow-stride/core';
import { catchError, distinctUntilChanged, map, of, switchMap } from 'rxjs';
import { RunsApiService } from '../runs/runs-api.service';
import { RunsStore } from '../runs/runs.store';
import { worstFrameOf } from './grid';

interface Row {
  readonly figure: FigureJson;
  readonly mark: Mark;
  readonly title: string;
  readonly value: string;
  readonly plain: string;
}

const RANK: Readonly<Record<Mark, number>> = { fault: 0, caution: 1, unseen: 2, good: 3 };
const ICONS: Readonly<Record<Mark, string>> = {
  good: 'bi-check2 good',
  caution: 'bi-exclamation-triangle-fill caution',
  fault: 'bi-x-circle-fill fault',
  unseen: 'bi-dash',
};

/** One transfer of a run: its figures, its worst frames, the way to them, and what a person says of it. */
@Component({
  selector: 'hs-item-panel',
  imports: [AsyncPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let one = item();
    <h2>{{ one.takeName }} <span class="soft">on</span> {{ one.characterName }}</h2>
    @if (one.fault; as fault) {
      <p class="fault" role="alert"><i class="bi bi-x-circle-fill" aria-hidden="true"></i> {{ fault.message }}</p>
    }
    @if (one.summary) {
      <div class="acts">
        <button type="button" class="btn btn-sm btn-primary" (click)="opened.emit(worst())">
          Open at the worst frame, {{ worst() + 1 }}
        </button>
        <a class="btn btn-sm btn-plain" [href]="'/api/runs/items/' + one.id + '/file'" download>{{ one.format?.toUpperCase() }}</a>
      </div>
      <div class="acts" role="group" aria-label="Review">
        <button
          type="button"
          class="btn btn-quiet"
          [class.on]="one.review === 'accepted'"
          [attr.aria-pressed]="one.review === 'accepted'"
          (click)="review('accepted')"
        >
          <i class="bi bi-check2-circle" aria-hidden="true"></i> accept
        </button>
        <button
          type="button"
          class="btn btn-quiet"
          [class.on]="one.review === 'returned'"
          [attr.aria-pressed]="one.review === 'returned'"
          (click)="review('returned')"
        >
          <i class="bi bi-arrow-return-left" aria-hidden="true"></i> send back
        </button>
      </div>
      <textarea
        class="form-control form-control-sm"
        rows="2"
        maxlength="2000"
        aria-label="Note"
        placeholder="note"
        [value]="one.note"
        (change)="note($event)"
      ></textarea>
      @if (one.reduced; as reduced) {
        <p class="soft small">{{ (reduced.share * 100).toFixed(0) }} % of the keys left, {{ reduced.worst.toFixed(2) }} mm off at most.</p>
      }
    }
    @if (whole$ | async; as whole) {
      @if (whole.report; as report) {
        <table>
          <thead>
            <tr>
              <th scope="col">figure</th>
              <th scope="col" class="n">plain</th>
              <th scope="col" class="n">this</th>
              <th scope="col"><span class="visually-hidden">verdict</span></th>
            </tr>
          </thead>
          <tbody>
            @for (row of rows(whole); track row.figure.id) {
              <tr>
                <th scope="row">
                  @if (row.figure.frame !== null) {
                    <button type="button" class="link" [title]="row.title" (click)="opened.emit(row.figure.frame)">
                      {{ row.figure.name }}
                    </button>
                  } @else {
                    <span [title]="row.title">{{ row.figure.name }}</span>
                  }
                </th>
                <td class="n num soft">{{ row.plain }}</td>
                <td class="n num">
                  <b>{{ row.value }}</b>
                </td>
                <td>
                  <i [class]="'bi ' + icons[row.mark]" aria-hidden="true"></i><span class="visually-hidden">{{ row.mark }}</span>
                </td>
              </tr>
            }
          </tbody>
        </table>
        @for (picture of report.looked?.pictures ?? []; track picture.frame) {
          <button
            type="button"
            class="picture"
            [attr.aria-label]="'Open at frame ' + (picture.frame + 1)"
            (click)="opened.emit(picture.frame)"
          >
            @let shape = drawn(picture);
            <svg [attr.viewBox]="shape.viewBox" [attr.width]="shape.width" [attr.height]="shape.height" aria-hidden="true">
              <path class="theirs" [attr.d]="shape.theirs" />
              <path class="mine" [attr.d]="shape.mine" />
            </svg>
            <span class="soft">{{ picture.figure }}, frame {{ picture.frame + 1 }}: from the front and the side</span>
          </button>
        }
      }
    }
  `,
  styles: `
    :host {
      display: block;
      padding: 10px 12px;
      font-size: 12.5px;
    }
    h2 {
      font-size: 15px;
    }
    .acts {
      display: flex;
      gap: 6px;
      margin-bottom: 6px;
    }
    .on {
      font-weight: 600;
      box-shadow: inset 0 -2px 0 var(--hs-act);
    }
    .picture {
      display: block;
      width: 100%;
      margin: 6px 0;
      padding: 0;
      border: 0;
      background: none;
      text-align: left;
    }
    svg {
      max-width: 100%;
    }
    path {
      fill: none;
      stroke: var(--hs-performer);
      stroke-width: 16;
    }
    .mine {
      stroke: var(--hs-character);
      stroke-dasharray: 50 16;
    }
    table {
      width: 100%;
      margin-top: 6px;
    }
    th {
      padding: 1px 0;
      font-weight: 400;
      text-align: left;
    }
    .n {
      padding-left: 6px;
      text-align: right;
      white-space: nowrap;
    }
    .link {
      padding: 0;
      border: 0;
      background: none;
      color: inherit;
      text-align: start;
      text-decoration: underline dotted;
      text-underline-offset: 3px;
    }
    .good {
      color: var(--hs-act);
    }
  `,
})
export class ItemPanelComponent {
  readonly item = input.required<RunItemJson>();
  readonly limits = input<ProductionLimits>({});
  /** A frame to be opened in Solve. */
  readonly opened = output<number>();
  private readonly api = inject(RunsApiService);
  private readonly runs = inject(RunsStore);
  protected readonly icons = ICONS;
  protected readonly worst = computed(() => worstFrameOf(this.item(), this.limits()));
  protected readonly whole$ = toObservable(this.item).pipe(
    map(({ id, state }) => ({ id, state })),
    distinctUntilChanged((a, b) => a.id === b.id && a.state === b.state),
    switchMap(({ id, state }) => (state === 'done' ? this.api.runItem(id).pipe(catchError(() => of(undefined))) : of(undefined))),
  );

  protected rows({ report }: ItemWhole): Row[] {
    const plain = new Map(report?.plain.map((figure) => [figure.id, figure]));
    return withLimits(report?.figures ?? [], this.limits())
      .map((figure): Row => {
        const before = plain.get(figure.id);
        return {
          figure,
          mark: figure.mark,
          title: `${figure.words}; ${limitText(figure.id, figure.limit)}`,
          value: textOf(figure),
          plain: before ? textOf(before) : '–',
        };
      })
      .sort((a, b) => RANK[a.mark] - RANK[b.mark] || LIMITS[a.figure.id].name.localeCompare(LIMITS[b.figure.id].name));
  }

  protected readonly drawn = pictureShape;

  protected review(to: 'accepted' | 'returned'): void {
    const one = this.item();
    this.runs.review(one, { review: one.review === to ? 'none' : to });
  }

  protected note(event: Event): void {
    this.runs.review(this.item(), { note: (event.target as HTMLTextAreaElement).value });
  }
}
