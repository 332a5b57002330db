import type { Carrying, Contacts } from '../contact';
import type { Rig } from '../rig';
import { smoothstep } from '../math/filter';
import { evenSteps } from './evenSteps';
import type { Steps } from '../touchup';
import type { FootPath } from './footPath';
import { layOnSlope, slopeUnder } from './onSlope';
import type { LimbTrack } from './limbTrack';
import { goOn } from './goOn';
import { resolveFeet } from './resolve/feet';
import type { FeetPast } from './resolve/given';
import { NOTHING } from './resolve/giveWay';
import { restep } from './restep';
import { planStances, type FootPlan } from './stances';
import { square } from '../math/numbers';

/** Where each foot shall be: its stances and its path. */
export interface FeetPlan {
  readonly plans: readonly FootPlan[];
  readonly paths: readonly FootPath[];
  /** Displacement of the hips, metres, 3 per frame. */
  readonly hips: Float64Array;
  /** How much higher than copied each foot comes to its last stance, metres. */
  readonly landed: readonly number[];
  /** Stances that stand away from where the take puts them, as they would be out of reach there. */
  readonly moved: readonly { readonly leg: number; readonly first: number; readonly last: number; readonly by: number }[];
}

/** Everything that feet are planned from. */
export interface FeetGiven {
  readonly character: Rig;
  readonly legs: readonly LimbTrack[];
  readonly contacts: Contacts;
  /** Frames in which hands on the floor carry the body. */
  readonly carrying?: readonly Carrying[];
  /** Height of the character's floor, metres. */
  readonly floor: number;
  readonly frameTime: number;
  readonly softReach: number;
  /** Scale by which the performer's heights and distances become the character's. */
  readonly scale: { readonly lift: number; readonly stride: number };
  /** The character is the performer's own body: its feet are as high, and turned, as the take has them. */
  readonly isOwn?: boolean;
  /** How far each foot comes to its place, 0 to 1. */
  readonly follow?: readonly number[];
  /** Places that a person wants for stances. */
  readonly steps?: Steps;
  /** Share of its length by which a leg may be drawn out. */
  readonly stretch?: number;
  /** How much higher a person wants the hips, metres, one a frame. */
  readonly rise?: Float64Array;
  /** What is final already. */
  readonly past?: FeetPast;
}

/**
 * Gives every planted foot one place and heading and leads the foot there and back. A stance that is out of reach even with the
 * hips as low and as far aside as they go comes nearer by the distance that is missing, and says so: the strides share it.
 */
export function planFeet(plan: FeetGiven): FeetPlan {
  const {
    character,
    legs,
    contacts,
    carrying = [],
    floor,
    frameTime,
    softReach,
    scale,
    isOwn = false,
    follow = [1, 1],
    steps,
    stretch = 0,
    rise,
    past,
  } = plan;
  const given = legs.map((leg, i) => planStances(contacts, leg, character.feet[i], { floor, scale, isOwn }));
  if (!isOwn) for (const { anchors } of given) evenSteps(anchors, frameTime);
  const slope = slopeUnder(contacts, given, scale);
  const plans = given
    .map((plan, i) => (steps ? restep(plan, steps[legs[i].plan.side], legs[i].plan.side) : plan))
    .map((plan, i) => (past ? goOn(plan, legs[i], past, i, frameTime) : plan));
  const lay = (): void => plans.forEach((plan) => slope && layOnSlope(plan, slope));
  lay();
  const marks = plans.map(({ anchors }) => anchors.map(({ x, z }) => [x, z] as const));
  const { paths, hips, landed } = resolveFeet({
    legs,
    feet: character.feet,
    plans,
    floor,
    isSloped: contacts.ground !== undefined,
    slope,
    frameTime,
    softReach,
    stretch,
    follow,
    rise,
    past,
    resting: restingOf([...(contacts.body?.rests ?? []), ...carrying], legs[0].frames, frameTime),
    lift: scale.lift,
    isOwn,
    lay,
  });
  const moved = plans.flatMap(({ anchors }, leg) =>
    anchors.flatMap(({ first, last, x, z }, i) => {
      const by = Math.sqrt(square(x - marks[leg][i][0]) + square(z - marks[leg][i][1]));
      return by > NOTHING ? [{ leg, first, last, by }] : [];
    }),
  );
  return { plans, paths, hips, landed, moved };
}

/** Seconds in which a rest of the body takes hold of the hips, and lets them go. */
const HOLD = 0.3;

/**
 * 1 where seat, back, head or knees rest, or hands carry the body, less where such a rest begins or ends, by orders: hips on their way up are as high
 * then as the feet that they rise from ask for. Undefined where none rests.
 */
function restingOf(
  rests: readonly { readonly first: number; readonly last: number }[],
  frames: number,
  frameTime: number,
): Float64Array | undefined {
  if (rests.length === 0) return undefined;
  const out = new Float64Array(frames);
  for (const { first, last } of rests) {
    for (let f = first; f <= last; f++) {
      const share = smoothstep(((Math.min(f - first, last - f) + 1) * frameTime) / HOLD);
      out[f] = Math.max(out[f], share * share * share);
    }
  }
  return out;
}
