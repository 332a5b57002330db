import { SIDES } from '../../label';
import type { MeshBody } from '../body';
import { mirrored, type Landmarks, type Place } from '../landmarks';
import { voxelsOf } from '../voxels';
import { cutTrunk, findHead, trunkMiddle, type TrunkCut } from './head';
import { followLeg } from './legs';
import { placeArms } from './placeArms';
import { placeLegs } from './placeLegs';
import { oneSided, solidOf, type Solid } from './solid';
import { SEEN, USUAL } from './sure';

/** Landmarks that a shape shows, and how sure each is. */
export interface Found {
  readonly landmarks: Landmarks;
  /** By landmark, from 0 to 1: seen in the shape, or laid by what bodies usually have. */
  readonly confidence: Readonly<Record<string, number>>;
  /** The middle of the body from left to right, metres. */
  readonly middle: number;
  /** Legs bend forwards and then backwards over the foot. */
  readonly hasHocks: boolean;
}

/** A body cut up, for what is found in its shape. */
export interface Sections {
  readonly solid: Solid;
  readonly trunk: readonly TrunkCut[];
}

/** Cuts a body up. */
export function sectionsOf(body: MeshBody): Sections {
  const solid = solidOf(voxelsOf(body, CELLS));
  return { solid, trunk: cutTrunk(solid) };
}

/** Below this share of what both sides have, each side is looked at by itself. */
const LIKE = 0.75;

/**
 * Finds the landmarks of a body that stands upright with its front towards +Z, its arms apart from the trunk. Both sides are looked at
 * as one, so that what one side alone has (a lantern, an oar) does not mislead; of a body whose sides are not alike, each by itself.
 */
export function findLandmarks(body: MeshBody, sections: Sections, mirrored = true): Found {
  if (mirrored && sections.solid.likeness >= LIKE) return findOn(body, sections);
  const [left, right] = SIDES.map((side) => findOn(body, { ...sections, solid: oneSided(sections.solid, side) }));
  const of = <T>(pick: (found: Found) => Readonly<Record<string, T>>): Record<string, T> => ({
    ...pick(left),
    ...Object.fromEntries(Object.entries(pick(right)).filter(([name]) => name.startsWith('right.'))),
  });
  return { ...left, landmarks: of((found) => found.landmarks), confidence: of((found) => found.confidence) };
}

/** Cells along the height: fingers are not looked at, limbs are ten cells thick. */
const CELLS = 160;

/** Finds the landmarks on the left half of a solid, and mirrors them. */
function findOn({ height }: MeshBody, { solid, trunk: cuts }: Sections): Found {
  const { middle } = solid;
  const out: Record<string, Place> = {};
  const confidence: Record<string, number> = {};
  const put = (name: string, place: Place, sure: number): void => {
    out[name] = place;
    confidence[name] = sure;
  };
  const both = (name: string, place: Place, sure: number): void => {
    put(`left.${name}`, place, sure);
    put(`right.${name}`, mirrored(place, middle), sure);
  };
  const head = findHead(cuts, height);
  const trunkZ = (y: number): number => trunkMiddle(cuts, y);
  const neckSure = head.isSeen ? SEEN : USUAL;
  put('crown', [middle, head.crown, trunkZ(head.crown - 0.25 * (head.crown - head.chin))], SEEN);
  put('chin', [middle, head.chin, trunkZ(head.chin)], neckSure);
  put('neck', [middle, head.neck, trunkZ(head.neck)], neckSure);
  const leg = followLeg(solid);
  const hasHocks = placeLegs(leg, solid, height, both);
  placeArms(solid, leg, head, out['left.hip'][1], height, both);
  return { landmarks: out, confidence, middle, hasHocks };
}
