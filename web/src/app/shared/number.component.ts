import { ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, viewChild } from '@angular/core';

/** A number with its unit: typed, dragged by its name, stepped by the arrow keys, reset by a double click on its name. */
@Component({
  selector: 'hs-number',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="field" [class.off]="disabled()">
      <span
        class="name"
        title="Drag to change, double click to reset"
        (pointerdown)="down($event)"
        (pointermove)="move($event)"
        (pointerup)="up($event)"
        (dblclick)="reset($event)"
        >{{ name() }}</span
      >
      <input
        #field
        type="text"
        inputmode="decimal"
        class="form-control form-control-sm num"
        [value]="shown()"
        [disabled]="disabled()"
        [attr.aria-label]="label() || name() + (unit() ? ', ' + unit() : '')"
        (keydown)="key($event)"
        (change)="typed()"
      />
      <span class="unit">{{ unit() }}</span>
    </label>
  `,
  styles: `
    .field {
      display: flex;
      gap: 6px;
      align-items: center;
      font-size: 12.5px;
    }
    .name {
      flex: 1;
      cursor: ew-resize;
      touch-action: none;
      user-select: none;
    }
    .off .name {
      cursor: default;
      color: var(--hs-ink-soft);
    }
    input {
      width: 78px;
      text-align: right;
    }
    .unit {
      width: 30px;
      color: var(--hs-ink-soft);
    }
  `,
})
export class NumberComponent {
  readonly name = input.required<string>();
  readonly label = input('');
  readonly unit = input('');
  readonly value = input.required<number>();
  readonly step = input(1);
  readonly low = input(-Infinity);
  readonly high = input(Infinity);
  readonly digits = input(1);
  readonly disabled = input(false);
  /** Value that a double click on the name sets. */
  readonly usual = input<number | undefined>(undefined);
  readonly changed = output<number>();
  readonly cleared = output<void>();
  protected readonly shown = computed(() => String(Number(this.value().toFixed(this.digits()))));
  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  private from: { x: number; value: number } | undefined;

  protected key(event: KeyboardEvent): void {
    const way = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0;
    if (way !== 0) {
      event.preventDefault();
      this.give(this.value() + way * this.step() * (event.shiftKey ? 10 : 1));
    } else if (event.key === 'Enter') this.typed();
    else if (event.key === 'Escape') this.field().nativeElement.value = this.shown();
    event.stopPropagation();
  }

  protected typed(): void {
    const field = this.field().nativeElement;
    const value = Number(field.value.trim().replace(',', '.'));
    if (field.value.trim() === '' || !Number.isFinite(value)) field.value = this.shown();
    else this.give(value);
  }

  protected down(event: PointerEvent): void {
    if (this.disabled()) return;
    this.from = { x: event.clientX, value: this.value() };
    (event.target as Element).setPointerCapture(event.pointerId);
  }

  protected move(event: PointerEvent): void {
    if (!this.from) return;
    const steps = Math.round((event.clientX - this.from.x) / 4);
    if (steps !== 0) this.give(this.from.value + steps * this.step());
  }

  protected up(event: PointerEvent): void {
    this.from = undefined;
    (event.target as Element).releasePointerCapture(event.pointerId);
  }

  protected reset(event: Event): void {
    event.preventDefault();
    const usual = this.usual();
    if (this.disabled()) return;
    if (usual === undefined) this.cleared.emit();
    else this.give(usual);
  }

  private give(value: number): void {
    const held = Math.max(this.low(), Math.min(this.high(), value));
    const rounded = Number(held.toFixed(this.digits() + 2));
    if (rounded !== this.value()) this.changed.emit(rounded);
    else this.field().nativeElement.value = this.shown();
  }
}
