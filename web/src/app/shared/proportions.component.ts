import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

/** A small drawing of a skeleton's proportions, in outline: front view at rest. */
@Component({
  selector: 'hs-proportions',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<svg viewBox="-30 -54 60 56" aria-hidden="true"><path [attr.d]="path()" /></svg>`,
  styles: `
    :host {
      display: inline-block;
      width: 34px;
      height: 32px;
    }
    svg {
      width: 100%;
      height: 100%;
    }
    path {
      fill: none;
      stroke: var(--hs-character);
      stroke-width: 1.6;
      stroke-linecap: round;
    }
  `,
})
export class ProportionsComponent {
  /** Bones as x, y of both ends, in body heights. */
  readonly drawing = input.required<readonly number[]>();
  protected readonly path = computed(() => {
    const d = this.drawing();
    let path = '';
    for (let i = 0; i + 3 < d.length; i += 4) path += `M${d[i] * 50} ${-d[i + 1] * 50}L${d[i + 2] * 50} ${-d[i + 3] * 50}`;
    return path;
  });
}
