import { distance } from '../../math/vec';
import type { Found } from '../figure';
import type { Scene } from '../scene';
import { flightsOf } from './flight';

/** A point comes from as far as this before a rest, or goes as far after it, and is looked at a little into it, seconds. */
const AWAY = 0.3;
const INTO = 0.08;
/** A way shorter than this says nothing of its time, share of a leg. */
const WAY = 0.15;
/** Farthest that is looked for, seconds; and in steps of this share of a frame. */
const FARTHEST = 0.2;
const STEP = 0.25;
/** Paces that agree no better than this share of their energy are different ways, of which no time can be told. */
const ALIKE: Readonly<Record<'feet' | 'hands', number>> = { feet: 0.06, hands: 0.2 };

/** A foot lands within this time after a flight, seconds. */
const SETTLES = 0.2;
/** A frame that is shorter than this is not seen by itself, seconds. */
const SEEN = 1 / 60;

/** How much later (frames; earlier below 0) the character comes to a rest, or leaves it. */
interface Late {
  readonly frames: number;
  readonly frame: number;
  readonly what: string;
}

/** Metres that a point goes from the frame before. */
function paceOf(places: Float64Array, count: number, point: number, f: number): number {
  const o = (f * count + point) * 3;
  const b = o - count * 3;
  return distance(places, o, places, b);
}

/**
 * The shift at which the character's pace is most like the performer's times a factor (least squares): bodies of other proportions
 * go farther or less far, but stop at the same time.
 * @returns frames; NaN where the paces are not alike at any shift
 */
function shiftOf(mine: Float64Array, theirs: Float64Array, most: number, alike: number): number {
  let best = { apart: Infinity, shift: NaN };
  const n = mine.length;
  for (let shift = -most; shift <= most; shift += STEP) {
    let [mm, mt, tt] = [0, 0, 0];
    for (let i = 0; i < n; i++) {
      // The performer's series is longer by the farthest shift on both sides.
      const at = i + most - shift;
      const k = Math.min(theirs.length - 2, Math.floor(at));
      const b = theirs[k] + (at - k) * (theirs[k + 1] - theirs[k]);
      mm += mine[i] * mine[i];
      mt += mine[i] * b;
      tt += b * b;
    }
    const apart = tt === 0 || mm === 0 ? 1 : 1 - (mt * mt) / (mm * tt);
    if (apart < best.apart - 1e-9 || (apart < best.apart + 1e-9 && Math.abs(shift) < Math.abs(best.shift))) best = { apart, shift };
  }
  return best.apart > alike ? NaN : best.shift;
}

function latesOf(scene: Scene, kind: 'feet' | 'hands'): Late[] {
  const { given, seen, rests, left } = scene;
  const { performer, take } = given;
  const { points, mine, theirs, frames } = seen;
  const count = points.length;
  const most = Math.max(2, Math.round(FARTHEST / take.frameTime));
  const [away, into] = [AWAY, INTO].map((seconds) => Math.round(seconds / take.frameTime));
  const settles = Math.round(SETTLES / take.frameTime);
  const flights = kind === 'feet' ? flightsOf(scene) : [];
  const isLanding = (first: number): boolean => flights.some((flight) => first > flight.last && first <= flight.last + settles);
  const out: Late[] = [];
  for (const rest of rests) {
    if (rest.kind !== kind || (kind === 'feet' && !isLanding(rest.first))) continue;
    const { point, first, last } = rest;
    for (const [what, from, to, frame] of [
      ['comes', first - away, first + into, first],
      ['leaves', last - into, last + away, last],
    ] as const) {
      if (kind === 'feet' && what === 'leaves') continue;
      if (from - most < 1 || to + most >= frames || left.subarray(from, to + 1).includes(1)) continue;
      const performerPace = Float64Array.from({ length: to - from + 1 + 2 * most }, (_, i) =>
        paceOf(theirs, count, point, from - most + i),
      );
      if (performerPace.subarray(most, performerPace.length - most).reduce((sum, v) => sum + v, 0) < WAY * performer.legLength) continue;
      const pace = Float64Array.from({ length: to - from + 1 }, (_, i) => paceOf(mine, count, point, from + i));
      const shift = shiftOf(pace, performerPace, most, ALIKE[kind]);
      if (Number.isFinite(shift)) out.push({ frames: shift, frame, what: `${points[point].name} ${what}` });
    }
  }
  return out;
}

function timing(scene: Scene, id: 'timing.feet' | 'timing.hands', kind: 'feet' | 'hands'): Found {
  const { given, at } = scene;
  const lates = given.inPlace ? [] : latesOf(scene, kind);
  const worst = lates.reduce<Late | undefined>((a, b) => (a && Math.abs(a.frames) >= Math.abs(b.frames) ? a : b), undefined);
  const { frameTime } = given.take;
  return {
    id,
    value: worst ? (Math.abs(worst.frames) * frameTime) / (kind === 'feet' ? Math.max(frameTime, SEEN) : 0.001) : NaN,
    looked: `${lates.length} ends of rests`,
    words: worst
      ? `the ${worst.what} ${(Math.abs(worst.frames) * frameTime * 1000).toFixed(0)} ms ${worst.frames > 0 ? 'late' : 'early'} at ${at(worst.frame)}`
      : kind === 'feet'
        ? 'nothing lands'
        : 'nothing comes to rest',
    frame: worst?.frame,
  };
}

/** By how much feet land at another time than the performer's after a flight. */
export const timingOfFeet = (scene: Scene): Found => timing(scene, 'timing.feet', 'feet');
/** By how much hands come to their rests, or leave them, at another time. */
export const timingOfHands = (scene: Scene): Found => timing(scene, 'timing.hands', 'hands');
