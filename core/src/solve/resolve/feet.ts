import { slerp } from '../../math/quat';
import type { Plane } from '../../math/plane';
import type { Foot } from '../../rig';
import type { FootPath } from '../footPath';
import { around } from '../held';
import type { LimbTrack } from '../limbTrack';
import type { Past } from '../past';
import type { FootPlan } from '../stances';
import { bendToes } from '../toes';
import { underFoot, type UnderFoot } from '../underFoot';
import { airOf } from './air';
import { breaksOf } from './breaks';
import { clearFloor, levelSwing, liftsNeeded, withPast } from './clear';
import { fillCurve, type Time } from '../../math/leastCurve';
import { bendsIn, displace, displacedTo, Displacements, END, SETTLED } from './displace';
import { holdEnd, holdFoot, type FootHold } from './foot';
import { giveWay } from './giveWay';
import { makeSense, senseOf } from './sense';

/** What of feet and hips is final already. */
export interface FeetPast extends Past {
  /** Displacement of the hips, metres, 3 per frame. */
  readonly hips: Float64Array;
}

/** Everything that feet and hips are resolved from. */
export interface ResolveGiven {
  readonly legs: readonly LimbTrack[];
  readonly feet: readonly Foot[];
  readonly plans: readonly FootPlan[];
  /** Height of the character's floor, metres. */
  readonly floor: number;
  readonly isSloped: boolean;
  /** The floor that slopes under the character; undefined where it is level, or the body is steered another way. */
  readonly slope: Plane | undefined;
  readonly frameTime: number;
  readonly softReach: number;
  readonly stretch: number;
  /** How far each foot comes to its place, 0 to 1. */
  readonly follow: readonly number[];
  /** How much higher a person wants the hips, metres, one a frame. */
  readonly rise: Float64Array | undefined;
  /** 1 in frames in which the body itself rests; one a frame, smooth. */
  readonly resting: Float64Array | undefined;
  /** Scale by which the performer's heights become the character's. */
  readonly lift: number;
  /** The character is the performer's own body: no floor is under its feet but what the take has them stand on. */
  readonly isOwn: boolean;
  readonly past: FeetPast | undefined;
  /** Puts moved stances on the floor again. */
  readonly lay: () => void;
}

export interface Resolved {
  readonly paths: readonly FootPath[];
  /** Displacement of the hips, metres, 3 per frame. */
  readonly hips: Float64Array;
  /** How much higher than copied each foot comes to its last stance, metres. */
  readonly landed: readonly number[];
}

/** Rounds in which reach, which is a limit, and the directions of limbs are found step by step, and stances give way. */
const ROUNDS = 4;
/** Rounds at most, stances standing: by then only legs that are folded, or drawn out, to their end have anything left to find. */
const MOST_ROUNDS = 12;
/** What has changed is found again with so many seconds before and behind it: six times as long as a displacement takes to come and go. */
const AROUND = 0.42;

/**
 * Feet and hips at once: the least displacement of both from the copied motion that holds what is held, keeps limbs in reach, and that
 * knees do not feel. Reach is a limit, found round by round; stances that stay out of reach give way.
 */
