import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { NumberComponent } from '../../shared/number.component';
import type { Bar } from './lanes';

/** The bar that is chosen: its ends as numbers, and what can be done with it. */
@Component({
  selector: 'hs-bar-strip',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <b>{{ name() }}</b>
    <hs-number
      name="from"
      [label]="name() + ', first frame'"
      [value]="bar().first + 1"
      [low]="1"
      [high]="bar().last + 1"
      [digits]="0"
      (changed)="resized.emit({ first: whole($event) - 1, last: bar().last })"
    />
    <hs-number
      name="to"
      [label]="name() + ', last frame'"
      [value]="bar().last + 1"
      [low]="bar().first + 1"
      [high]="frames()"
      [digits]="0"
      (changed)="resized.emit({ first: bar().first, last: whole($event) - 1 })"
    />
    <button type="button" class="btn btn-quiet" [disabled]="!canSplit()" (click)="split.emit()" title="Part it at the frame that is shown">
      split
    </button>
    <button type="button" class="btn btn-quiet" [disabled]="!hasNext()" (click)="join.emit()" title="Join it with the next one of its lane">
      join
    </button>
    <button type="button" class="btn btn-quiet" (click)="removed.emit()" title="Remove (Delete)">
      <i class="bi bi-trash3" aria-hidden="true"></i> remove
    </button>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 8px;
      font-size: 12.5px;
    }
    hs-number {
      width: 118px;
    }
  `,
})
export class BarStripComponent {
  readonly name = input.required<string>();
  readonly bar = input.required<Bar>();
  readonly frames = input.required<number>();
  readonly canSplit = input.required<boolean>();
  readonly hasNext = input.required<boolean>();
  readonly resized = output<{ first: number; last: number }>();
  readonly split = output<void>();
  readonly join = output<void>();
  readonly removed = output<void>();

  protected whole(value: number): number {
    return Math.round(value);
  }
}
