import { gaussian, percentile } from '../math/filter';
import { distance, length } from '../math/vec';
import type { BodyContacts } from './body';
import { creepOf, type Creep } from './creep';
import { DEFAULT_DETECTION, type Detection } from '../recipe';
import type { Hands } from './hands';
import { placeOf, restingSpans, timeFor, type Span } from './resting';
import { findSlope, slopeOf, type Ground, type Slope } from './slope';
import type { Side } from '../label';
import type { ProbeTrack } from './probes';
import { noteTips, rollOf, type RestingTips } from './rolling';

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
}

/** The plants of a take, the floor that they stand on, and what the hands do. */
export interface Contacts {
  readonly plants: readonly Plant[];
  /** Height of the floor under the performer, metres; of one that slopes, the lowest that the feet go over. */
  readonly floor: number;
  /** How it slopes; undefined where it is level. */
  readonly ground?: Ground;
  /** How the plants that were found begin and end. */
  readonly creeps?: ReadonlyMap<Plant, Creep>;
  /** Where toe tips rest; undefined where that is not known. */
  readonly tips?: RestingTips;
  readonly hands?: Hands;
  /** Knees, seat, back and head; nothing when none comes near the floor. */
  readonly body?: BodyContacts;
}

/** Thresholds in leg lengths and seconds. A plant starts below the first of each pair and ends above the second. */
export const PLANT_LIMITS = {
  height: [0.035, 0.055],
  rise: 0.03,
  speed: [0.25, 0.5],
  shortest: 0.06,
  gap: 0.08,
  smooth: 0.018,
  /** What stands on something stays; what only slows down in its swing goes on by more than this. */
  raised: { speed: [0.1, 0.18], shortest: 0.14, drift: 0.012 },
} as const;

/**
 * Finds plants on the performer's heel and ball probes: low-pass (zero phase), then height over the floor and
 * speed with hysteresis. Each probe's own resting height is estimated, so that a sole that the skeleton shows a little
 * too high or low does not hide its contacts; the speed limit rises with the take's noise. What is higher than the floor and
 * rests, told by stillness alone, stands on something: a step, a slope, a rung.
 * Where the rests found so lie on a slope, or a person says that the floor is one, heights are over the sloping floor.
 */
export function findPlants(
  probes: readonly ProbeTrack[],
  frames: number,
  frameTime: number,
  leg: number,
  detection: Detection = DEFAULT_DETECTION,
): Contacts {
  const series = probes.flatMap((foot): Series[] => [
    measure(foot.side, 'heel', foot.heel, frames, frameTime),
    { ...measure(foot.side, 'ball', foot.ball, frames, frameTime), ...(foot.toes > 0 && { sole: foot }) },
  ]);
  const given = slopeOf(detection);
  if (given) return plantsOver(series, groundUnder(series, given), frames, frameTime, leg, detection);
  const level = plantsOver(series, undefined, frames, frameTime, leg, detection);
  if (detection.slope || !level.plants.some(({ height = 0 }) => height > 0)) return level;
  const rests = level.plants.map((plant) => {
    const { raw } = series.find(({ side, part }) => side === plant.side && part === plant.part)!;
    return { ...plant, place: placeOf(raw, plant.first, plant.last) };
  });
  const found = findSlope(rests, leg);
  return found ? plantsOver(series, groundUnder(series, found), frames, frameTime, leg, detection) : level;
}

/** @param ground how the floor slopes; undefined for one that is level */
function plantsOver(
  all: readonly Series[],
  ground: Ground | undefined,
  frames: number,
  frameTime: number,
  leg: number,
  detection: Detection,
): Contacts {
  const under = ({ side, part }: Pick<Plant, 'side' | 'part'>): Float64Array => ground!.under.get(`${side}.${part}`)!;
  const series = ground ? all.map((s) => ({ ...s, height: s.height.map((h, f) => h - under(s)[f]) })) : all;
  const floor = detection.floor ?? findFloor(series, leg);
  const creeps = new Map<Plant, Creep>();
  const tips = new Map<Side, Float64Array>();
  const plants = series.flatMap((s) => {
    const { sole } = s;
    const own = withTimeBetween(spansOf(s, floor, frameTime, leg, detection), s.raw, frameTime, leg);
    const rest = sole && new Float64Array(frames).fill(NaN);
    if (rest) tips.set(s.side, rest);
    return own.map((span, i) => {
      const { first, last } = span;
      const from = own[i - 1]?.last ?? -1;
      const to = own[i + 1]?.first ?? frames;
      let creep = creepOf(s, span, from, to, leg);
      // What a foot rolls over shows best as it rolls off.
      const rolls = sole ? rollOf(sole, first - creep.before.length / 3, last + creep.after.length / 3, leg) : 0;
      if (rolls > 0) creep = creepOf(s, span, from, to, leg, rolls);
      const plant: Plant = {
        ...span,
        ...(ground && { height: (span.height ?? 0) + groundIn(under(span), span) }),
        ...(rolls > 0 && { rolls }),
      };
      creeps.set(plant, creep);
      if (rest && span.height === undefined && !ground) noteTips(rest, sole!.tip, first, last, floor, leg);
      return plant;
    });
  });
  plants.sort((a, b) => a.first - b.first || (a.side < b.side ? -1 : a.side > b.side ? 1 : a.part < b.part ? 1 : -1));
  return { plants, floor, ...(ground && { ground }), creeps, tips };
}

/** How high the ground under a plant is over the floor. */
export function groundIn(under: Float64Array, { first, last }: Pick<Plant, 'first' | 'last'>): number {
  const heights = under.slice(Math.max(0, first), last + 1);
  return heights.length === 0 ? 0 : percentile(heights, 0.5);
}

