import type { RoleMap } from '../label';
import type { SmoothedPart } from '../recipe';
import type { Skeleton } from '../skeleton';

const PARTS: readonly (readonly [RegExp, SmoothedPart])[] = [
  [/^(neck|head)/, 'head'],
  [/\.(clavicle|upperArm|lowerArm)/, 'arms'],
  [/^(left|right)\.(hand|thumb|index|middle|ring|little)/, 'hands'],
  // Hips and legs are smoothed alike: what a leg does is to take the hips' motion away from a standing foot.
  [/^(hips|ground)|\.(upperLeg|lowerLeg|hock|fetlock|foot|toes)/, 'legs'],
  [/^(spine|extra)/, 'trunk'],
];

/** The part of the body that each joint belongs to; joints without a role belong where the joint above them does. */
export function partsOfJoints(skeleton: Skeleton, roles: RoleMap): SmoothedPart[] {
  const own = new Map<number, SmoothedPart>();
  for (const [role, joint] of roles) {
    const part = PARTS.find(([pattern]) => pattern.test(role))?.[1];
    if (part) own.set(joint, part);
  }
  const out: SmoothedPart[] = [];
  skeleton.parents.forEach((parent, j) => out.push(own.get(j) ?? (parent < 0 ? 'legs' : out[parent])));
  return out;
}
