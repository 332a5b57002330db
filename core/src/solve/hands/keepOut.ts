import { length } from '../../math/vec';
import { gaussian, smootherstep } from '../../math/filter';
import { rotate } from '../../math/quat';
import { gapTo } from '../../rig';
import { emptyPose, forward, withAncestors } from '../../skeleton';
import { SIDES } from '../../label';
import type { HandsGiven } from './given';
import { nearHeld } from '../held';
import type { LimbTrack } from '../limbTrack';
import { placeBody } from '../placeBody';
import { holdWithin } from './ways';
import { square } from '../../math/numbers';

/** A hand nearer to its shoulders than this share of its arm may be in trunk or head. */
const NEAR = 0.8;
/** Half the thickness of a hand, and the give of skin, as shares of a leg. */
const THICK = 0.014;
/** A hand goes no farther out than this share of a leg. */
const FARTHEST = 0.18;
/** Way out is found in so many steps. */
const STEPS = 8;
/** Smoothing of the push out of the body: standard deviation, seconds. */
const SOFT = 0.06;
/** Seconds in which a hand that was pushed for a rest, or with the other hand, goes back. */
const LET_GO = 0.4;
/** From the wrist, which is 0, over the palm, which is 1, to the fingers. */
const FINGERS = 2;
/** Trunk, head and thighs. */
const PARTS = /^(hips|spine\.|head|(left|right)\.upperLeg)/;

/**
 * Keeps wrists, palms and fingers out of the character's own trunk, head and thighs, whose room its mesh tells; adds to the shifts.
 * @returns false when none was in
 */
