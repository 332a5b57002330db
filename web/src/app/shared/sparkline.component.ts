import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

/** How far the higher foot stands over the lower one, along the take: steps show as humps. */
@Component({
  selector: 'hs-sparkline',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<svg viewBox="0 0 60 20" preserveAspectRatio="none" aria-hidden="true"><polyline [attr.points]="points()" /></svg>`,
  styles: `
    :host {
      display: inline-block;
      width: 52px;
      height: 18px;
    }
    svg {
      width: 100%;
      height: 100%;
    }
    polyline {
      fill: none;
      stroke: var(--hs-performer);
      stroke-width: 1.3;
      vector-effect: non-scaling-stroke;
    }
  `,
})
export class SparklineComponent {
  readonly values = input.required<readonly number[]>();
  protected readonly points = computed(() => {
    const v = this.values();
    const most = Math.max(0.05, ...v);
    return v.map((y, i) => `${((60 * i) / Math.max(1, v.length - 1)).toFixed(1)},${(19 - (17 * y) / most).toFixed(1)}`).join(' ');
  });
}
