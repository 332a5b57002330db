import type { Role } from '../../label';
import { unlikeLegs, type Rig } from '../../rig';
import type { Standing } from './holding';

/** A knee that is no farther over the floor than this share of a leg kneels. */
const KNEELS = 0.2;

/** Figures that do not compare a leg with a hock to one without: they are alike as wholes, and their knees stand elsewhere. */
export function unlikeness(performer: Rig, character: Rig) {
  const unlike = unlikeLegs(performer, character);
  return {
    /** A knee that stands in the air is not the other's; one that kneels is. */
    isShared: ({ theirs }: Standing, name: string, floor: number): boolean =>
      !unlike || !name.endsWith('knee') || theirs[1] - floor < KNEELS * performer.legLength,
    /** A knee that is nearly straight turns by the capture's noise alone, one that is bent does not. */
    isCompared: (role: Role): boolean => !unlike || !/\.(lowerLeg|foot)$/.test(role),
  };
}
