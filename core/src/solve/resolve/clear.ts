import { coverCurve, type Time } from '../../math/leastCurve';
import { fromAxisAngle, mul, rotate } from '../../math/quat';
import { distance } from '../../math/vec';
import { raiseNeeded, rightOf } from '../raise';
import type { UnderFoot } from '../underFoot';
import { TURN, type FootHold } from './foot';

/** How slowly the lift bends that clears the floor, seconds: as a free foot comes back to its path. */
const RISE = 0.06;

/** A foot is as well lifted by this share of its length as turned by a radian: the least sum of both squares lets the point through. */
const LIFTED = 0.5;

const arm = new Float64Array(3);
const axis = new Float64Array(3);
const q = new Float64Array(4);

/**
 * Writes from which height of the ankle's displacement on neither heel nor ball is under the floor; −∞ in frames in which the foot is held.
 * @param out metres, one a frame
 * @param ends displacement of the ankle; 3 per frame
 * @param asked 1 in frames that are looked at; undefined for all
 */
export function liftsNeeded(hold: FootHold, out: Float64Array, ends: Float64Array, under: UnderFoot, asked?: Uint8Array): void {
  const { leg, foot, footQ, pivots } = hold;
  const { data, stride, at, frames } = leg;
  for (let f = 0; f < frames; f++) {
    if (asked && asked[f] === 0) continue;
    out[f] = -Infinity;
    if (pivots.held[f]) continue;
    const o = f * stride + at.end;
    for (let i = 0; i < 2; i++) {
      rotate(arm, 0, footQ, f * 4, i === 0 ? foot.heel : foot.ball, 0);
      const [x, z] = [data[o] + ends[f * 3] + arm[0], data[o + 2] + ends[f * 3 + 2] + arm[2]];
      out[f] = Math.max(out[f], under(f, x, z) - data[o + 1] - arm[1]);
    }
  }
}

/**
 * Turns a swinging foot whose ball, or heel, is under the floor toward the floor's own slope, and no farther: a foot that is longer than the
 * performer's comes down flatter, where its knee would else be lifted to let the toes through. One that points straight down is not turned, but lifted.
 * @param ends displacement of the ankle; 3 per frame
 * @param from frames before this one are final
 */
export function levelSwing({ leg, foot, footQ, pivots }: FootHold, ends: Float64Array, under: UnderFoot, time: Time, from: number): void {
  const { data, stride, at, frames } = leg;
  const held = withPast(pivots.held, from);
  const right = rightOf(foot);
  const sole = new Float64Array(3);
  const needs = new Float64Array(frames);
  const length = distance(foot.ball, 0, foot.heel, 0);
  const costs = LIFTED * LIFTED * length * length;
  for (const [point, other, way] of [
    [foot.ball, foot.heel, 1],
    [foot.heel, foot.ball, -1],
  ] as const) {
    const lowerOf = point.map((v, c) => v - other[c]);
    const toward = right.map((v) => v * way);
    needs.fill(-Infinity);
    for (let f = from; f < frames; f++) {
      if (held[f]) continue;
      rotate(axis, 0, footQ, f * 4, toward, 0);
      rotate(arm, 0, footQ, f * 4, point, 0);
      rotate(sole, 0, footQ, f * 4, lowerOf, 0);
      const o = f * stride + at.end;
      const [x, z] = [data[o] + ends[f * 3] + arm[0], data[o + 2] + ends[f * 3 + 2] + arm[2]];
      const ground = under(f, x, z);
      const low = ground - data[o + 1] - ends[f * 3 + 1] - arm[1];
      // The point's rise for each radian.
      const lever = axis[2] * arm[0] - axis[0] * arm[2];
      // Of a foot that is upside down no turn raises it.
      if (lever <= 0) continue;
      needs[f] = Math.min(raiseNeeded(axis, sole, ground - under(f, x - sole[0], z - sole[2])), (low * lever) / (lever * lever + costs));
    }
    const raised = coverCurve(needs, TURN, time, held);
    if (!raised) continue;
    for (let f = from; f < frames; f++) {
      if (raised[f] === 0) continue;
      rotate(axis, 0, footQ, f * 4, toward, 0);
      fromAxisAngle(q, 0, axis[0], axis[1], axis[2], raised[f]);
      mul(footQ, f * 4, q, 0, footQ, f * 4);
    }
  }
}

/**
 * Raises a swinging foot whose heel or ball is under the floor as far as it has to, and lets it down again without a corner.
 * @param ends displacement of the ankle; 3 per frame
 * @param from frames before this one are final
 */
export function clearFloor(hold: FootHold, ends: Float64Array, under: UnderFoot, time: Time, from: number): void {
  const { held } = hold.pivots;
  const { frames } = hold.leg;
  const needs = new Float64Array(frames);
  liftsNeeded(hold, needs, ends, under);
  for (let f = 0; f < frames; f++) needs[f] = f < from ? -Infinity : needs[f] - ends[f * 3 + 1];
  const raised = coverCurve(needs, RISE, time, withPast(held, from));
  if (raised) for (let f = from; f < frames; f++) ends[f * 3 + 1] += raised[f];
}

/** Frames whose ends stand: held ones, and the final ones. */
export function withPast(held: Uint8Array, from: number): Uint8Array {
  return from > 0 ? held.slice().fill(1, 0, from) : held;
}
