import { AsyncPipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import type { SolveChoices } from '@hollow-stride/contract';
import { SolveStore } from './solve.store';

/** The settings of a solve. Each takes effect at once and can be undone. */
@Component({
  selector: 'hs-settings-panel',
  imports: [AsyncPipe, DecimalPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (store.state$ | async; as s) {
      <div class="rows">
        <span id="set-stride">stride</span>
        <div class="choices" role="group" aria-labelledby="set-stride">
          <button
            type="button"
            [attr.aria-pressed]="s.choices.stride === 'legs'"
            (click)="set({ stride: 'legs' })"
            title="Steps as long as the legs allow"
          >
            by legs
          </button>
          <button
            type="button"
            [attr.aria-pressed]="s.choices.stride === 'marks'"
            (click)="set({ stride: 'marks' })"
            title="The performer's marks on the floor are kept"
          >
            keep marks
          </button>
        </div>
        <span id="set-floor">floor</span>
        <div class="choices" role="group" aria-labelledby="set-floor">
          <button
            type="button"
            [attr.aria-pressed]="s.choices.floor === 'take'"
            (click)="set({ floor: 'take' })"
            title="Where the take has it, scaled"
          >
            as taken
          </button>
          <button type="button" [attr.aria-pressed]="s.choices.floor === 'zero'" (click)="set({ floor: 'zero' })" title="At height zero">
            at zero
          </button>
        </div>
        <span id="set-shoulders">clavicles</span>
        <div class="choices" role="group" aria-labelledby="set-shoulders">
          <button
            type="button"
            [attr.aria-pressed]="s.choices.clavicles === 'keep'"
            (click)="set({ clavicles: 'keep' })"
            title="The character's own rest"
          >
            own
          </button>
          <button
            type="button"
            [attr.aria-pressed]="s.choices.clavicles === 'match'"
            (click)="set({ clavicles: 'match' })"
            title="Turned like the performer's"
          >
            matched
          </button>
        </div>
        <span id="set-head">head</span>
        <div class="choices" role="group" aria-labelledby="set-head">
          <button
            type="button"
            [attr.aria-pressed]="s.choices.head === 'keep'"
            (click)="set({ head: 'keep' })"
            title="The character's own rest"
          >
            own
          </button>
          <button
            type="button"
            [attr.aria-pressed]="s.choices.head === 'match'"
            (click)="set({ head: 'match' })"
            title="Turned like the performer's"
          >
            matched
          </button>
        </div>
      </div>
      @if (s.solved; as solved) {
        <p class="scale soft">
          lift <b class="num">{{ solved.lift | number: '1.3-3' }}</b>, stride <b class="num">{{ solved.stride | number: '1.3-3' }}</b><br />
          {{ solved.report.pairing.reason }}
        </p>
      }
      <div class="undo">
        <button type="button" class="btn btn-sm btn-plain" [disabled]="!store.canUndo" (click)="store.undo()">
          <i class="bi bi-arrow-counterclockwise" aria-hidden="true"></i> Undo
        </button>
        <button type="button" class="btn btn-sm btn-plain" [disabled]="!store.canRedo" (click)="store.redo()">
          <i class="bi bi-arrow-clockwise" aria-hidden="true"></i> Redo
        </button>
      </div>
    }
  `,
  styles: `
    .rows {
      display: grid;
      grid-template-columns: 1fr auto;
      gap: 5px 8px;
      align-items: center;
    }
    .scale {
      margin: 8px 0;
      font-size: 12.5px;
    }
    .scale b {
      color: var(--hs-ink);
    }
    .undo {
      display: flex;
      gap: 6px;
    }
  `,
})
export class SettingsPanelComponent {
  protected readonly store = inject(SolveStore);

  protected set(change: Partial<SolveChoices>): void {
    this.store.change(change);
  }
}
