import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { KeptStore } from './kept.store';
import { SolveStore } from './solve.store';

/** Where the solve of the current pair is: under way, cancelled, or there and to be kept. */
@Component({
  selector: 'hs-solve-state',
  imports: [AsyncPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (store.state$ | async; as s) {
      <span class="state" role="status">
        @if (s.busy) {
          <span class="spinner-border spinner-border-sm" aria-hidden="true"></span> {{ s.progress?.what ?? 'solving' }} …
        } @else if (s.cancelled) {
          cancelled
        }
      </span>
      @if (s.busy && s.progress; as progress) {
        <progress [value]="progress.share" max="1" aria-label="Solve"></progress>
        <button type="button" class="btn btn-sm btn-plain" (click)="store.cancel()">Cancel</button>
      }
      @if (s.cancelled) {
        <button type="button" class="btn btn-sm btn-plain" (click)="store.solveAgain()">Solve again</button>
      }
      @if (s.solved) {
        @if (kept.isKept$ | async) {
          <span class="soft small"><i class="bi bi-bookmark-check" aria-hidden="true"></i> kept</span>
        } @else {
          <button
            type="button"
            class="btn btn-quiet"
            [disabled]="s.busy"
            (click)="kept.keep()"
            title="Keep this transfer with its figures in the list on Deliver"
          >
            <i class="bi bi-bookmark" aria-hidden="true"></i> Keep
          </button>
        }
      }
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .state {
      margin-left: auto;
      white-space: nowrap;
    }
  `,
})
export class SolveStateComponent {
  protected readonly store = inject(SolveStore);
  protected readonly kept = inject(KeptStore);
}
