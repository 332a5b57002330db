import { gaussian, percentile } from '../math/filter';
import { distance } from '../math/vec';
import { square } from '../math/numbers';

/** Thresholds of stillness in leg lengths, leg lengths a second, and seconds. */
export const STILL_LIMITS = {
  /** A rest begins below the first speed and ends above the second. */
  speed: [0.1, 0.18],
  /** A rest that creeps farther is cut into two. */
  extent: 0.08,
  shortest: 0.3,
  smooth: 0.018,
} as const;

/** How fast a series of places moves, smoothed, in metres a second. */
export function speedOf(places: Float64Array, stride: number, frameTime: number): Float64Array {
  const smooth = gaussian(places, stride, STILL_LIMITS.smooth / frameTime);
  const frames = places.length / stride;
  const out = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - 1);
    const b = Math.min(frames - 1, f + 1);
    let sum = 0;
    for (let c = 0; c < 3; c++) sum += square(smooth[b * stride + c] - smooth[a * stride + c]);
    out[f] = b > a ? Math.sqrt(sum) / ((b - a) * frameTime) : 0;
  }
  return out;
}

export interface Span {
  readonly first: number;
  readonly last: number;
}

/** The parts of a span that remain when some frames are taken out of it. */
export function without<T extends Span>(span: T, first: number, last: number): T[] {
  if (span.last < first || span.first > last) return [span];
  return [
    { ...span, last: first - 1 },
    { ...span, first: last + 1 },
  ].filter((left) => left.first <= left.last);
}

/** The noise of a take lifts the limits of speed, but no higher than this share of them. */
export function speedLimits(speed: Float64Array, leg: number): readonly [on: number, off: number] {
  const [on, off] = STILL_LIMITS.speed;
  const noise = Math.min(2 * percentile(speed, 0.1), on * leg);
  return [on * leg + noise, off * leg + noise];
}

/** What may rest, and how. */
export interface Resting {
  /** Factor on the speeds below which it rests. */
  readonly ease?: number;
  /** False in frames in which it cannot rest. */
  readonly may?: (frame: number) => boolean;
  /** Seconds. */
  readonly shortest?: number;
}

/**
 * Where a point stays in its place, at any height.
 * @param places 3 per frame
 */
export function restsOf(
  places: Float64Array,
  frameTime: number,
  leg: number,
  { ease = 1, may = () => true, shortest = STILL_LIMITS.shortest }: Resting = {},
): Span[] {
  const speed = speedOf(places, 3, frameTime);
  const [on, off] = speedLimits(speed, leg).map((limit) => limit * ease);
  const frames = speed.length;
  const out: Span[] = [];
  let start = -1;
  const end = (last: number): void => {
    if (start >= 0 && (last - start + 1) * frameTime >= shortest) out.push({ first: start, last });
    start = -1;
  };
  for (let f = 0; f < frames; f++) {
    if (start >= 0 && (speed[f] > off || distance(places, start * 3, places, f * 3) > STILL_LIMITS.extent * leg || !may(f))) end(f - 1);
    if (start < 0 && speed[f] < on && may(f)) start = f;
  }
  end(frames - 1);
  return out;
}
