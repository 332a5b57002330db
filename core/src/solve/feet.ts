import type { Contacts } from '../contact';
import type { Rig } from '../rig';
import { slerp } from '../math/quat';
import type { Steps } from '../touchup';
import { planFootPath, type FootPath } from './footPath';
import { layOnSlope, slopeUnder } from './onSlope';
import type { LimbTrack } from './limbTrack';
import { levelNeed } from './reach';
import { restep } from './restep';
import { planStances, type FootPlan } from './stances';

/** Where each foot shall be: its stances and its path. */
export interface FeetPlan {
  readonly plans: readonly FootPlan[];
  readonly paths: readonly FootPath[];
  /** Stances that stand away from where the take puts them, as they would be out of reach there. */
  readonly moved: readonly { readonly leg: number; readonly first: number; readonly last: number; readonly by: number }[];
}

/** A stance gives way by less than this for nothing, metres. */
const NOTHING = 1e-4;
const ROUNDS = 3;

/** Everything that feet are planned from. */
export interface FeetGiven {
  readonly character: Rig;
  readonly legs: readonly LimbTrack[];
  readonly contacts: Contacts;
  /** Height of the character's floor, metres. */
  readonly floor: number;
  readonly frameTime: number;
  readonly softReach: number;
  /** Scale by which the performer's heights and distances become the character's. */
  readonly scale: { readonly lift: number; readonly stride: number };
  /** How far each foot comes to its place, 0 to 1. */
  readonly follow?: readonly number[];
  /** Places that a person wants for stances. */
  readonly steps?: Steps;
  /** Share of its length by which a leg may be drawn out. */
  readonly stretch?: number;
}

/**
 * Gives every planted foot one place and heading and leads the foot there and back. A stance that is out of reach even with the
 * hips as low and as far aside as they go comes nearer by the distance that is missing, and says so: the strides share it.
 */
export function planFeet(plan: FeetGiven): FeetPlan {
  const { character, legs, contacts, floor, frameTime, softReach, scale, follow = [1, 1], steps, stretch = 0 } = plan;
  const given = legs.map((leg, i) => planStances(contacts, leg, character.feet[i], floor, scale));
  const slope = slopeUnder(contacts, given, scale);
  const plans = given.map((plan, i) => (steps ? restep(plan, steps[legs[i].plan.side], legs[i].plan.side) : plan));
  const lay = (): void => plans.forEach((plan) => slope && layOnSlope(plan, slope));
  lay();
  const marks = plans.map(({ anchors }) => anchors.map(({ x, z }) => [x, z] as const));
  const lead = (): FootPath[] =>
    legs.map((leg, i) => planFootPath(leg, character.feet[i], plans[i], floor, frameTime, contacts.ground !== undefined));
  let paths = lead();
  for (let round = 0; round < ROUNDS && giveWay(plans, legs, paths, softReach, stretch); round++) {
    lay();
    paths = lead();
  }
  const moved = plans.flatMap(({ anchors }, leg) =>
    anchors.flatMap(({ first, last, x, z }, i) => {
      const by = Math.sqrt((x - marks[leg][i][0]) ** 2 + (z - marks[leg][i][1]) ** 2);
      return by > NOTHING ? [{ leg, first, last, by }] : [];
    }),
  );
  return { plans, paths: paths.map((path, k) => followed(path, legs[k], follow[k])), moved };
}

/** Draws stances that are out of reach towards the hips; false when there are none. */
function giveWay(
  plans: readonly FootPlan[],
  legs: readonly LimbTrack[],
  paths: readonly FootPath[],
  softReach: number,
  stretch: number,
): boolean {
  const { hips, over, any } = levelNeed(legs, paths, softReach, stretch);
  if (!any) return false;
  let gave = false;
  plans.forEach(({ anchors }, k) => {
    const leg = legs[k];
    for (let start = 0; start < anchors.length;) {
      let end = start;
      while (end < anchors.length && anchors[end].group === anchors[start].group) end++;
      const group = anchors.slice(start, end);
      start = end;
      // The way from the foot to the hips, as far as is missing, the frames in which most is missing counting most.
      let x = 0;
      let z = 0;
      let weight = 0;
      for (const { first, last } of group) {
        for (let f = first; f <= last; f++) {
          const missing = over[k][f];
          if (missing === 0) continue;
          const o = f * leg.stride + leg.at.top;
          const dx = leg.data[o] + hips[f * 2] - paths[k].ankle[f * 3];
          const dz = leg.data[o + 2] + hips[f * 2 + 1] - paths[k].ankle[f * 3 + 2];
          const level = Math.sqrt(dx * dx + dz * dz) || 1;
          x += (dx / level) * missing * missing;
          z += (dz / level) * missing * missing;
          weight += missing;
        }
      }
      if (weight === 0 || Math.sqrt(x * x + z * z) / weight < NOTHING) continue;
      gave = true;
      for (const anchor of group) {
        anchor.x += x / weight;
        anchor.z += z / weight;
      }
    }
  });
  return gave;
}

/** A path that comes only part of the way from where the pose has the foot. */
function followed(path: FootPath, { data, stride, at, frames }: LimbTrack, share: number): FootPath {
  if (share === 1) return path;
  const ankle = path.ankle.slice();
  const footQ = path.footQ.slice();
  const toesQ = path.toesQ.slice();
  for (let f = 0; f < frames; f++) {
    const o = f * stride;
    for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[o + at.end + c] + (ankle[f * 3 + c] - data[o + at.end + c]) * share;
    slerp(footQ, f * 4, data, o + at.endQ, footQ, f * 4, share);
    slerp(toesQ, f * 4, data, o + at.beyondQ, toesQ, f * 4, share);
  }
  return { ...path, ankle, footQ, toesQ };
}
