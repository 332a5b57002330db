import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { UNIT_METRES, UP_AXES, type Stand } from '@hollow-stride/core';
import { FitStore } from './fit.store';

/** How the mesh stands, and what it holds. */
@Component({
  selector: 'hs-stand-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (state().laid; as laid) {
      <p class="small num">
        {{ laid.facts.points.toLocaleString('en') }} points, {{ laid.facts.triangles.toLocaleString('en') }} triangles in
        {{ laid.facts.shells }} {{ laid.facts.shells === 1 ? 'shell' : 'shells' }}
        @if (laid.facts.rims > 0) {
          , {{ laid.facts.rims }} open edges
        }
      </p>
      <p class="small soft">{{ laid.guessed.reason }}; its sides are alike to {{ (laid.likeness * 100).toFixed(0) }} %</p>
      @if (stand(); as now) {
        <label
          >unit
          <select class="form-select form-select-sm" aria-label="Unit" (change)="setUnit($event)">
            @for (unit of units; track unit.name) {
              <option [value]="unit.metres" [selected]="unit.metres === now.metres">{{ unit.name }}</option>
            }
            @if (!isUsual()) {
              <option [value]="now.metres" selected>{{ now.metres.toPrecision(3) }} m</option>
            }
          </select>
        </label>
        <label
          >up
          <select class="form-select form-select-sm" aria-label="Up axis" (change)="setUp($event)">
            @for (up of ups; track up) {
              <option [value]="up" [selected]="up === now.up">{{ up }}</option>
            }
          </select>
        </label>
        <div class="row">
          <button type="button" class="btn btn-sm btn-plain" (click)="turn()">Turn a quarter</button>
          <button type="button" class="btn btn-sm btn-plain" [disabled]="!state().mesh?.choices?.stand" (click)="store.guessStand()">
            As guessed
          </button>
        </div>
      }
    }
  `,
  styleUrl: './panel.scss',
})
export class StandPanelComponent {
  protected readonly store = inject(FitStore);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly units = Object.entries(UNIT_METRES).map(([name, metres]) => ({ name, metres }));
  protected readonly ups = UP_AXES;
  protected readonly stand = computed(() => this.state().mesh?.choices.stand ?? this.state().laid?.guessed.stand);
  protected readonly isUsual = computed(() => this.units.some(({ metres }) => metres === this.stand()?.metres));

  protected setUnit(event: Event): void {
    this.store.setStand({ metres: Number((event.target as HTMLSelectElement).value) });
  }

  protected setUp(event: Event): void {
    this.store.setStand({ up: (event.target as HTMLSelectElement).value as Stand['up'] });
  }

  protected turn(): void {
    this.store.setStand({ quarter: (((this.stand()?.quarter ?? 0) + 1) % 4) as Stand['quarter'] });
  }
}
