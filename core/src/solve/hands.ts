import type { Hands } from '../contact';
import { SIDES } from '../label';
import type { Pairing } from '../match';
import { envelope, gaussian, smoothstep } from '../math/filter';
import { rotate } from '../math/quat';
import { emptyPose, forward } from '../skeleton';
import { carryOver } from './carry';
import type { FootPath } from './footPath';
import { framesToHeld, nearHeld } from './held';
import type { HandsGiven } from './handsGiven';
import { keepOut } from './keepOut';
import type { LimbTrack } from './limbTrack';
import { placeBody } from './placeBody';
import { DEFAULT_SOLVE, type SolveSettings } from './settings';

/** Seconds over which a hand is lifted off the floor and let down again. */
const CLEAR = 0.3;
/** What takes a hand to its place has no corners: standard deviation, seconds. */
const SOFT = 0.035;
/** What is smaller than this share of a leg is let be: nobody sees it, and a straight elbow would pay for it. */
const PLAY = 0.008;
/** Palms nearer than this share of a leg touch, and must on the character too. */
const TOUCHING = 0.16;
/** Seconds that hands take at least from a rest to a meeting. */
const APART = 0.35;
/** Shares of an arm's length: from the first to the second a folded arm is corrected more and more. */
const FOLDED = [0.15, 0.5] as const;
/** Share of its length that an arm can be counted on for. */
const FULL = 0.96;
/** Shifts of less than this, metres, are none. */
const NOTHING = 1e-6;
/** Seconds in which a hand is let go. */
const HOLD = 0.15;
/** What is carried may be this much wider or narrower than the arms are longer or shorter. */
const WIDEST = 1.6;
/** Hands higher over the floor than this share of a leg are not looked at. */
const NEAR_FLOOR = 0.35;

/**
 * Where both hands shall be. A hand that rests keeps its place but for what the performer's own hand moves in its rest; hands that
 * meet lie towards each other as the performer's do, in proportion to the arms, each giving half; between, what was corrected dies
 * out. A hand keeps its turn in the world, stays out of trunk and head, and never goes below the floor.
 * @param arms the arms through the posed and placed body, after the hips have given way
 * @returns undefined when no hand has to go anywhere
 */
export function planHands(
  { pairing, plan, rotations, root, contacts, frameTime, floor }: HandsGiven,
  arms: readonly LimbTrack[],
  settings: Pick<SolveSettings, 'hands' | 'keepOut'> = DEFAULT_SOLVE,
): FootPath[] | undefined {
  const { hands } = contacts;
  const { character } = pairing;
  if (!hands || arms.length < 2 || character.hands.length < 2) return undefined;
  const { frames } = arms[0];
  const palms = arms.map((arm, k) => palmsOf(arm, character.hands[k].palm));
  const held = arms.map(() => new Uint8Array(frames));
  const shifts = arms.map((_, k) => restShift(hands, k, palms[k], held[k], pairing.scale, frameTime));
  const play = PLAY * character.legLength;
  for (const shift of shifts) yieldTo(shift, play);
  const met = meet(hands, palms, shifts, held, pairing, frameTime);
  if (met) shareReach(arms, shifts, held, frameTime);
  shifts.forEach((shift, k) => {
    spareFolded(arms[k], shift, held[k], frameTime);
    shift.set(gaussian(shift, 3, SOFT / frameTime));
    if (settings.hands < 1) for (let i = 0; i < shift.length; i++) shift[i] *= settings.hands;
  });
  const given = { pairing, plan, rotations, root, contacts, frameTime, floor };
  const pushed = settings.keepOut && keepOut(given, arms, shifts);
  const lifted = clearFloor(given, palms, shifts);
  if (!met && !pushed && !lifted && held.every((list) => list.every((on) => on === 0))) return undefined;
  return arms.map(({ data, stride, at }, k) => {
    const ankle = new Float64Array(frames * 3);
    const footQ = new Float64Array(frames * 4);
    const idle = new Uint8Array(frames);
    const shift = shifts[k];
    for (let f = 0; f < frames; f++) {
      if (Math.abs(shift[f * 3]) + Math.abs(shift[f * 3 + 1]) + Math.abs(shift[f * 3 + 2]) < NOTHING) {
        idle[f] = 1;
        continue;
      }
      for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * stride + at.end + c] + shift[f * 3 + c];
      for (let c = 0; c < 4; c++) footQ[f * 4 + c] = data[f * stride + at.endQ + c];
    }
    return { ankle, footQ, toesQ: footQ, held: held[k], still: held[k], idle };
  });
}

