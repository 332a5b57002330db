import type { Rig } from '../rig';
import type { Role } from '../label';
import { distance } from '../math/vec';
import { percentile } from '../math/filter';

/** Whether two skeletons are the same body up to scale, whatever their names, axes and rest poses. */
export interface SameBody {
  readonly same: boolean;
  /** Character's size over performer's; the median of all bone ratios. */
  readonly ratio: number;
}

const SHARED = /^(hips|head|(spine|neck)\.\d+|(left|right)\.(clavicle|upperArm|lowerArm|hand|upperLeg|lowerLeg|hock|fetlock|foot|toes))$/;
const TOLERANCE = 0.01;
const MIN_BONES = 12;

/**
 * Compares the lengths between each labelled joint and the next labelled joint above it, which no pose changes.
 * Two bodies are the same when they have the same roles and all ratios agree within 1 %.
 */
export function compareBodies(performer: Rig, character: Rig): SameBody {
  const p = bones(performer);
  const c = bones(character);
  const ratios: number[] = [];
  let alike = [...p.keys()].every((role) => c.has(role)) && p.size === c.size;
  for (const [role, bone] of p) {
    const other = c.get(role);
    if (!other) continue;
    if (other.above !== bone.above) alike = false;
    if (bone.length > 0.02 * performer.legLength) ratios.push(other.length / bone.length);
  }
  const ratio = ratios.length === 0 ? 1 : percentile(ratios, 0.5);
  const same = alike && ratios.length >= MIN_BONES && ratios.every((r) => Math.abs(r / ratio - 1) < TOLERANCE);
  return { same, ratio };
}

function bones({ roles, skeleton, restPose }: Rig): Map<Role, { above: Role; length: number }> {
  const roleOf = new Map<number, Role>();
  for (const [role, joint] of roles) if (SHARED.test(role)) roleOf.set(joint, role);
  const out = new Map<Role, { above: Role; length: number }>();
  for (const [joint, role] of roleOf) {
    let up = skeleton.parents[joint];
    while (up >= 0 && !roleOf.has(up)) up = skeleton.parents[up];
    if (up < 0) continue;
    out.set(role, { above: roleOf.get(up)!, length: distance(restPose.positions, joint * 3, restPose.positions, up * 3) });
  }
  return out;
}