export function resolveFeet(given: ResolveGiven): Resolved {
  const { legs, feet, plans, floor, isSloped, slope, frameTime, softReach, stretch, follow, rise, resting, lift, isOwn, past, lay } = given;
  const from = past?.frames ?? 0;
  const { frames } = legs[0];
  const time: Time = { frameTime, breaks: breaksOf(legs, frameTime) };
  const holds = legs.map((leg, k) =>
    holdFoot({ leg, foot: feet[k], plan: plans[k] }, time, isOwn, past && { frames: from, turns: past.feet[k].turns }),
  );
  const senses = legs.map((leg) => makeSense(leg, frameTime));
  const ends = legs.map(() => new Float64Array(frames * 3));
  const hips = new Float64Array(frames * 3);
  const root = new Float64Array(frames * 3);
  const rests = past?.landed ?? legs.map(() => 0);
  const held = holds.map(({ pivots }) => pivots.held);
  const air = airOf(legs, held, lift, frameTime);
  const bends = bendsIn(time.breaks, air);
  if (past) {
    hips.set(past.hips.subarray(0, from * 3));
    legs.forEach((leg, k) => displacedTo(ends[k], leg, past.feet[k].places, from));
  }
  /** @param asked 1 in frames in which something may have changed; undefined for all */
  const sense = (asked?: Uint8Array): void => {
    // Hips that a person wants higher are no displacement that anything has to make up for.
    for (let f = 0; f < frames; f++) for (let c = 0; c < 3; c++) root[f * 3 + c] = hips[f * 3 + c] + (c === 1 ? (rise?.[f] ?? 0) : 0);
    legs.forEach((leg, k) => senseOf(senses[k], leg, { ends: ends[k], root, softReach, stretch, asked }));
  };
  const hold = (): void => holds.forEach((one, k) => holdEnd(one, ends[k], follow[k], from));
  const unders = plans.map((plan) => (isOwn ? () => -Infinity : underFoot(plan.anchors, frames, { floor, isSloped, slope })));
  const lifts = legs.map(() => new Float64Array(frames));
  const settle = (room: Displacements): number => {
    holds.forEach((one, k) => liftsNeeded(one, lifts[k], ends[k], unders[k], room.asked));
    return displace(room, { senses, ends, held, hips, resting, air, bends, rests, lifts, stretch, ...time });
  };

  const ahead = (marks: Uint8Array): Uint8Array => marks.fill(0, 0, from);
  hold();
  for (let again = 0; again < ROUNDS; again++) {
    sense();
    if (!giveWay(holds, senses, hips, false, from)) break;
    lay();
    hold();
  }
  ends.forEach((end, k) => fillCurve(end, 3, withPast(held[k], from), END, time));
  let room = new Displacements(frames, frameTime, {
    hips,
    ends,
    held,
    shown: from,
    asked: from > 0 ? ahead(new Uint8Array(frames).fill(1)) : undefined,
  });
  const near = (marks: Uint8Array): Uint8Array => ahead(around(marks, Math.floor(AROUND / frameTime)));
  sense();
  let changed = settle(room);
  if (!isOwn) holds.forEach((one, k) => levelSwing(one, ends[k], unders[k], time, from));
  for (let round = 1; round < MOST_ROUNDS; round++) {
    sense(room.asked);
    const asked = room.restless.slice();
    if (round < ROUNDS && giveWay(holds, senses, hips, true, from)) {
      const before = ends.map((end) => end.slice());
      lay();
      hold();
      sense();
      for (let i = 0; i < frames * 3; i++) if (ends.some((end, k) => end[i] !== before[k][i])) asked[(i / 3) | 0] = 1;
    } else if (changed < SETTLED) break;
    room = new Displacements(frames, frameTime, { hips, ends, held, shown: from, asked: near(asked) }, room);
    changed = settle(room);
  }
  sense(room.asked);
  holds.forEach((one, k) => clearFloor(one, ends[k], unders[k], time, from));
  const landed = held.map((one, k) => landingIn(one, ends[k], from, past?.stood[k].anchors.length) ?? rests[k]);
  return { landed, paths: holds.map((one, k) => pathOf(one, ends[k], unders[k], time, follow[k])), hips: root };
}

function pathOf(
  { leg, foot, plan, footQ, pivots: { held } }: FootHold,
  ends: Float64Array,
  under: UnderFoot,
  time: Time,
  follow: number,
): FootPath {
  const { data, stride, at, frames } = leg;
  const ankle = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * stride + at.end + c] + ends[f * 3 + c];
    if (follow < 1) slerp(footQ, f * 4, data, f * stride + at.endQ, footQ, f * 4, follow);
  }
  const toesQ = bendToes({ leg, foot, ankle, footQ, under, time }, plan.tips);
  return { ankle, footQ, toesQ, held };
}

/** How much higher than copied an end comes to the last hold of some frames; undefined where none begins. @param stood whether it was held before */
function landingIn(held: Uint8Array, ends: Float64Array, from: number, stood = 0): number | undefined {
  for (let f = held.length - 1; f >= from; f--) {
    if (held[f] === 1 && (f > from ? held[f - 1] === 0 : stood === 0)) return ends[f * 3 + 1];
  }
  return undefined;
}
