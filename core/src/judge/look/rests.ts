import type { Clip } from '../../clip';
import { movingMean, percentile } from '../../math/filter';
import type { Rig } from '../../rig';
import type { BodyPoint, PointKind } from './points';
import { square } from '../../math/numbers';

/** A span of frames, both ends included, in which a point of the performer rests. */
export interface Rest {
  readonly point: number;
  readonly kind: PointKind;
  readonly first: number;
  readonly last: number;
}

/** Slowest movement that counts as one, leg lengths a second; and how much faster a rest ends than it begins. */
const SLOW = 0.1;
const LOOSE = 1.8;
/** The ends of a rest are where the point is as slow as this share of it. */
const CORE = 0.5;
/** Speeds up to so many times the take's own noise are rest. */
const NOISE = 3;
/** A rest lies within this share of a leg; what creeps farther is cut into several. */
const EXTENT = 0.06;
/** Shortest rests, seconds. */
const SHORTEST: Record<PointKind, number> = { feet: 0.12, hands: 0.3, body: 0.4 };
/** A hand that is on the floor, no higher than this share of a leg over where feet rest lowest, carries as a foot does, and rests no longer. */
const ON_FLOOR = 0.08;
/** Seconds over which places are averaged, and between which speed is taken. */
const SMOOTH = 0.02;
const STEP = 0.025;

/**
 * Finds where the performer rests, at any height, from speed and time alone: the limit of speed rises with the take's own noise,
 * told from the stillest tenth of the time of its feet.
 * @param places frames × points × 3
 * @param leg leg length of the performer, metres
 */
export function findRests(places: Float64Array, points: readonly BodyPoint[], frameTime: number, leg: number): Rest[] {
  const count = points.length;
  const frames = count === 0 ? 0 : places.length / (count * 3);
  const speeds = points.map((_, i) => speedOf(places, i, count, frames, frameTime));
  const still = speeds.filter((_, i) => points[i].kind === 'feet').map((speed) => percentile(speed, 0.1));
  const noise = still.length === 0 ? 0 : percentile(still, 0.5);
  const slow = Math.max(SLOW * leg, Math.min(NOISE * noise, 3 * SLOW * leg));
  const rests: Rest[] = [];
  const brief: Rest[] = [];
  const least = (kind: PointKind): number => Math.max(3, Math.round(SHORTEST[kind] / frameTime));
  points.forEach(({ kind }, point) => {
    const speed = speeds[point];
    let start = -1;
    const low = new Float64Array(3);
    const high = new Float64Array(3);
    const end = (to: number): void => {
      // The point comes to rest and leaves it within the slow frames: what still moves at the ends is no rest.
      let [first, last] = [start, to];
      while (first < last && speed[first] > slow * CORE) first++;
      while (last > first && speed[last] > slow * CORE) last--;
      const found = start < 0 ? 0 : last - first + 1;
      if (found >= least(kind)) rests.push({ point, kind, first, last });
      else if (kind === 'hands' && found >= least('feet')) brief.push({ point, kind, first, last });
      start = -1;
    };
    for (let f = 0; f < frames; f++) {
      const o = (f * count + point) * 3;
      if (start >= 0 && speed[f] > slow * LOOSE) end(f - 1);
      if (start < 0) {
        if (speed[f] >= slow) continue;
        start = f;
        for (let c = 0; c < 3; c++) low[c] = high[c] = places[o + c];
        continue;
      }
      let extent = 0;
      for (let c = 0; c < 3; c++) {
        low[c] = Math.min(low[c], places[o + c]);
        high[c] = Math.max(high[c], places[o + c]);
        extent = Math.max(extent, high[c] - low[c]);
      }
      if (extent > EXTENT * leg) {
        end(f - 1);
        start = f;
        for (let c = 0; c < 3; c++) low[c] = high[c] = places[o + c];
      }
    }
    end(frames - 1);
  });
  const heightOf = ({ point, first }: Rest): number => places[(first * count + point) * 3 + 1];
  const feet = rests.filter(({ kind }) => kind === 'feet').map(heightOf);
  // Without a foot that rests nothing tells where the floor is.
  return feet.length === 0 ? rests : [...rests, ...brief.filter((rest) => heightOf(rest) - Math.min(...feet) < ON_FLOOR * leg)];
}

interface Known {
  readonly performer: Rig;
  readonly watched: string;
  readonly rests: readonly Rest[];
}

const known = new WeakMap<Clip, Known>();

/** As `findRests`, for a performer in a take: found once however often that take is transferred and judged. */
export function restsIn(take: Clip, performer: Rig, places: Float64Array, points: readonly BodyPoint[]): readonly Rest[] {
  const watched = points.map(({ name }) => name).join();
  const before = known.get(take);
  if (before && before.performer === performer && before.watched === watched) return before.rests;
  const rests = findRests(places, points, take.frameTime, performer.legLength);
  known.set(take, { performer, watched, rests });
  return rests;
}

function speedOf(places: Float64Array, point: number, count: number, frames: number, frameTime: number): Float64Array {
  const radius = Math.round(SMOOTH / frameTime);
  const step = Math.max(1, Math.round(STEP / frameTime));
  const series = new Float64Array(frames);
  const axis = (c: number): Float64Array => {
    for (let f = 0, o = point * 3 + c; f < frames; f++, o += count * 3) series[f] = places[o];
    return radius === 0 ? series.slice() : movingMean(series, radius);
  };
  const x = axis(0);
  const y = axis(1);
  const z = axis(2);
  const out = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - step);
    const b = Math.min(frames - 1, f + step);
    if (b > a) out[f] = Math.sqrt(square(x[b] - x[a]) + square(y[b] - y[a]) + square(z[b] - z[a])) / ((b - a) * frameTime);
  }
  return out;
}
