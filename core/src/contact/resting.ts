import { distance } from '../math/vec';
import { CREEP } from './creep';
import { middleOf } from '../math/middle';

/** A span of frames, both ends included. */
export type Span = readonly [first: number, last: number];

/** Distances below this share of a leg count as standing still: the grain of 32-bit rotations. */
const STILL = 2e-5;
/** A probe whose rest at the start and at the end of a span lie farther apart than this share of a leg has moved to another place. */
const MOVED = 0.04;
/** Creeping up to this share of a leg stays one plant. */
const CREPT = 0.12;
/** A foot that moves house may do so at this speed, leg lengths a second. */
const STEP_SPEED = 0.8;
/** Frames are judged against the resting place within this many seconds. */
const NEAR = 0.3;
/** Of that time as many frames are looked at as say it well, whatever the frame rate. */
const LOOKED_AT = 18;
/** A place is told by no more than so many frames of a span. */
const TOLD_BY = 64;
/** How many times its usual distance from its resting place a probe may be away and still rest. */
const LOOSE = 3;

/** A probe over time. */
interface Probe {
  /** Positions, 3 per frame. */
  readonly raw: Float64Array;
  /** One per frame. */
  readonly speed: Float64Array;
  readonly frameTime: number;
  /** The performer's, metres. */
  readonly leg: number;
}

/** Frames that a foot takes at least from one place to another so far away. */
export function timeFor(distance: number, leg: number, frameTime: number): number {
  return Math.ceil(distance / (STEP_SPEED * leg) / frameTime);
}

/**
 * Divides a span of low, slow frames into those in which a probe really rests: where it rests at one place first and at
 * another later, it is divided where it moves fastest; and the frames at both ends in which it is already, or still, on
 * the move are cut off. In a noisy take that is little; of a foot that stands perfectly still not one moving frame is
 * kept, so that pinning adds nothing to it.
 */
export function restingSpans(probe: Probe, span: Span): Span[] {
  const { raw, frameTime, leg } = probe;
  const near = Math.max(3, Math.round(NEAR / frameTime));
  const out: Span[] = [];
  const waiting: Span[] = [span];
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const parts = divide(probe, next, near);
    if (parts) waiting.push(parts[1], parts[0]);
    else out.push(trim(raw, next, near, leg));
  }
  return out;
}

/**
 * Divides a span whose probe rests at one place first and at another later, leaving time enough between for the way:
 * where the probe crept, the frames around its fastest are given up to it. A little creeping is left in one piece, for
 * pinning to take away; a jump it must never become.
 */
function divide({ raw, speed, frameTime, leg }: Probe, [from, to]: Span, near: number): [Span, Span] | undefined {
  const third = Math.floor((to - from + 1) / 3);
  if (third < near / 3) return undefined;
  const moved = distance(placeOf(raw, from, from + third), 0, placeOf(raw, to - third, to), 0);
  if (moved < MOVED * leg) return undefined;
  let fastest = from + third;
  for (let f = fastest; f <= to - third; f++) if (speed[f] > speed[fastest]) fastest = f;
  let last = trim(raw, [from, fastest], near, leg)[1];
  let first = trim(raw, [fastest + 1, to], near, leg)[0];
  const missing = timeFor(moved, leg, frameTime) - (first - last - 1);
  if (missing > 0) {
    if (moved < CREPT * leg) return undefined;
    last -= Math.ceil(missing / 2);
    first += Math.ceil(missing / 2);
  }
  return last > from && first < to
    ? [
        [from, last],
        [first, to],
      ]
    : undefined;
}

/** Cuts off the frames at both ends that lie away from where the probe rests next to them. */
function trim(raw: Float64Array, [from, to]: Span, near: number, leg: number): Span {
  const step = Math.ceil(near / LOOKED_AT);
  // What goes on its way faster than a probe creeps does not rest, as steady as it is. A quarter of a way is the mean distance from its middle.
  const creeps = (CREEP.speed * leg * NEAR) / 4;
  const isAway = (frame: number, next: Span, step: number): boolean => {
    const usual = Math.min(restAt(raw, next, step), creeps);
    return wayFrom(raw, frame, place) > Math.max(STILL * leg, LOOSE * usual);
  };
  let a = from;
  while (a < to && isAway(a, [a + 1, Math.min(to, a + near)], step)) a++;
  let b = to;
  while (b > a && isAway(b, [b - 1, Math.max(a, b - near)], -step)) b--;
  return [a, b];
}

/**
 * Finds the place of a probe over some frames. @returns its usual distance from there
 * @param span the first and the last frame, looked at from step to step
 */
function restAt(raw: Float64Array, [first, last]: Span, step: number): number {
  const count = Math.floor((last - first) / step) + 1;
  middleOf(place, raw, first, step, count);
  let usual = 0;
  for (let i = 0, f = first; i < count; i++, f += step) usual += wayFrom(raw, f, place) / count;
  return usual;
}

const place = new Float64Array(3);

/** The place at which something is over some frames, wherever it is in fewer than half of them. */
export function placeOf(raw: Float64Array, first: number, last: number): Float64Array {
  const out = new Float64Array(3);
  const step = Math.ceil((last - first + 1) / TOLD_BY);
  middleOf(out, raw, first, step, Math.floor((last - first) / step) + 1);
  return out;
}

/** How far a frame's place is from another. */
function wayFrom(raw: Float64Array, frame: number, place: Float64Array): number {
  return distance(raw, frame * 3, place, 0);
}
