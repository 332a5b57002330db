import { distance } from '../math/vec';
import { gaussian, percentile } from '../math/filter';
import type { BodyContacts } from './body';
import { creepOf, type Creeping } from './creep';
import { DEFAULT_DETECTION, type Detection } from '../recipe';
import type { Hands } from './hands';
import { placeOf } from './resting';
import { findSlope, slopeOf, type Ground, type Slope } from './slope';
import type { Side } from '../label';
import type { ProbeTrack } from './probes';
import { cutHigher, higherOnes } from './lower';
import { PLANT_LIMITS, restOf, standsOf, type Plant, type Series } from './stands';
import { restingTips, rollOf } from './rolling';

/** The plants of a take, the floor that they stand on, and what the hands do. */
export interface Contacts {
  readonly plants: readonly Plant[];
  /** Height of the floor under the performer, metres; of one that slopes, the lowest that the feet go over. */
  readonly floor: number;
  /** How it slopes; undefined where it is level. */
  readonly ground?: Ground;
  readonly hands?: Hands;
  /** Knees, seat, back and head; nothing when none comes near the floor. */
  readonly body?: BodyContacts;
}

/**
 * Finds plants on the performer's heel and ball probes: low-pass (zero phase), then height over the floor and
 * speed with hysteresis. Each probe's own resting height is estimated, so that a sole that the skeleton shows a little
 * too high or low does not hide its contacts; the speed limit rises with the take's noise. A rest higher than the floor and
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
  const series = seriesOf(probes, frames, frameTime);
  const given = slopeOf(detection);
  const looking: Looking = { frameTime, leg, detection };
  if (given) return plantsOver(series, groundUnder(series, given), looking);
  const level = plantsOver(series, undefined, looking);
  if (detection.slope || !level.plants.some(({ height = 0 }) => height > 0)) return level;
  const rests = level.plants.map((plant) => {
    const { raw } = series.find(({ side, part }) => side === plant.side && part === plant.part)!;
    return { ...plant, place: placeOf(raw, plant.first, plant.last) };
  });
  const found = findSlope(rests, leg);
  return found ? plantsOver(series, groundUnder(series, found), looking) : level;
}

/** How high a level floor lies under the probes, metres: what `findPlants` finds where nothing is said of it. */
export function findLevelFloor(probes: readonly ProbeTrack[], frames: number, frameTime: number, leg: number): number {
  return findFloor(seriesOf(probes, frames, frameTime), leg);
}

function seriesOf(probes: readonly ProbeTrack[], frames: number, frameTime: number): Series[] {
  return probes.flatMap((foot): Series[] => [
    { ...measure(foot.side, 'heel', foot.heel, frames, frameTime), isOver: foot.isOver },
    { ...measure(foot.side, 'ball', foot.ball, frames, frameTime), isOver: foot.isOver, ...(foot.toes > 0 && { sole: foot }) },
  ]);
}

/** How plants are looked for. */
interface Looking {
  readonly frameTime: number;
  /** The performer's, metres. */
  readonly leg: number;
  readonly detection: Detection;
}

/** @param ground how the floor slopes; undefined for one that is level */
function plantsOver(all: readonly Series[], ground: Ground | undefined, { frameTime, leg, detection }: Looking): Contacts {
  const frames = all[0]?.height.length ?? 0;
  const under = ({ side, part }: Pick<Plant, 'side' | 'part'>): Float64Array => ground!.under.get(`${side}.${part}`)!;
  const series = ground ? all.map((s) => ({ ...s, height: s.height.map((h, f) => h - under(s)[f]) })) : all;
  const floor = detection.floor ?? findFloor(series, leg);
  const rests = series.map((s) => restOf(s, floor, leg));
  const stands = series.map((s, i) => standsOf(s, rests[i], frameTime, leg, detection));
  const higher = higherOnes(stands, series, rests, leg);
  const plants = series.flatMap((s, at) => {
    const { sole } = s;
    const isHigher = higher[at];
    const own = cutHigher(stands[at], isHigher);
    return own.map((span, i): Plant => {
      const { first, last } = span;
      const from = own[i - 1]?.last ?? -1;
      const to = own[i + 1]?.first ?? frames;
      const room: Creeping = { from, to, leg, isAway: span.height ? undefined : isHigher };
      let creep = creepOf(s, span, room);
      // The point that a foot rolls over shows best as it rolls off.
      const rolls = sole ? rollOf(sole, first - creep.before.length / 3, last + creep.after.length / 3, leg) : 0;
      if (rolls > 0) creep = creepOf(s, span, { ...room, rolls });
      return {
        ...span,
        ...(ground && onGround(under(span), span)),
        ...(rolls > 0 && { rolls }),
        creep,
        place: restingPlace(s, span, rolls),
        ...(sole && span.height === undefined && !ground && { tips: restingTips(sole.tip, span, floor, leg) }),
      };
    });
  });
  plants.sort((a, b) => a.first - b.first || (a.side < b.side ? -1 : a.side > b.side ? 1 : a.part < b.part ? 1 : -1));
  return { plants, floor, ...(ground && { ground }) };
}

/** Where a probe rests, or of a ball that rolls over its toes the point that it rolls over. */
function restingPlace({ raw, sole }: Series, { first, last }: Plant, rolls: number): Float64Array {
  if (!sole || rolls === 0) return placeOf(raw, first, last);
  const { joint } = sole;
  const point = raw.slice(first * 3, (last + 1) * 3);
  for (let i = 0; i < point.length; i++) point[i] += (joint[first * 3 + i] - point[i]) * rolls;
  return placeOf(point, 0, last - first);
}

/** The height over the floor of a plant on ground that slopes, and of the ground. @param under of the ground, metres, frame by frame */
export function onGround(
  under: Float64Array,
  { first, last, height = 0 }: Pick<Plant, 'first' | 'last' | 'height'>,
): Pick<Plant, 'height' | 'ground'> {
  const heights = under.slice(Math.max(0, first), last + 1);
  const ground = heights.length === 0 ? 0 : percentile(heights, 0.5);
  return { height: height + ground, ground };
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

function measure(side: Side, part: 'heel' | 'ball', raw: Float64Array, frames: number, frameTime: number): Omit<Series, 'isOver'> {
  const p = gaussian(raw, 3, PLANT_LIMITS.smooth / frameTime);
  const height = new Float64Array(frames);
  const speed = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - 1) * 3;
    const b = Math.min(frames - 1, f + 1) * 3;
    const dt = ((b - a) / 3) * frameTime;
    height[f] = p[f * 3 + 1];
    speed[f] = dt > 0 ? distance(p, b, p, a) / dt : 0;
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
