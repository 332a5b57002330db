import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { LanesView } from './lanes-view';

/** Fewer or more frames in the lanes, and which of them. */
@Component({
  selector: 'hs-lanes-zoom',
  imports: [DecimalPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button type="button" class="btn btn-quiet" (click)="view().zoom(1.5)" title="Fewer frames (turn the wheel)">
      <i class="bi bi-zoom-in" aria-hidden="true"></i><span class="visually-hidden">Fewer frames</span>
    </button>
    <button type="button" class="btn btn-quiet" (click)="view().zoom(1 / 1.5)" title="More frames (turn the wheel)">
      <i class="bi bi-zoom-out" aria-hidden="true"></i><span class="visually-hidden">More frames</span>
    </button>
    @let window = view().window();
    @if (window.count < view().frames()) {
      <button type="button" class="btn btn-quiet" (click)="view().whole()">whole take</button>
      <input
        type="range"
        class="form-range"
        aria-label="First frame of the lanes"
        [min]="0"
        [max]="view().frames() - window.count"
        step="1"
        [value]="window.from"
        (input)="view().scrollTo($event)"
      />
      <span class="soft num small">{{ window.from + 1 | number: '1.0-0' }}–{{ window.from + window.count | number: '1.0-0' }}</span>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    input {
      width: 110px;
    }
  `,
})
export class LanesZoomComponent {
  readonly view = input.required<LanesView>();
}
