import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { NgbDropdownModule } from '@ng-bootstrap/ng-bootstrap';
import { HistoryService } from './history.service';

/** Undo, redo, and the list of what each step was. */
@Component({
  selector: 'hs-history',
  imports: [AsyncPipe, NgbDropdownModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (history.state$ | async; as s) {
      <button
        type="button"
        class="btn btn-quiet"
        [disabled]="s.past.length === 0"
        (click)="history.undo()"
        [title]="s.past.length ? 'Undo: ' + s.past[s.past.length - 1].text + ' (Ctrl+Z)' : 'Nothing to undo'"
      >
        <i class="bi bi-arrow-counterclockwise" aria-hidden="true"></i><span class="visually-hidden">Undo</span>
      </button>
      <button
        type="button"
        class="btn btn-quiet"
        [disabled]="s.future.length === 0"
        (click)="history.redo()"
        [title]="s.future.length ? 'Redo: ' + s.future[s.future.length - 1].text + ' (Ctrl+Shift+Z)' : 'Nothing to redo'"
      >
        <i class="bi bi-arrow-clockwise" aria-hidden="true"></i><span class="visually-hidden">Redo</span>
      </button>
      <span ngbDropdown placement="bottom-end">
        <button type="button" class="btn btn-quiet" ngbDropdownToggle [disabled]="s.past.length === 0">steps</button>
        <div ngbDropdownMenu class="list">
          @for (step of s.past; track $index) {
            <button ngbDropdownItem type="button" (click)="history.backTo($index)" [disabled]="$last">
              {{ step.text }}{{ $last ? ' (now)' : '' }}
            </button>
          }
          <button ngbDropdownItem type="button" (click)="history.backTo(-1)">before all of these</button>
        </div>
      </span>
    }
  `,
  styles: `
    :host {
      display: flex;
    }
    .list {
      max-height: 60vh;
      overflow-y: auto;
      font-size: 13px;
    }
  `,
})
export class HistoryComponent {
  protected readonly history = inject(HistoryService);
}
