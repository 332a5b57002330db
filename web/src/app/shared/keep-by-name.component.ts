import { ChangeDetectionStrategy, Component, input, output, signal } from '@angular/core';

/** A name and the button that keeps something by it. */
@Component({
  selector: 'hs-keep-by-name',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <input
      class="form-control form-control-sm"
      [attr.aria-label]="label()"
      placeholder="name"
      maxlength="120"
      [value]="name()"
      (input)="type($event)"
      (keydown.enter)="keep()"
    />
    <button type="button" class="btn btn-sm btn-plain" [disabled]="name().trim() === ''" (click)="keep()"><ng-content /></button>
  `,
  styles: `
    :host {
      display: flex;
      gap: 6px;
      margin: 4px 0 6px;
    }
    button {
      flex: none;
    }
  `,
})
export class KeepByNameComponent {
  /** Kind of the thing that is named. */
  readonly label = input.required<string>();
  readonly kept = output<string>();
  protected readonly name = signal('');

  protected type(event: Event): void {
    this.name.set((event.target as HTMLInputElement).value);
  }

  protected keep(): void {
    const name = this.name().trim();
    if (name === '') return;
    this.kept.emit(name);
    this.name.set('');
  }
}
