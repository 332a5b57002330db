import type { Side } from '../label';
import { placeOf } from './resting';

/** Ways of less than this share of a leg say nothing. */
const NOTHING = 3e-4;
/** A toe tip that is no farther from its middle place than this share of a leg rests. */
const TIP = 0.015;

/** The toes of one foot over time, 3 numbers per frame. */
export interface Toes {
  /** The joint that they bend at, and their tip. */
  readonly joint: Float64Array;
  readonly tip: Float64Array;
  /** Where the tip would be if the foot did not bend. */
  readonly stiff: Float64Array;
}

/** The toes of one foot. @param ahead length of the toes, in shares of the way from heel to ball */
export function toesOf(heel: Float64Array, ball: Float64Array, joint: Float64Array, tip: Float64Array, ahead: number): Toes {
  return { joint, tip, stiff: ball.map((v, i) => v + (v - heel[i]) * ahead) };
}

/**
 * What a planted ball of a foot rolls over: 1 for the joint of toes that lie flat while the heel is lifted, as feet do; 0 for the ball
 * under it, where toes are stiff, or where the take has the ball stiller than the joint.
 * @param ball places of the ball over time, 3 per frame
 */
export function rollOf(ball: Float64Array, { joint, tip, stiff }: Toes, first: number, last: number, leg: number): number {
  const nothing = (NOTHING * leg) ** 2;
  const [onBall, onJoint] = [ball, joint].map((places) => spread(places, first, last) + nothing);
  const flat = 1 - Math.min(1, spread(tip, first, last) / (spread(stiff, first, last) + nothing));
  return flat * Math.min(1, onBall / onJoint);
}

/** Mean square of the way from the mean place. */
function spread(places: Float64Array, first: number, last: number): number {
  const count = last - first + 1;
  let sum = 0;
  for (let c = 0; c < 3; c++) {
    let mean = 0;
    for (let f = first; f <= last; f++) mean += places[f * 3 + c] / count;
    for (let f = first; f <= last; f++) sum += (places[f * 3 + c] - mean) ** 2;
  }
  return sum / count;
}

/** Places between two, 3 per frame. */
export function placesBetween(a: Float64Array, b: Float64Array, share: number): Float64Array {
  return share === 0 ? a : a.map((v, i) => v + (b[i] - v) * share);
}

/**
 * Notes how high over the floor the toe tip rests, in the frames of a planted ball in which it does.
 * @param out metres, one a frame
 */
export function noteTips(out: Float64Array, tip: Float64Array, first: number, last: number, floor: number, leg: number): void {
  const place = placeOf(tip, first, last);
  for (let f = first; f <= last; f++) {
    let way = 0;
    for (let c = 0; c < 3; c++) way += (tip[f * 3 + c] - place[c]) ** 2;
    if (way < (TIP * leg) ** 2) out[f] = place[1] - floor;
  }
}

/** How high over the floor each foot's toe tip rests, metres, one a frame; NaN where it does not. */
export type RestingTips = ReadonlyMap<Side, Float64Array>;
