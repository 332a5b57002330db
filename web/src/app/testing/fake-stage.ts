import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { Figure } from '../stage/figure-view';
import type { ViewName } from '../stage/options';

/** Stands in for the 3D stage, which a test browser without a graphics card need not draw: picks and hovers when told to. */
@Component({ selector: 'hs-figure-stage', template: '<ng-content />', changeDetection: ChangeDetectionStrategy.OnPush })
export class FakeFigureStage {
  readonly figures = input.required<readonly Figure[]>();
  readonly floor = input(0);
  readonly frame = input(0);
  readonly view = input<ViewName>('free');
  readonly label = input.required<string>();
  readonly marks = input<readonly { joint: number; solid: boolean }[]>([]);
  readonly wiggled = input(-1);
  readonly near = input(-1);
  readonly picking = input(false);
  readonly picked = output<number>();
  readonly hovered = output<number>();
  readonly freed = output<void>();
}

/** The button, link or tab of a name. */
export function pressable(host: Element, name: string): HTMLElement {
  const found = [...host.querySelectorAll<HTMLElement>('button, a')].find(
    (b) => (b.textContent ?? '').replace(/\s+/g, ' ').trim() === name || b.getAttribute('aria-label') === name,
  );
  if (!found) throw new Error(`nothing here is called ${name}`);
  return found;
}

/** Chooses an option of a select, as a person does. */
export function select(host: Element, selector: string, value: string): void {
  const field = host.querySelector<HTMLSelectElement>(selector)!;
  field.value = value;
  field.dispatchEvent(new Event('change', { bubbles: true }));
}