/** Places of a palm over time, 3 per frame. */
function palmsOf({ data, stride, at, frames }: LimbTrack, palm: Float64Array): Float64Array {
  const out = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    rotate(out, f * 3, data, f * stride + at.endQ, palm, 0);
    for (let c = 0; c < 3; c++) out[f * 3 + c] += data[f * stride + at.end + c];
  }
  return out;
}

/**
 * A hand that goes on resting where it has met the other, or rested there before it did, stays: the correction stays with it. One
 * that rests on its own is not moved, but for the frames next to a meeting.
 */
function restOn(touches: Hands['touches'], error: Float64Array, given: Uint8Array, apart: number): void {
  const meets = given.slice();
  for (const { on, first, last } of touches) {
    if (on !== 'rest') continue;
    for (const [from, to, step] of [
      [first, last, 1],
      [last, first, -1],
    ] as const) {
      for (let f = from; f !== to; f += step) {
        if (!given[f] || meets[f + step]) continue;
        for (let c = 0; c < 3; c++) error[(f + step) * 3 + c] = error[f * 3 + c];
        given[f + step] = 1;
      }
    }
  }
  const distance = framesToHeld(given);
  for (const { on, first, last } of touches) {
    for (let f = first; on === 'rest' && f <= last; f++) if (distance[f] > apart) given[f] = 1;
  }
}

/** Where one hand of two that meet is out of reach, the other comes to it. */
function shareReach(arms: readonly LimbTrack[], shifts: readonly Float64Array[], held: readonly Uint8Array[], frameTime: number): void {
  const near = held.map((list) => nearHeld(list, HOLD / frameTime));
  const short = arms.map(({ data, stride, at, frames }, k) => {
    const out = new Float64Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      const o = f * stride;
      const full = FULL * (span(data, o + at.top, data, o + at.mid) + span(data, o + at.mid, data, o + at.end));
      // As far as the performer reaches, it may reach.
      const whole = Math.max(full, span(data, o + at.top, data, o + at.end));
      let d = 0;
      for (let c = 0; c < 3; c++) d += (data[o + at.end + c] + shifts[k][f * 3 + c] - data[o + at.top + c]) ** 2;
      d = Math.sqrt(d);
      const over = Math.max(0, d - whole) * Math.min(near[0][f], near[1][f]);
      for (let c = 0; c < 3; c++) out[f * 3 + c] = ((data[o + at.end + c] + shifts[k][f * 3 + c] - data[o + at.top + c]) * -over) / d;
    }
    return out;
  });
  shifts.forEach((shift, k) => {
    for (let i = 0; i < shift.length; i++) shift[i] += short[1 - k][i];
  });
}

/** Beside its rests a hand that comes near its own shoulder is let be: there a small way turns the whole arm. */
function spareFolded({ data, stride, at }: LimbTrack, shift: Float64Array, held: Uint8Array, frameTime: number): void {
  const near = nearHeld(held, HOLD / frameTime);
  for (let f = 0; f < held.length; f++) {
    const o = f * stride;
    const whole = span(data, o + at.top, data, o + at.mid) + span(data, o + at.mid, data, o + at.end);
    const open = smoothstep((span(data, o + at.top, data, o + at.end) / whole - FOLDED[0]) / (FOLDED[1] - FOLDED[0]));
    const kept = Math.max(open, near[f]);
    for (let c = 0; c < 3; c++) shift[f * 3 + c] *= kept;
  }
}

/** Lets small corrections be, large ones nearly whole, without a corner. */
function yieldTo(shift: Float64Array, play: number): void {
  for (let i = 0; i < shift.length; i += 3) {
    const size = shift[i] * shift[i] + shift[i + 1] * shift[i + 1] + shift[i + 2] * shift[i + 2];
    const kept = size / (size + play * play);
    for (let c = 0; c < 3; c++) shift[i + c] *= kept;
  }
}

/** How much longer the character's arms are than the performer's. */
function armRatio({ performer, character }: Pairing): number {
  const length = ({ roles, restPose: { positions } }: Pairing['performer']): number =>
    SIDES.reduce((sum, side) => {
      const [a, b, c] = ['upperArm', 'lowerArm', 'hand'].map((part) => roles.get(`${side}.${part}`)! * 3);
      return sum + span(positions, a, positions, b) + span(positions, b, positions, c);
    }, 0);
  return length(character) / length(performer);
}

function span(p: Float64Array, a: number, q: Float64Array, b: number): number {
  return Math.sqrt((p[a] - q[b]) ** 2 + (p[a + 1] - q[b + 1]) ** 2 + (p[a + 2] - q[b + 2]) ** 2);
}

