import type { Side } from '../label';
import { percentile } from '../math/filter';
import { distance, length } from '../math/vec';
import type { Detection } from '../recipe';
import type { Creep } from './creep';
import type { ProbeTrack } from './probes';
import { placeOf, restingSpans, timeFor, type Span } from './resting';

/** A span of frames, both ends included, in which a heel or a ball of the performer's foot stays on the floor. */
export interface Plant {
  readonly side: Side;
  readonly part: 'heel' | 'ball';
  readonly first: number;
  readonly last: number;
  /** Metres over the floor at which it stays: on a step, a slope or a rung; undefined or 0 on the floor. */
  readonly height?: number;
  /** Of a ball: from 0, the foot turns about the ball itself, to 1, it turns about the joint of toes that lie flat. */
  readonly rolls?: number;
  /** How high over the floor that which it stands on lies, where a floor slopes: metres. */
  readonly ground?: number;
  /** How it was found to begin and to end; undefined for one that a person has added. */
  readonly creep?: Creep;
  /** Where it was found to rest, metres of the performer; undefined for one that a person has added, or made of several. */
  readonly place?: Float64Array;
  /** Of a ball: how high over the floor the tip of the toes rests, metres, one a frame of the plant; NaN where it does not. */
  readonly tips?: Float64Array;
}

/** Thresholds in leg lengths and seconds. A plant starts below the first of each pair and ends above the second. */
export const PLANT_LIMITS = {
  height: [0.035, 0.055],
  rise: 0.03,
  /** A foot does not stand on its heel while its ball is lower by more, nor on its ball while its heel is. */
  higher: 0.015,
  speed: [0.25, 0.5],
  shortest: 0.06,
  gap: 0.08,
  smooth: 0.018,
  /** A foot that stands stays in place; one that only slows down in its swing moves on by more than this. */
  raised: { speed: [0.1, 0.18], shortest: 0.14, drift: 0.012 },
} as const;

/** One probe over time. */
export interface Series {
  readonly side: Side;
  readonly part: 'heel' | 'ball';
  /** Positions as captured, 3 per frame. */
  readonly raw: Float64Array;
  readonly height: Float64Array;
  readonly speed: Float64Array;
  /** 1 in frames in which the sole faces up: nothing is under it that it could stand on. */
  readonly isOver: Uint8Array;
  /** Of the ball of a foot with toes. */
  readonly sole?: ProbeTrack;
}

/** Where a probe rests on the floor, metres, and how still it is there, metres a second. */
export interface Rest {
  readonly base: number;
  readonly noise: number;
}

/**
 * Where a probe rests on the floor, which its place on the skeleton may put a little off it.
 * @param floor metres @param leg the performer's, metres
 */
export function restOf(s: Series, floor: number, leg: number): Rest {
  const frames = s.height.length;
  const heights = new Float64Array(frames);
  const speeds = new Float64Array(frames);
  let slow = 0;
  for (let f = 0; f < frames; f++) {
    if (s.speed[f] > PLANT_LIMITS.speed[0] * leg || Math.abs(s.height[f] - floor) > 2 * PLANT_LIMITS.height[0] * leg) continue;
    heights[slow] = s.height[f];
    speeds[slow++] = s.speed[f];
  }
  const rest = slow > 5 ? percentile(heights.subarray(0, slow), 0.3) : floor;
  return {
    base: Math.max(floor - 0.03 * leg, Math.min(floor + 0.03 * leg, rest)),
    noise: slow > 5 ? percentile(speeds.subarray(0, slow), 0.25) : 0,
  };
}

/**
 * The spans in which a probe stands: on the floor, told by height and speed with hysteresis, or on something above it, told by stillness.
 * @param leg the performer's, metres
 */
