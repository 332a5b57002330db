import { frameOrNone, type Found } from '../figure';
import type { PointKind } from '../look/points';
import type { Scene } from '../scene';

/** Points this high over the floor are in the air, share of a leg: a sole; a palm, and what has flesh about it, that lies on it is higher. */
const CLEAR: Record<PointKind, number> = { feet: 0.04, hands: 0.1, body: 0.2 };
/** Shorter hops are steps, seconds. */
const SHORTEST = 0.15;
/** In the air a body falls: its hips are accelerated downwards by at least this, metres a second squared. */
const FALLS = 5;

export interface Span {
  readonly first: number;
  readonly last: number;
}

/** Spans in which every point of the performer's body is clear of the floor and its hips fall freely. */
export function flightsOf({ given, seen, floor }: Scene): Span[] {
  const { take, performer, scale } = given;
  const { theirs, points, frames, hips } = seen;
  const count = points.length;
  const clear = points.map(({ kind }) => floor + CLEAR[kind] * performer.legLength);
  const out: Span[] = [];
  let first = -1;
  for (let f = 0; f <= frames; f++) {
    let isClear = f < frames;
    for (let i = 0; isClear && i < count; i++) isClear = theirs[(f * count + i) * 3 + 1] > clear[i];
    if (isClear) {
      if (first < 0) first = f;
      continue;
    }
    if (first >= 0 && (f - first) * take.frameTime >= SHORTEST) {
      const [a, b, c] = [first, (first + f - 1) >> 1, f - 1].map((at) => hips.theirs[at * 3 + 1] / scale.lift);
      const half = ((f - 1 - first) / 2) * take.frameTime;
      if ((2 * b - a - c) / (half * half) >= FALLS) out.push({ first, last: f - 1 });
    }
    first = -1;
  }
  return out;
}

/** How far hips rise and fall otherwise than the performer's, scaled, while it is in the air. */
export function flight(scene: Scene): Found {
  const { seen, at } = scene;
  const { mine, theirs } = seen.hips;
  const flights = flightsOf(scene);
  let worst = { off: 0, frame: -1 };
  for (const { first, last } of flights) {
    const rise = (places: Float64Array, f: number): number => places[f * 3 + 1] - (places[first * 3 + 1] + places[last * 3 + 1]) / 2;
    let most = 0;
    let size = 0;
    for (let f = first; f <= last; f++) {
      most = Math.max(most, Math.abs(rise(mine, f) - rise(theirs, f)));
      size = Math.max(size, Math.abs(rise(theirs, f)));
    }
    if (most / size > worst.off) worst = { off: most / size, frame: (first + last) >> 1 };
  }
  return {
    id: 'flight',
    value: flights.length === 0 ? NaN : 100 * worst.off,
    looked: `${flights.length} ${flights.length === 1 ? 'flight' : 'flights'}`,
    words: worst.frame < 0 ? 'nothing leaves the floor' : `most about ${at(worst.frame)}`,
    frame: frameOrNone(worst.frame),
  };
}
