import type { LimbTrack } from '../limbTrack';
import { gaussian, smoothstep } from '../../math/filter';
import { rotate } from '../../math/quat';
import { distance } from '../../math/vec';
import type { FootPath } from '../footPath';
import { nearHeld } from '../held';
import { DEFAULT_SOLVE, type SolveSettings } from '../settings';
import { clearFloor } from './floor';
import type { HandsGiven } from './given';
import { holdProps } from '../props';
import { keepOut } from './keepOut';
import { HOLD, meet, shareReach } from './meet';
import { touchBody } from './onBody';
import { restShift } from './rests';
import { PLAY, yieldTo } from './ways';

/** Smoothing of the correction that takes a hand to its place: standard deviation, seconds. */
const SOFT = 0.035;
/** Shares of an arm's length: from the first to the second a folded arm is corrected more and more. */
const FOLDED = [0.15, 0.5] as const;
/** Shifts of less than this, metres, are none. */
const NOTHING = 1e-6;

/**
 * Where both hands shall be. A hand that rests keeps its place but for what the performer's own hand moves in its rest; hands that
 * meet lie towards each other as the performer's do, in proportion to the arms, each giving half; one that holds a prop keeps to it;
 * between, what was corrected dies out. A hand keeps its turn in the world, stays out of trunk and head, and never goes below the floor.
 * @param arms the arms through the posed and placed body, after the hips have given way
 * @returns undefined when no hand has to go anywhere
 */
export function planHands(
  given: HandsGiven,
  arms: readonly LimbTrack[],
  settings: Pick<SolveSettings, 'hands' | 'keepOut' | 'follow'> = DEFAULT_SOLVE,
): FootPath[] | undefined {
  const { pairing, contacts, props, frameTime, floor } = given;
  const { hands } = contacts;
  const { character } = pairing;
  if (!hands || arms.length < 2 || character.hands.length < 2) return undefined;
  const { frames } = arms[0];
  const palms = arms.map((arm, k) => palmsOf(arm, character.hands[k].palm));
  const held = arms.map(() => new Uint8Array(frames));
  const floors = contacts.ground ? undefined : ([contacts.floor, floor] as const);
  const shifts = arms.map((arm, k) => restShift(hands, arm, palms[k], held[k], pairing, floors, frameTime));
  const play = PLAY * character.legLength;
  for (const shift of shifts) yieldTo(shift, play);
  const met = meet(hands, palms, shifts, held, pairing, frameTime);
  if (met) shareReach(arms, shifts, met, frameTime);
  const holding = props.length > 0 && holdProps(contacts, props, palms, shifts, held, pairing.propSize, frameTime);
  const touched = touchBody(given, arms, palms, shifts, held);
  shifts.forEach((shift, k) => {
    spareFolded(arms[k], shift, held[k], frameTime);
    shift.set(gaussian(shift, 3, SOFT / frameTime));
    const weight = settings.hands * (k === 0 ? settings.follow.leftArm : settings.follow.rightArm);
    if (weight < 1) for (let i = 0; i < shift.length; i++) shift[i] *= weight;
  });
  const pushed = settings.keepOut && keepOut(given, arms, shifts);
  const lifted = clearFloor(given, palms, shifts);
  if (!met && !holding && !touched && !pushed && !lifted && held.every((list) => list.every((on) => on === 0))) return undefined;
  return arms.map(({ data, stride, at }, k) => {
    const ankle = new Float64Array(frames * 3);
    const footQ = new Float64Array(frames * 4);
    const idle = new Uint8Array(frames);
    const shift = shifts[k];
    for (let f = 0; f < frames; f++) {
      if (isNone(shift, f)) {
        idle[f] = 1;
        continue;
      }
      for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * stride + at.end + c] + shift[f * 3 + c];
      for (let c = 0; c < 4; c++) footQ[f * 4 + c] = data[f * stride + at.endQ + c];
    }
    return { ankle, footQ, toesQ: footQ, held: held[k], idle, ...(touched && { along: touched[k] }) };
  });
}

function isNone(shift: Float64Array, f: number): boolean {
  return Math.abs(shift[f * 3]) + Math.abs(shift[f * 3 + 1]) + Math.abs(shift[f * 3 + 2]) < NOTHING;
}

/** Places of a palm over time, 3 per frame. */
export function palmsOf({ data, stride, at, frames }: LimbTrack, palm: Float64Array): Float64Array {
  const out = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    rotate(out, f * 3, data, f * stride + at.endQ, palm, 0);
    for (let c = 0; c < 3; c++) out[f * 3 + c] += data[f * stride + at.end + c];
  }
  return out;
}

/** Beside its rests a hand that comes near its own shoulder is let be: there a small way turns the whole arm. */
function spareFolded({ data, stride, at }: LimbTrack, shift: Float64Array, held: Uint8Array, frameTime: number): void {
  const near = nearHeld(held, HOLD / frameTime);
  for (let f = 0; f < held.length; f++) {
    if (isNone(shift, f)) continue;
    const o = f * stride;
    const whole = distance(data, o + at.top, data, o + at.mid) + distance(data, o + at.mid, data, o + at.end);
    const open = smoothstep((distance(data, o + at.top, data, o + at.end) / whole - FOLDED[0]) / (FOLDED[1] - FOLDED[0]));
    const kept = Math.max(open, near[f]);
    for (let c = 0; c < 3; c++) shift[f * 3 + c] *= kept;
  }
}