export function standsOf(s: Series, { base, noise }: Rest, frameTime: number, leg: number, { feetSpeed, feetHeight }: Detection): Plant[] {
  const frames = s.height.length;
  const [slowOn, slowOff] = PLANT_LIMITS.speed.map((v) => feetSpeed * (v * leg + 2 * noise));
  const [lowOn, lowOff] = PLANT_LIMITS.height.map((v) => feetHeight * v * leg);

  const spans: [number, number][] = [];
  let start = -1;
  let lowest = 0;
  for (let f = 0; f < frames; f++) {
    const height = s.height[f] - base;
    if (start < 0) {
      if (height < lowOn && s.speed[f] < slowOn) {
        start = f;
        lowest = height;
      }
      continue;
    }
    lowest = Math.min(lowest, height);
    // A heel that peels off slowly has left the floor once it has risen from where it rested.
    if (height > lowOff || height > lowest + PLANT_LIMITS.rise * leg || s.speed[f] > slowOff) {
      spans.push([start, f - 1]);
      start = -1;
    }
  }
  if (start >= 0) spans.push([start, frames - 1]);

  const joined: [number, number][] = [];
  for (const span of spans) {
    const before = joined[joined.length - 1] as [number, number] | undefined;
    let low = true;
    if (before) for (let f = before[1] + 1; f < span[0]; f++) low = low && s.height[f] - base < lowOff;
    if (before && low && (span[0] - before[1]) * frameTime <= PLANT_LIMITS.gap) before[1] = span[1];
    else joined.push(span);
  }
  const shortest = Math.min(frames, Math.ceil(PLANT_LIMITS.shortest / frameTime - 1e-6));
  const isLong = ([a, b]: Span): boolean => b - a + 1 >= shortest;
  const found = joined
    .flatMap((span) => {
      const parts = restingSpans({ ...s, frameTime, leg }, span);
      // A probe that rolls as soon as it stands, and as long as it does, is never still: it rests where it is stillest.
      return parts.length === 1 && isLong(span) && !isLong(parts[0]) ? [stillest(s.speed, span, shortest)] : parts.filter(isLong);
    })
    .map(([first, last]): Plant => ({ side: s.side, part: s.part, first, last }))
    .concat(raisedSpans(s, { base, noise }, joined, frameTime, leg));
  return withTimeBetween(found, s.raw, frameTime, leg);
}

/** Plants in their order; where one follows another at once but elsewhere, both give way so that the foot has the time to get there. */
function withTimeBetween(plants: readonly Plant[], raw: Float64Array, frameTime: number, leg: number): Plant[] {
  const out = [...plants].sort((a, b) => a.first - b.first);
  for (let i = 1; i < out.length; i++) {
    const [a, b] = [out[i - 1], out[i]];
    const gap = b.first - a.last - 1;
    if (gap * frameTime > PLANT_LIMITS.gap) continue;
    const from = placeOf(raw, a.first, a.last);
    const step = placeOf(raw, b.first, b.last).map((v, c) => v - from[c]);
    // A contact taken to be on the floor stands there, however high the take has it.
    step[1] = (b.height ?? 0) - (a.height ?? 0);
    const missing = timeFor(length(step, 0), leg, frameTime) - gap;
    if (missing <= 0) continue;
    out[i - 1] = { ...a, last: Math.max(a.first, a.last - Math.ceil(missing / 2)) };
    out[i] = { ...b, first: Math.min(b.last, b.first + Math.ceil(missing / 2)) };
  }
  return out;
}

/** The frames of a span, so many, in which a probe is slowest. */
function stillest(speed: Float64Array, [first, last]: Span, count: number): Span {
  let sum = 0;
  for (let f = first; f < first + count; f++) sum += speed[f];
  let [least, best] = [sum, first];
  for (let f = first + 1; f + count - 1 <= last; f++) {
    sum += speed[f + count - 1] - speed[f - 1];
    if (sum < least) [least, best] = [sum, f];
  }
  return [best, best + count - 1];
}

/** How far a probe comes from the first third of a span to its last. */
function driftOf(raw: Float64Array, first: number, last: number): number {
  const third = Math.max(1, Math.floor((last - first + 1) / 3));
  return distance(placeOf(raw, first, first + third - 1), 0, placeOf(raw, last - third + 1, last), 0);
}

/** Where a probe rests above the floor, apart from the spans in which it is on it. */
function raisedSpans(
  s: Series,
  { base, noise }: Rest,
  onFloor: readonly (readonly [number, number])[],
  frameTime: number,
  leg: number,
): Plant[] {
  const frames = s.height.length;
  const [on, off] = PLANT_LIMITS.raised.speed.map((v) => v * leg + 2 * noise);
  const high = base + PLANT_LIMITS.height[1] * leg;
  const taken = new Uint8Array(frames);
  for (const [a, b] of onFloor) taken.fill(1, a, b + 1);
  const spans: [number, number][] = [];
  let start = -1;
  for (let f = 0; f <= frames; f++) {
    const rests = f < frames && !taken[f] && !s.isOver[f] && s.height[f] > high && s.speed[f] < (start < 0 ? on : off);
    if (rests && start < 0) start = f;
    if (!rests && start >= 0) {
      spans.push([start, f - 1]);
      start = -1;
    }
  }
  return spans
    .flatMap((span) => restingSpans({ ...s, frameTime, leg }, span))
    .filter(([a, b]) => (b - a + 1) * frameTime >= PLANT_LIMITS.raised.shortest && driftOf(s.raw, a, b) < PLANT_LIMITS.raised.drift * leg)
    .map(([first, last]) => {
      const heights = s.height.subarray(first, last + 1);
      return { side: s.side, part: s.part, first, last, height: percentile(heights, 0.5) - base };
    });
}
