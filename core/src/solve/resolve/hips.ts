import type { BandSystem } from '../../math/band';
import { BEND, stiffnessOf, type Time } from './curve';
import { chargeKnees } from './knees';
import type { Sense } from './sense';

/** How slowly the hips' own displacement bends, seconds. */
export const HIPS = 0.25;
/** Cost of a displacement of the hips over the floor and upright: with these they follow within some 0.06 s. */
const COST = [300, 100, 300] as const;
/** How much more it costs where limbs may be drawn out instead, by the share of their length. */
const SPARED = 200;
/** Cost of a displacement, level or downwards, beyond the farthest that the hips may come. */
const BOUND = 1e5;
/** What a displacement of a body that rests on the floor costs more. */
const RESTING = 1e5;

interface HipsGiven extends Time {
  /** How each leg takes it, with the ends and the hips of the last round. */
  readonly senses: readonly Sense[];
  /** Displacement of each leg's end, and 1 in frames in which it is held; 3 and 1 per frame. */
  readonly ends: readonly Float64Array[];
  readonly held: readonly Uint8Array[];
  /** Displacement of the hips in the last round, and then in this one; metres, 3 per frame. */
  readonly hips: Float64Array;
  /** 1 in frames in which the body itself rests, which then stays; smooth, one a frame. */
  readonly resting: Float64Array | undefined;
  /** Share of their length by which limbs may be drawn out. */
  readonly stretch: number;
}

/** The displacement of the hips from the copied motion: smooth, and as little as knees and reach ask for. Writes `hips`. */
export function solveHips(system: BandSystem, { senses, ends, held, hips, resting, stretch, breaks, frameTime }: HipsGiven): void {
  const frames = hips.length / 3;
  const stiffness = stiffnessOf(HIPS, frameTime);
  system.clear();
  for (let c = 0; c < 3; c++) {
    for (let f = 0; f < frames; f++) system.near(f * 3 + c, 0, COST[c] * (1 + SPARED * stretch) + (resting ? RESTING * resting[f] : 0));
    for (let f = 1; f + 1 < frames; f++) {
      if (breaks[f] || breaks[f + 1]) continue;
      system.sum((f - 1) * 3 + c, 3, BEND, 3, 0, stiffness);
    }
  }
  for (let f = 0; f < frames; f++) {
    // Aside and down; they rise as far as a folded leg asks for.
    let size = 0;
    for (let c = 0; c < 3; c++) if (c !== 1 || hips[f * 3 + 1] < 0) size += hips[f * 3 + c] * hips[f * 3 + c];
    const most = senses[0].most[f];
    if (size <= most * most) continue;
    const share = most / Math.sqrt(size);
    for (let c = 0; c < 3; c++) if (c !== 1 || hips[f * 3 + 1] < 0) system.near(f * 3 + c, hips[f * 3 + c] * share, BOUND);
  }
  senses.forEach((sense, k) =>
    chargeKnees(system, { sense, other: within(ends[k], sense, held[k]), now: hips, towards: 1, stiffness, breaks }),
  );
  hips.set(system.solve());
}

/** The displacement of an end, as far as its limb takes it: one that swings comes into reach by itself, and draws no hips after it. */
function within(end: Float64Array, { out, far }: Sense, held: Uint8Array): Float64Array {
  return end.map((v, i) => {
    const f = (i / 3) | 0;
    return held[f] || far[f] <= 0 ? v : v - out[i] * far[f];
  });
}