function groundUnder(series: readonly Series[], { x, z }: Slope): Ground {
  let low = Infinity;
  for (const { raw } of series) for (let i = 0; i < raw.length; i += 3) low = Math.min(low, x * raw[i] + z * raw[i + 2]);
  if (low === Infinity) low = 0;
  const under = new Map(
    series.map(({ side, part, raw }) => [
      `${side}.${part}` as const,
      Float64Array.from({ length: raw.length / 3 }, (_, f) => x * raw[f * 3] + z * raw[f * 3 + 2] - low),
    ]),
  );
  return { x, z, low, under };
}

interface Series {
  readonly side: Side;
  readonly part: 'heel' | 'ball';
  /** Positions as captured, 3 per frame. */
  readonly raw: Float64Array;
  readonly height: Float64Array;
  readonly speed: Float64Array;
  /** Of the ball of a foot with toes. */
  readonly sole?: ProbeTrack;
}

function measure(side: Side, part: 'heel' | 'ball', raw: Float64Array, frames: number, frameTime: number): Series {
  const p = gaussian(raw, 3, PLANT_LIMITS.smooth / frameTime);
  const height = new Float64Array(frames);
  const speed = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - 1) * 3;
    const b = Math.min(frames - 1, f + 1) * 3;
    const dt = ((b - a) / 3) * frameTime;
    height[f] = p[f * 3 + 1];
    speed[f] = dt > 0 ? Math.sqrt((p[b] - p[a]) ** 2 + (p[b + 1] - p[a + 1]) ** 2 + (p[b + 2] - p[a + 2]) ** 2) / dt : 0;
  }
  return { side, part, raw, height, speed };
}

/** The median height of slow, low probes; a low percentile where nothing is slow. */
function findFloor(series: readonly Series[], leg: number): number {
  const frames = series[0]?.height.length ?? 0;
  if (frames === 0) return 0;
  const all = new Float64Array(series.length * frames);
  series.forEach((s, i) => all.set(s.height, i * frames));
  const low = percentile(all, 0.03);
  let count = 0;
  for (const s of series) {
    for (let f = 0; f < frames; f++) {
      if (s.speed[f] < PLANT_LIMITS.speed[0] * leg && s.height[f] < low + PLANT_LIMITS.height[0] * leg) all[count++] = s.height[f];
    }
  }
  return count > 5 ? percentile(all.subarray(0, count), 0.5) : low;
}

function spansOf(s: Series, floor: number, frameTime: number, leg: number, { feetSpeed, feetHeight }: Detection): Plant[] {
  const frames = s.height.length;
  // Where this probe rests, which its place on the skeleton may put a little off the floor, and how still it is there.
  const heights = new Float64Array(frames);
  const speeds = new Float64Array(frames);
  let slow = 0;
  for (let f = 0; f < frames; f++) {
    if (s.speed[f] > PLANT_LIMITS.speed[0] * leg || Math.abs(s.height[f] - floor) > 2 * PLANT_LIMITS.height[0] * leg) continue;
    heights[slow] = s.height[f];
    speeds[slow++] = s.speed[f];
  }
  const rest = slow > 5 ? percentile(heights.subarray(0, slow), 0.3) : floor;
  const base = Math.max(floor - 0.03 * leg, Math.min(floor + 0.03 * leg, rest));
  const noise = slow > 5 ? percentile(speeds.subarray(0, slow), 0.25) : 0;
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
  return joined
    .flatMap((span) => {
      const parts = restingSpans(s.raw, s.speed, span, frameTime, leg);
      // A probe that rolls as soon as it stands, and as long as it does, is never still: it rests where it is stillest.
      return parts.length === 1 && isLong(span) && !isLong(parts[0]) ? [stillest(s.speed, span, shortest)] : parts.filter(isLong);
    })
    .map(([first, last]): Plant => ({ side: s.side, part: s.part, first, last }))
    .concat(raisedSpans(s, base, joined, noise, frameTime, leg));
}

/** Plants in their order; where one follows another at once but elsewhere, both give way so that the foot has the time to get there. */
function withTimeBetween(plants: readonly Plant[], raw: Float64Array, frameTime: number, leg: number): Plant[] {
  const out = [...plants].sort((a, b) => a.first - b.first);
  for (let i = 1; i < out.length; i++) {
    const [a, b] = [out[i - 1], out[i]];
    const gap = b.first - a.last - 1;
    if (gap * frameTime > PLANT_LIMITS.gap) continue;
    const way = placeOf(raw, b.first, b.last).map((v, c) => v - placeOf(raw, a.first, a.last)[c]);
    // What is taken to stand on the floor stands there, however high the take has it.
    way[1] = (b.height ?? 0) - (a.height ?? 0);
    const missing = timeFor(length(way, 0), leg, frameTime) - gap;
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
  base: number,
  onFloor: readonly (readonly [number, number])[],
  noise: number,
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
    const rests = f < frames && !taken[f] && s.height[f] > high && s.speed[f] < (start < 0 ? on : off);
    if (rests && start < 0) start = f;
    if (!rests && start >= 0) {
      spans.push([start, f - 1]);
      start = -1;
    }
  }
  return spans
    .flatMap((span) => restingSpans(s.raw, s.speed, span, frameTime, leg))
    .filter(([a, b]) => (b - a + 1) * frameTime >= PLANT_LIMITS.raised.shortest && driftOf(s.raw, a, b) < PLANT_LIMITS.raised.drift * leg)
    .map(([first, last]) => {
      const heights = s.height.subarray(first, last + 1);
      return { side: s.side, part: s.part, first, last, height: percentile(heights, 0.5) - base };
    });
}
