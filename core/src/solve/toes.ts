import { between, exp, fromAxisAngle, invMul, log, mul, mulInv, rotate } from '../math/quat';
import { exp as expOf } from '../math/trig';
import type { Foot } from '../rig';
import type { LimbTrack } from './limbTrack';
import { raiseNeeded, rightOf } from './raise';
import { coverCurve, fillCurve, type Time } from '../math/leastCurve';
import { TURN } from './resolve/foot';
import type { UnderFoot } from './underFoot';

/** Rotations of less than this, radians, are none. */
const NOTHING = 1e-9;

/** Curves that a foot's toes follow. */
interface Given {
  readonly leg: LimbTrack;
  readonly foot: Foot;
  /** Where the ankle goes, 3 per frame, and how the foot turns, 4 per frame. */
  readonly ankle: Float64Array;
  readonly footQ: Float64Array;
  readonly under: UnderFoot;
  readonly time: Time;
}

/**
 * World rotations of the toes, 4 per frame. They follow the foot's correction; where the performer's toe tip rests they point at one
 * place, whatever the foot does behind them; and they bend up where their tip would go below the floor.
 * @param tips how high over the floor the tip rests, metres, one a frame; NaN where it does not
 */
export function bendToes(given: Given, tips: Float64Array | undefined): Float64Array {
  const { leg, footQ } = given;
  const { data } = leg;
  const frames = footQ.length / 4;
  const out = new Float64Array(frames * 4);
  const q = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const o = f * leg.stride;
    // toes = foot' · foot⁻¹ · toes: the correction of the foot laid on the toes.
    invMul(q, 0, data, o + leg.at.endQ, data, o + leg.at.beyondQ);
    mul(out, f * 4, footQ, f * 4, q, 0);
  }
  if (leg.plan.beyond < 0) return out;
  if (tips) restTips(given, out, tips);
  clearFloor(given, out);
  return out;
}

/** Toes that were shown otherwise than they are found come over within some times this, seconds: to an e-th of it in each. */
const COMES = 0.05;

/**
 * Makes toes go on from how they were shown: a rest that is found late turned them at once.
 * @param toesQ world rotations, 4 per frame; changed @param shown that of the frame before `from`
 */
export function goOnToes(toesQ: Float64Array, shown: Float64Array, from: number, frameTime: number): void {
  const q = new Float64Array(4);
  const off = new Float64Array(3);
  mulInv(q, 0, shown, 0, toesQ, (from - 1) * 4);
  log(off, 0, q, 0);
  const left = expOf(-frameTime / COMES);
  for (let f = from, share = left; f < toesQ.length / 4; f++, share *= left) {
    exp(q, 0, off[0] * share, off[1] * share, off[2] * share);
    mul(toesQ, f * 4, q, 0, toesQ, f * 4);
  }
}

/** Points the toes at one place for as long as their tip rests; between rests the correction is carried over. */
function restTips({ foot, ankle, footQ, under, time }: Given, out: Float64Array, tips: Float64Array): void {
  const frames = out.length / 4;
  const to = new Float64Array(3);
  const q = new Float64Array(4);
  const turn = new Float64Array(frames * 3);
  const given = new Uint8Array(frames);
  /** Of each frame of a rest the joint of the toes, and the way from it to their tip. */
  const joint = new Float64Array(frames * 3);
  const tip = new Float64Array(frames * 3);
  for (let first = 0, last = 0; first < frames; first = last + 1) {
    last = first;
    if (Number.isNaN(tips[first])) continue;
    while (last + 1 < frames && !Number.isNaN(tips[last + 1])) last++;
    let [x, y, z] = [0, 0, 0];
    for (let f = first; f <= last; f++) {
      const o = f * 3;
      rotate(joint, o, footQ, f * 4, foot.bend, 0);
      for (let c = 0; c < 3; c++) joint[o + c] += ankle[o + c];
      rotate(tip, o, out, f * 4, foot.tip, 0);
      x += (joint[o] + tip[o]) / (last - first + 1);
      y += (joint[o + 1] + tip[o + 1]) / (last - first + 1);
      z += (joint[o + 2] + tip[o + 2]) / (last - first + 1);
    }
    for (let f = first; f <= last; f++) {
      const o = f * 3;
      to[0] = x - joint[o];
      const ground = under(f, joint[o], joint[o + 2]);
      // On the performer's own body as high as the take has them.
      to[1] = (ground === -Infinity ? y : ground + tips[f]) - joint[o + 1];
      to[2] = z - joint[o + 2];
      between(q, 0, tip, o, to, 0);
      log(turn, o, q, 0);
      given[f] = 1;
    }
  }
  fillCurve(turn, 3, given, TURN, time);
  for (let f = 0; f < frames; f++) {
    const [x, y, z] = [turn[f * 3], turn[f * 3 + 1], turn[f * 3 + 2]];
    if (Math.abs(x) + Math.abs(y) + Math.abs(z) < NOTHING) continue;
    exp(q, 0, x, y, z);
    mul(out, f * 4, q, 0, out, f * 4);
  }
}

/**
 * Raises toes whose tip would be below the floor about the foot's own axis to its left, in which toes bend, and lets them down again, without a
 * corner.
 */
function clearFloor({ foot, ankle, footQ, under, time }: Given, out: Float64Array): void {
  const frames = out.length / 4;
  const joint = new Float64Array(3);
  const tip = new Float64Array(3);
  const axis = new Float64Array(3);
  const q = new Float64Array(4);
  const right = rightOf(foot);
  /** How much farther up the toes have to point than they do, radians. */
  const needs = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    rotate(joint, 0, footQ, f * 4, foot.bend, 0);
    const height = ankle[f * 3 + 1] + joint[1] - under(f, ankle[f * 3] + joint[0], ankle[f * 3 + 2] + joint[2]);
    rotate(tip, 0, out, f * 4, foot.tip, 0);
    rotate(axis, 0, footQ, f * 4, right, 0);
    needs[f] = raiseNeeded(axis, tip, -height);
  }
  const raised = coverCurve(needs, TURN, time);
  if (!raised) return;
  for (let f = 0; f < frames; f++) {
    if (Math.abs(raised[f]) < NOTHING) continue;
    rotate(axis, 0, footQ, f * 4, right, 0);
    fromAxisAngle(q, 0, axis[0], axis[1], axis[2], raised[f]);
    mul(out, f * 4, q, 0, out, f * 4);
  }
}
