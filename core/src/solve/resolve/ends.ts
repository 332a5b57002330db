import type { BandSystem } from '../../math/band';
import { BEND, stiffnessOf, type Time } from './curve';
import { HIPS } from './hips';
import { chargeKnees } from './knees';
import type { Sense } from './sense';

/** How slowly the displacement of a foot bends, seconds. */
export const END = 0.12;

interface EndGiven extends Time {
  readonly sense: Sense;
  /** Displacement of the last round, and then of this one; metres, 3 per frame. */
  readonly end: Float64Array;
  /** 1 in frames in which the end is held: it stays there. */
  readonly held: Uint8Array;
  readonly hips: Float64Array;
  /** Heights that the displacement has where it would be lower; NaN for none. */
  readonly low: Float64Array | undefined;
}

/** The displacement of a limb's end: as it is held, and between holds smooth and as little as its knee asks for. Writes `end`. */
export function solveEnd(system: BandSystem, { sense, end, held, hips, low, breaks, frameTime }: EndGiven): void {
  const frames = held.length;
  const stiffness = stiffnessOf(END, frameTime);
  system.clear();
  for (let c = 0; c < 3; c++) {
    for (let f = 0; f < frames; f++) system.near(f * 3 + c, 0, 1);
    for (let f = 1; f + 1 < frames; f++) if (!breaks[f] && !breaks[f + 1]) system.sum((f - 1) * 3 + c, 3, BEND, 3, 0, stiffness);
  }
  chargeKnees(system, { sense, other: hips, now: end, towards: -1, stiffness: stiffnessOf(HIPS, frameTime), breaks });
  for (let f = 0; f < frames; f++) {
    if (held[f]) for (let c = 0; c < 3; c++) system.fix(f * 3 + c, end[f * 3 + c]);
    else if (low && !Number.isNaN(low[f])) system.fix(f * 3 + 1, low[f]);
  }
  end.set(system.solve());
}
