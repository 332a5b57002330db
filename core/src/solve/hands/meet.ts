import { TOUCH_LIMITS, type Hands } from '../../contact';
import { SIDES } from '../../label';
import type { Pairing } from '../../match';
import { smoothstep } from '../../math/filter';
import { distance } from '../../math/vec';
import { carryOver } from '../carry';
import { framesToHeld, nearHeld } from '../held';
import type { LimbTrack } from '../limbTrack';
import { APART, PLAY, yieldTo } from './ways';
import { square } from '../../math/numbers';

/** Palms nearer than this share of a leg touch, and must on the character too. */
const TOUCHING = 0.16;
/** A carried thing may be this much wider or narrower than the arms are longer or shorter. */
const WIDEST = 1.6;
/** Share of its length that an arm can be counted on for. */
const FULL = 0.96;
/** Seconds in which a hand is let go. */
export const HOLD = 0.15;

/** Brings hands that meet together; adds to both shifts. @returns 1 in frames in which they meet; undefined when they never do */
export function meet(
  { palms: theirPalms, touches }: Hands,
  palms: readonly Float64Array[],
  shifts: readonly Float64Array[],
  held: readonly Uint8Array[],
  pairing: Pairing,
  frameTime: number,
): Uint8Array | undefined {
  const [l, r] = theirPalms;
  const meetings = touches.filter(({ on }) => on === 'hand');
  if (!l || !r || meetings.length === 0) return undefined;
  const error = new Float64Array(l.length);
  const given = new Uint8Array(l.length / 3);
  const arms = armRatio(pairing);
  const touching = TOUCHING * pairing.performer.legLength;
  for (const { first, last } of meetings) {
    // Hands that touch do so in proportion to the arms; what is carried between them keeps the width that it has on this body.
    let theirs = 0;
    let mine = 0;
    for (let f = first; f <= last; f++) {
      theirs += distance(l, f * 3, r, f * 3);
      mine += distance(palms[0], f * 3, palms[1], f * 3);
    }
    const apart = theirs / (last - first + 1);
    // A short meeting is none of carrying: it is one of palms, or of finger tips with palms farther apart.
    const isShort = (last - first + 1) * frameTime < TOUCH_LIMITS.meet[1];
    const wide = Math.min(WIDEST * arms, Math.max(arms / WIDEST, mine / theirs));
    const ratio = isShort ? arms : arms + (wide - arms) * smoothstep((apart - touching) / touching);
    for (let i = first * 3; i < last * 3 + 3; i++) {
      error[i] = ratio * (l[i] - r[i]) - (palms[0][i] + shifts[0][i] - palms[1][i] - shifts[1][i]);
    }
    given.fill(1, first, last + 1);
    for (const list of held) list.fill(1, first, last + 1);
  }
  const meets = given.slice();
  restOn(touches, error, given, Math.round(APART / frameTime));
  carryOver(error, 3, given, frameTime);
  yieldTo(error, PLAY * pairing.character.legLength);
  for (let i = 0; i < error.length; i++) {
    shifts[0][i] += error[i] / 2;
    shifts[1][i] -= error[i] / 2;
  }
  return meets;
}

/** How much longer the character's arms are than the performer's. */
function armRatio({ performer, character }: Pairing): number {
  const length = ({ roles, restPose: { positions } }: Pairing['performer']): number =>
    SIDES.reduce((sum, side) => {
      const [a, b, c] = ['upperArm', 'lowerArm', 'hand'].map((part) => roles.get(`${side}.${part}`)! * 3);
      return sum + distance(positions, a, positions, b) + distance(positions, b, positions, c);
    }, 0);
  return length(character) / length(performer);
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
  const away = framesToHeld(given);
  for (const { on, first, last } of touches) {
    for (let f = first; on === 'rest' && f <= last; f++) if (away[f] > apart) given[f] = 1;
  }
}

/** Where one hand of two that meet is out of reach, the other comes to it. @param meets 1 in frames in which they meet */
export function shareReach(arms: readonly LimbTrack[], shifts: readonly Float64Array[], meets: Uint8Array, frameTime: number): void {
  const near = nearHeld(meets, HOLD / frameTime);
  const short = arms.map(({ data, stride, at, frames }, k) => {
    const out = new Float64Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      const o = f * stride;
      const full = FULL * (distance(data, o + at.top, data, o + at.mid) + distance(data, o + at.mid, data, o + at.end));
      // As far as the performer reaches, it may reach.
      const whole = Math.max(full, distance(data, o + at.top, data, o + at.end));
      let d = 0;
      for (let c = 0; c < 3; c++) d += square(data[o + at.end + c] + shifts[k][f * 3 + c] - data[o + at.top + c]);
      d = Math.sqrt(d);
      const over = Math.max(0, d - whole) * near[f];
      for (let c = 0; c < 3; c++) out[f * 3 + c] = ((data[o + at.end + c] + shifts[k][f * 3 + c] - data[o + at.top + c]) * -over) / d;
    }
    return out;
  });
  shifts.forEach((shift, k) => {
    for (let i = 0; i < shift.length; i++) shift[i] += short[1 - k][i];
  });
}
