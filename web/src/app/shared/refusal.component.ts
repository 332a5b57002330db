import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { describeFault, type Fault } from '@hollow-stride/core';

/** A refusal: the task a station cannot do, why, where, and which station helps. */
@Component({
  selector: 'hs-refusal',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="refused" role="alert">
      <i class="bi bi-x-circle-fill fault" aria-hidden="true"></i>
      <div>
        <b>{{ what() }}</b>
        <p>{{ why() }}</p>
        <a [routerLink]="link()"><ng-content /></a>
      </div>
    </div>
  `,
  styles: `
    .refused {
      display: flex;
      gap: 12px;
      margin: 12px;
      padding: 10px 14px;
      border: 1px solid var(--hs-fault);
      border-radius: 3px;
      background: var(--hs-sheet);
    }
    p {
      margin: 2px 0;
    }
  `,
})
export class RefusalComponent {
  readonly what = input.required<string>();
  readonly fault = input.required<Fault>();
  readonly link = input.required<string>();
  protected readonly why = computed(() => describeFault(this.fault()));
}
