import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { NumberComponent } from './number.component';

/** A span of a take's own seconds, with soft edges outside. */
export interface Mask {
  readonly from: number;
  readonly to: number;
  readonly fade: number;
}

/** A new mask is so long, and so soft, seconds. */
const FRESH = { seconds: 1, fade: 0.25 } as const;

/** Always, or only for a time. */
@Component({
  selector: 'hs-mask',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (isOptional()) {
      <label class="check"
        ><input type="checkbox" class="form-check-input" [checked]="mask() !== null" (change)="toggle()" /> only for a time</label
      >
    }
    @if (mask(); as m) {
      <hs-number name="from" unit="s" [value]="m.from" [low]="0" [digits]="2" [step]="0.1" (changed)="set('from', $event)" />
      <hs-number name="to" unit="s" [value]="m.to" [low]="m.from" [digits]="2" [step]="0.1" (changed)="set('to', $event)" />
      <hs-number
        name="soft edge"
        unit="s"
        [value]="m.fade"
        [low]="0"
        [high]="10"
        [digits]="2"
        [step]="0.05"
        (changed)="set('fade', $event)"
      />
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 4px;
    }
    .check {
      display: flex;
      align-items: center;
      gap: 6px;
    }
  `,
})
export class MaskComponent {
  readonly mask = input.required<Mask | null>();
  readonly isOptional = input(true);
  /** The second at which a new one begins. */
  readonly now = input.required<() => number>();
  readonly changed = output<Mask | null>();

  protected toggle(): void {
    const from = this.now()();
    this.changed.emit(this.mask() ? null : { from, to: from + FRESH.seconds, fade: FRESH.fade });
  }

  protected set(part: keyof Mask, value: number): void {
    const mask = this.mask();
    if (!mask) return;
    const next = { ...mask, [part]: value };
    this.changed.emit({ ...next, to: Math.max(next.from, next.to) });
  }
}
