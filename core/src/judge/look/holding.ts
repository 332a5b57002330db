import { percentile } from '../../math/filter';
import type { BodyPoint, PointKind } from './points';
import type { Rest } from './rests';
import { square } from '../../math/numbers';

/** How far a point may be from its place and still be held, metres on a leg of a metre, beyond the performer's own way. */
const PLAY: Record<PointKind, number> = { feet: 0.005, hands: 0.01, body: 0.02 };

/** A rest with the middle place of its point on both bodies. */
export interface Standing extends Rest {
  readonly mine: readonly [number, number, number];
  readonly theirs: readonly [number, number, number];
}

/** How much of the performer's rests the character holds. */
export interface Holding {
  /** Seconds. */
  readonly rested: number;
  readonly held: number;
  /** The rest with the longest time not held. */
  readonly worst: { readonly rest: Standing; readonly seconds: number; readonly away: number } | undefined;
  readonly notHeld: number;
  /** Seconds that each of the rests is not held. */
  readonly lost: ReadonlyMap<Standing, number>;
}

/** How feet slide over the floor in the performer's rests; metres. */
export interface Sliding {
  readonly travel: number;
  readonly performerTravel: number;
  readonly seconds: number;
  readonly worst: { readonly rest: Rest; readonly excess: number } | undefined;
}

/**
 * Holds the character's points against the performer's rests of one kind. A point is held while it is as near to its middle place
 * as the performer's is to its own, scaled, with a little play.
 * @param mine places of the character's points, frames × points × 3
 * @param theirs places of the performer's
 */
export function holdingOf(
  rests: readonly Standing[],
  kind: PointKind,
  points: readonly BodyPoint[],
  mine: Float64Array,
  theirs: Float64Array,
  scale: { readonly stride: number; readonly lift: number },
  frameTime: number,
  leg: number,
): Holding {
  const count = points.length;
  let rested = 0;
  let held = 0;
  let notHeld = 0;
  let worst: Holding['worst'];
  const all = new Map<Standing, number>();
  const play = PLAY[kind] * Math.min(1, leg);
  for (const rest of rests) {
    if (rest.kind !== kind) continue;
    const { mine: a, theirs: b } = rest;
    let lost = 0;
    let away = 0;
    for (let f = rest.first; f <= rest.last; f++) {
      const o = (f * count + rest.point) * 3;
      const crept = Math.sqrt(
        square((theirs[o] - b[0]) * scale.stride) +
          square((theirs[o + 1] - b[1]) * scale.lift) +
          square((theirs[o + 2] - b[2]) * scale.stride),
      );
      const moved = Math.sqrt(square(mine[o] - a[0]) + square(mine[o + 1] - a[1]) + square(mine[o + 2] - a[2]));
      if (moved <= crept + play) continue;
      lost++;
      away = Math.max(away, moved - crept);
    }
    const frames = rest.last - rest.first + 1;
    rested += frames * frameTime;
    held += (frames - lost) * frameTime;
    // A moment at an end is no rest that was lost.
    if (lost * frameTime > 0.06) notHeld++;
    all.set(rest, lost * frameTime);
    if (lost > 0 && (!worst || lost * frameTime > worst.seconds)) worst = { rest, seconds: lost * frameTime, away };
  }
  return { rested, held, worst, notHeld, lost: all };
}

/** How far resting feet go over the floor on the character, and on the performer, scaled. */
export function slidingOf(
  rests: readonly Rest[],
  points: readonly BodyPoint[],
  mine: Float64Array,
  theirs: Float64Array,
  stride: number,
  frameTime: number,
): Sliding {
  const count = points.length;
  let travel = 0;
  let performerTravel = 0;
  let seconds = 0;
  let worst: Sliding['worst'];
  for (const rest of rests) {
    if (rest.kind !== 'feet') continue;
    const a = overFloor(mine, count, rest);
    const b = overFloor(theirs, count, rest) * stride;
    travel += a;
    performerTravel += b;
    seconds += (rest.last - rest.first) * frameTime;
    if (!worst || a - b > worst.excess) worst = { rest, excess: a - b };
  }
  return { travel, performerTravel, seconds, worst };
}

function overFloor(places: Float64Array, count: number, { point, first, last }: Rest): number {
  let travel = 0;
  for (let f = first + 1; f <= last; f++) {
    const o = (f * count + point) * 3;
    const b = o - count * 3;
    travel += Math.sqrt(square(places[o] - places[b]) + square(places[o + 2] - places[b + 2]));
  }
  return travel;
}

/** A median needs no more frames than this. */
const ENOUGH = 60;

/** The median place of a point over a rest, told from frames spread over it. */
export function middle(places: Float64Array, count: number, { point, first, last }: Rest): [number, number, number] {
  const step = Math.max(1, Math.floor((last - first + 1) / ENOUGH));
  const series = new Float64Array(Math.floor((last - first) / step) + 1);
  const axis = (c: number): number => {
    for (let i = 0; i < series.length; i++) series[i] = places[((first + i * step) * count + point) * 3 + c];
    return percentile(series, 0.5);
  };
  return [axis(0), axis(1), axis(2)];
}

/** A part of the body that rests lower over the floor than this share of a leg lies on it. */
const LIES = 0.3;

/** Frames in which knees, seat, back or head lie on the floor, about: those of the part that lies longest. */
export function lyingFrames(rests: readonly Standing[], floor: number, leg: number): number {
  const frames = new Map<number, number>();
  for (const { kind, point, first, last, theirs } of rests) {
    if (kind !== 'body' || theirs[1] - floor > LIES * leg) continue;
    frames.set(point, (frames.get(point) ?? 0) + last - first + 1);
  }
  return Math.max(0, ...frames.values());
}

/** A palm that rests lower over the performer's floor than this share of a leg lies on it. */
export const DOWN = 0.06;

/** True for a rest of a hand on the performer's floor. @param high how high it is over that, metres @param leg the performer's */
export function isDown({ kind }: Standing, high: number, leg: number): boolean {
  return kind === 'hands' && high < DOWN * leg;
}