export function keepOut(given: HandsGiven, arms: readonly LimbTrack[], shifts: readonly Float64Array[]): boolean {
  const { pairing, frameTime } = given;
  const { skeleton, hands, volumes, legLength } = pairing.character;
  const parts = volumes.filter(({ role }) => PARTS.test(role));
  if (parts.length === 0) return false;
  const { parents } = skeleton;
  const { frames } = arms[0];
  const chain = withAncestors(
    parents,
    parts.map(({ joint }) => joint),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const thick = THICK * legLength;
  const push = arms.map(() => new Float64Array(frames * 3));
  const at = new Float64Array(3);
  const out = new Float64Array(3);
  const arm = new Float64Array(3);
  const met = spansOf(given.contacts.hands?.touches.filter((touch) => touch.on === 'hand') ?? [], frames);
  let any = false;
  /** Moves hands out of the deepest place in which one of their wrists, palms and fingers is, all alike. @returns false when none is in */
  const step = (f: number, ks: readonly number[]): boolean => {
    let deepest = 0;
    let [x, y, z] = [0, 0, 0];
    let part = 0;
    const middle = [0, 0, 0];
    for (const k of ks) {
      const { data, stride, at: where } = arms[k];
      const o = f * stride;
      rotate(arm, 0, data, o + where.endQ, hands[k].palm, 0);
      for (let share = 0; share <= FINGERS; share++) {
        for (let c = 0; c < 3; c++) at[c] = data[o + where.end + c] + share * arm[c] + shifts[k][f * 3 + c] + push[k][f * 3 + c];
        for (let i = 0; i < parts.length; i++) {
          const depth = thick - gapTo(parts[i], pose, at, 0, out);
          if (depth <= deepest) continue;
          deepest = depth;
          part = parts[i].joint;
          [x, y, z] = out;
        }
      }
      for (let c = 0; c < 3; c++) middle[c] += (at[c] - pose.positions[part * 3 + c]) / ks.length;
    }
    if (deepest === 0) return false;
    if (ks.length > 1) {
      // On both sides of a head there is no way out but away from it.
      const size = length(middle, 0) || 1;
      const direction = [x + middle[0] / size, y + middle[1] / size, z + middle[2] / size];
      const along = direction[0] * x + direction[1] * y + direction[2] * z;
      if (along > 0.2) [x, y, z] = direction.map((v) => v / along);
    }
    for (const k of ks) {
      push[k][f * 3] += x * deepest;
      push[k][f * 3 + 1] += y * deepest;
      push[k][f * 3 + 2] += z * deepest;
    }
    return true;
  };
  for (let f = 0; f < frames; f++) {
    const near = arms.map((_, k) => isNear(arms, k, f, shifts[k]));
    if (!near[0] && !near[1]) continue;
    placeBody(translations, given, f);
    forward(pose, parents, translations, given.rotations, f * parents.length * 4, chain);
    // Hands that meet go out together.
    const groups = met[f] ? [[0, 1]] : [[0], [1]].filter(([k]) => near[k]);
    for (const group of groups) for (let i = 0; i < STEPS && step(f, group); i++) any = true;
  }
  if (!any) return false;
  pushTogether(met, push, given.frameTime);
  pushOnce(given, push);
  for (const shift of push) holdWithin(shift, FARTHEST * legLength);
  push.forEach((way3, k) => {
    const soft = gaussian(way3, 3, SOFT / frameTime);
    for (let i = 0; i < soft.length; i++) shifts[k][i] += soft[i];
  });
  return true;
}

/** Hands that meet stay together: both go the way of the one that has to go farther. */
function pushTogether(met: Uint8Array, push: readonly Float64Array[], frameTime: number): void {
  const weights = nearHeld(met, LET_GO / frameTime);
  for (let f = 0; f < weights.length; f++) {
    if (weights[f] === 0) continue;
    const farther = sizeOf(push[0], f) >= sizeOf(push[1], f) ? push[0] : push[1];
    const [x, y, z] = farther.subarray(f * 3, f * 3 + 3);
    for (const shift of push) {
      shift[f * 3] += (x - shift[f * 3]) * weights[f];
      shift[f * 3 + 1] += (y - shift[f * 3 + 1]) * weights[f];
      shift[f * 3 + 2] += (z - shift[f * 3 + 2]) * weights[f];
    }
  }
}

/** A hand that rests is out from the first frame of its rest to the last by as much as it ever has to be. */
function pushOnce({ contacts, frameTime }: HandsGiven, push: readonly Float64Array[]): void {
  push.forEach((shift, k) => {
    const given = shift.slice();
    for (const { side, on, first, last } of contacts.hands?.touches ?? []) {
      if (side !== SIDES[k] || on !== 'rest') continue;
      let worst = first;
      for (let f = first; f <= last; f++) if (sizeOf(given, f) > sizeOf(given, worst)) worst = f;
      if (sizeOf(given, worst) === 0) continue;
      const width = LET_GO / frameTime;
      const until = Math.min(shift.length / 3 - 1, last + Math.ceil(width));
      for (let f = Math.max(0, first - Math.ceil(width)); f <= until; f++) {
        const near = 1 - smootherstep(Math.max(first - f, f - last, 0) / width);
        if (near * sizeOf(given, worst) < sizeOf(shift, f)) continue;
        for (let c = 0; c < 3; c++) shift[f * 3 + c] = given[worst * 3 + c] * near;
      }
    }
  });
}

function spansOf(list: readonly { readonly first: number; readonly last: number }[], frames: number): Uint8Array {
  const out = new Uint8Array(frames);
  for (const { first, last } of list) out.fill(1, first, last + 1);
  return out;
}

function sizeOf(places: Float64Array, f: number): number {
  return length(places, f * 3);
}

/** True when a hand is as near to the middle of the shoulders as to touch trunk or head. */
function isNear(arms: readonly LimbTrack[], k: number, f: number, shift: Float64Array): boolean {
  const { data, stride, at } = arms[k];
  const other = arms[1 - k];
  const o = f * stride;
  const p = f * other.stride;
  let size = 0;
  let length = 0;
  let upper = 0;
  for (let c = 0; c < 3; c++) {
    const middle = (data[o + at.top + c] + other.data[p + other.at.top + c]) / 2;
    size += square(data[o + at.end + c] + shift[f * 3 + c] - middle);
    upper += square(data[o + at.mid + c] - data[o + at.top + c]);
    length += square(data[o + at.end + c] - data[o + at.mid + c]);
  }
  const whole = Math.sqrt(upper) + Math.sqrt(length);
  return size < NEAR * NEAR * whole * whole;
}
