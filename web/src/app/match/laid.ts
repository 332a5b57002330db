import type { Role } from '@hollow-stride/core';
import type { MatchBody, PoseData } from '../body/messages';
import type { Spot } from './plane';

/** Where each limb hangs on the body, and the joint at its end that its length is taken to. */
const LIMBS: readonly (readonly [root: Role, end: Role])[] = ['left', 'right'].flatMap((side) => [
  [`${side}.upperArm`, `${side}.hand`] as const,
  [`${side}.upperLeg`, `${side}.foot`] as const,
]);
const TRUNK: readonly [Role, Role] = ['hips', 'head'];

/** A body's spots laid anew, and the limb that each joint belongs to (its root joint). */
export interface Laid {
  readonly spots: readonly Spot[];
  readonly limb: Int32Array;
}

/**
 * Lays the performer's limbs over the character's, root on root and as long as they: what is left apart is direction alone.
 * @param theirs the performer's spots
 * @param mine the character's spots in the same picture
 * @param drawn units of the picture to a metre of the performer, over those to a metre of the character
 */
export function layLimbs(
  performer: MatchBody,
  character: MatchBody,
  poses: { readonly performer: PoseData; readonly character: PoseData },
  theirs: readonly Spot[],
  mine: readonly Spot[],
  drawn: number,
): Laid {
  const { parents } = performer.display.skeleton;
  const hips = performer.display.hips;
  const limb = new Int32Array(parents.length).fill(hips);
  const roots = new Map<number, readonly [Role, Role]>([[hips, TRUNK]]);
  for (const pair of LIMBS) if (pair[0] in performer.roles && pair[0] in character.roles) roots.set(performer.roles[pair[0]], pair);
  for (let j = 0; j < parents.length; j++) limb[j] = roots.has(j) ? j : parents[j] >= 0 ? limb[parents[j]] : hips;
  const spots = theirs.map((spot, j) => {
    const pair = roots.get(limb[j])!;
    const from = theirs[limb[j]];
    const to = mine[character.roles[pair[0]]];
    const factor = lengthOf(character, poses.character, pair) / Math.max(1e-6, lengthOf(performer, poses.performer, pair)) / drawn;
    return { x: to.x + (spot.x - from.x) * factor, y: to.y + (spot.y - from.y) * factor };
  });
  return { spots, limb };
}

/** Length of a limb along its joints, metres. */
function lengthOf({ roles, display }: MatchBody, { positions }: PoseData, [root, end]: readonly [Role, Role]): number {
  const { parents } = display.skeleton;
  let sum = 0;
  for (let j = roles[end]; j >= 0 && j !== roles[root]; j = parents[j]) {
    const p = parents[j];
    if (p >= 0) sum += Math.hypot(...[0, 1, 2].map((c) => positions[j * 3 + c] - positions[p * 3 + c]));
  }
  return sum;
}
