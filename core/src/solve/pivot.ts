import { smootherstep } from '../math/filter';
import type { Anchor } from './stances';

/** The point that holds a foot, frame by frame. */
export interface Pivots {
  /** Index of the anchor of the heel and of the ball, −1 for none: from where the probe comes to its place to where it has left it. */
  readonly heel: Int32Array;
  readonly ball: Int32Array;
  /** How far the ball leads the foot where both have an anchor: 0 the heel alone, 1 the ball alone. */
  readonly share: Float64Array;
  /** 1 in frames in which heel or ball has an anchor. */
  readonly held: Uint8Array;
  /** 1 in those in which one of them stands still; in the others they come, or leave. */
  readonly still: Uint8Array;
}

/**
 * Finds the point that holds a foot. A still point goes before one that only comes or leaves; where both only come or leave, the lead stays with
 * what had it, or goes over to what has it behind, so that the foot never jumps from one to the other.
 */
export function pivotsOf(anchors: readonly Anchor[], frames: number): Pivots {
  const heel = new Int32Array(frames).fill(-1);
  const ball = new Int32Array(frames).fill(-1);
  const held = new Uint8Array(frames);
  anchors.forEach(({ part, first, last, before, after }, i) => {
    const from = first - before.length / 3;
    const to = last + after.length / 3;
    (part === 'heel' ? heel : ball).fill(i, from, to + 1);
    held.fill(1, from, to + 1);
  });
  const isStill = (f: number, at: number): boolean => at >= 0 && f >= anchors[at].first && f <= anchors[at].last;
  const share = new Float64Array(frames).fill(NaN);
  const still = new Uint8Array(frames);
  for (let f = 0; f < frames; f++) {
    const [h, b] = [isStill(f, heel[f]), isStill(f, ball[f])];
    if (h || b) still[f] = 1;
    if (h && b) share[f] = 0.5;
    else if (h || ball[f] < 0) share[f] = 0;
    else if (b || heel[f] < 0) share[f] = 1;
  }
  for (let from = 0; from < frames; from++) {
    if (!Number.isNaN(share[from])) continue;
    let to = from;
    while (to + 1 < frames && Number.isNaN(share[to + 1])) to++;
    const [a, b] = [leadAt(from - 1), leadAt(to + 1)];
    for (let f = from; f <= to; f++) {
      share[f] = (a ?? b ?? 0.5) + ((b ?? a ?? 0.5) - (a ?? b ?? 0.5)) * smootherstep((f - from + 1) / (to - from + 2));
    }
    from = to;
  }
  return { heel, ball, share, held, still };

  /** Which of both leads; undefined where neither does, or both do: there they agree. */
  function leadAt(f: number): number | undefined {
    return f < 0 || f >= frames || !held[f] || share[f] === 0.5 ? undefined : share[f];
  }
}
