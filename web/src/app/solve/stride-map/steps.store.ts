import { inject, Injectable } from '@angular/core';
import type { Footprint } from '../../solver/floor-plan';
import { TouchUpsStore } from '../touch-ups/touch-ups.store';

/** How far a footprint is moved: centimetres out and ahead as the foot points, degrees turned out. */
export interface StepChange {
  readonly out: number;
  readonly ahead: number;
  readonly turn: number;
}

const KINDS = { out: 'stepsOut', ahead: 'stepsAhead', turn: 'stepsTurned' } as const;
type Way = keyof typeof KINDS;
const WAYS = Object.keys(KINDS) as Way[];

/** Steps that are moved on the map: touch-ups of the take, each for the time of one stand. */
@Injectable({ providedIn: 'root' })
export class StepsStore {
  private readonly touchUps = inject(TouchUpsStore);

  /** How far a stand has been moved so far. */
  now(print: Footprint): StepChange {
    const of = (way: Way): number => {
      const index = this.touchUps.stepAt(KINDS[way], print.side, print);
      return index === undefined ? 0 : (this.touchUps.at(index)?.value ?? 0);
    };
    return { out: of('out'), ahead: of('ahead'), turn: of('turn') };
  }

  /** Moves a stand so far. @param key steps with the same key are taken back as one */
  set(print: Footprint, to: StepChange, key: string): void {
    const was = this.now(print);
    for (const way of WAYS) {
      if (Math.abs(to[way] - was[way]) < 0.05) continue;
      this.touchUps.setAmount(this.touchUps.placeOfStep(KINDS[way], print.side, print, key), to[way], key);
    }
  }
}

/** A way over the floor, metres along x and z, as centimetres out and ahead of a footprint as it points. */
export function asStep({ side, heel, ball }: Footprint, dx: number, dz: number): Pick<StepChange, 'out' | 'ahead'> {
  const [hx, hz] = [ball[0] - heel[0], ball[1] - heel[1]];
  const n = Math.hypot(hx, hz) || 1;
  const left = (dx * hz - dz * hx) / n;
  return { out: (side === 'left' ? left : -left) * 100, ahead: ((dx * hx + dz * hz) / n) * 100 };
}