/** What takes a resting hand to its place, 3 per frame, carried over between rests. */
function restShift(
  { palms, touches }: Hands,
  k: number,
  own: Float64Array,
  held: Uint8Array,
  scale: Pairing['scale'],
  frameTime: number,
): Float64Array {
  const shift = new Float64Array(own.length);
  const theirs = palms[k];
  if (!theirs) return shift;
  const ratio = [scale.stride, scale.lift, scale.stride];
  for (const { side, on, first, last } of touches) {
    if (side !== SIDES[k] || on !== 'rest') continue;
    const count = last - first + 1;
    for (let c = 0; c < 3; c++) {
      let away = 0;
      for (let f = first; f <= last; f++) away += ratio[c] * theirs[f * 3 + c] - own[f * 3 + c];
      away /= count;
      for (let f = first; f <= last; f++) shift[f * 3 + c] = ratio[c] * theirs[f * 3 + c] - away - own[f * 3 + c];
    }
    held.fill(1, first, last + 1);
  }
  carryOver(shift, 3, held, frameTime);
  return shift;
}

/** Brings hands that meet together; adds to both shifts. @returns false when none meet */
function meet(
  { palms, touches }: Hands,
  own: readonly Float64Array[],
  shifts: readonly Float64Array[],
  held: readonly Uint8Array[],
  pairing: Pairing,
  frameTime: number,
): boolean {
  const [l, r] = palms;
  const meetings = touches.filter(({ on }) => on === 'hand');
  if (!l || !r || meetings.length === 0) return false;
  const error = new Float64Array(l.length);
  const given = new Uint8Array(l.length / 3);
  const arms = armRatio(pairing);
  const touching = TOUCHING * pairing.performer.legLength;
  for (const { first, last } of meetings) {
    // Hands that touch do so in proportion to the arms; what is carried between them keeps the width that it has on this body.
    let theirs = 0;
    let mine = 0;
    for (let f = first; f <= last; f++) {
      theirs += span(l, f * 3, r, f * 3);
      mine += span(own[0], f * 3, own[1], f * 3);
    }
    const apart = theirs / (last - first + 1);
    const wide = Math.min(WIDEST * arms, Math.max(arms / WIDEST, mine / theirs));
    const ratio = arms + (wide - arms) * smoothstep((apart - touching) / touching);
    for (let i = first * 3; i < last * 3 + 3; i++) {
      error[i] = ratio * (l[i] - r[i]) - (own[0][i] + shifts[0][i] - own[1][i] - shifts[1][i]);
    }
    given.fill(1, first, last + 1);
    for (const list of held) list.fill(1, first, last + 1);
  }
  restOn(touches, error, given, Math.round(APART / frameTime));
  carryOver(error, 3, given, frameTime);
  yieldTo(error, PLAY * pairing.character.legLength);
  for (let i = 0; i < error.length; i++) {
    shifts[0][i] += error[i] / 2;
    shifts[1][i] -= error[i] / 2;
  }
  return true;
}

/** Lifts hands whose skin would go below the floor; adds to the shifts. @returns false when none would */
function clearFloor(
  { pairing: { character }, plan, rotations, root, frameTime, floor }: HandsGiven,
  palms: readonly Float64Array[],
  shifts: readonly Float64Array[],
): boolean {
  const { skeleton, hands, legLength } = character;
  const { parents } = skeleton;
  const frames = palms[0].length / 3;
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  let any = false;
  const needs = hands.map(() => new Float64Array(frames));
  for (let f = 0; f < frames; f++) {
    let posed = false;
    for (let k = 0; k < hands.length; k++) {
      const lift = shifts[k][f * 3 + 1];
      if (palms[k][f * 3 + 1] + lift - floor > NEAR_FLOOR * legLength) continue;
      if (!posed) {
        placeBody(translations, { plan, root }, f);
        forward(pose, parents, translations, rotations, f * parents.length * 4);
        posed = true;
      }
      const low = lowestOf(hands[k].skin, pose) + lift;
      if (low >= floor) continue;
      needs[k][f] = floor - low;
      any = true;
    }
  }
  if (!any) return false;
  const radius = Math.round(CLEAR / frameTime);
  needs.forEach((need, k) => {
    const rise = envelope(need, radius);
    for (let f = 0; f < frames; f++) shifts[k][f * 3 + 1] += rise[f];
  });
  return true;
}

const point = new Float64Array(3);

function lowestOf(
  skin: readonly { readonly joint: number; readonly local: Float64Array }[],
  pose: { positions: Float64Array; rotations: Float64Array },
): number {
  let low = Infinity;
  for (let i = 0; i < skin.length; i++) {
    const { joint, local } = skin[i];
    rotate(point, 0, pose.rotations, joint * 4, local, 0);
    low = Math.min(low, pose.positions[joint * 3 + 1] + point[1]);
  }
  return low;
}
