import { inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { ProductionLimits } from '@hollow-stride/contract';
import type { FigureId, Limit } from '@hollow-stride/core';
import { distinctUntilChanged, map, type Observable } from 'rxjs';
import { EditsStore } from '../project/edits.store';
import { ProjectStore } from '../project/project.store';

/** Limits that a person sets for the production: for every transfer and run. */
@Injectable({ providedIn: 'root' })
export class LimitsStore {
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  readonly limits$: Observable<ProductionLimits> = this.project.rack$.pipe(
    map(({ limits }) => limits),
    distinctUntilChanged(),
  );
  /** How many figures have limits of the production's own. */
  readonly count = signal(0);

  constructor() {
    this.limits$.pipe(takeUntilDestroyed()).subscribe((limits) => this.count.set(Object.keys(limits).length));
  }

  set(id: FigureId, limit: Pick<Limit, 'good' | 'fault'>): void {
    this.edits.setLimits({ ...this.project.state.rack.limits, [id]: limit }, 'set a limit');
  }

  clear(): void {
    this.edits.setLimits({}, 'reset all limits');
  }
}
