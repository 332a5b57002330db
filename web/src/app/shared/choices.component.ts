import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';

export interface Choice {
  readonly value: string;
  readonly name: string;
  /** Shown when the pointer rests on it. */
  readonly title?: string;
  readonly disabled?: boolean;
}

/** A row of choices of which one holds. */
@Component({
  selector: 'hs-choices',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="choices" role="group" [attr.aria-label]="label()">
      @for (choice of choices(); track choice.value) {
        <button
          type="button"
          [attr.aria-pressed]="choice.value === value()"
          [attr.title]="choice.title ?? null"
          [disabled]="choice.disabled ?? false"
          (click)="chosen.emit(choice.value)"
        >
          {{ choice.name }}
        </button>
      }
    </div>
  `,
  styles: ':host { display: inline-flex; }',
})
export class ChoicesComponent {
  readonly label = input.required<string>();
  readonly choices = input.required<readonly Choice[]>();
  readonly value = input.required<unknown>();
  readonly chosen = output<string>();
}
