import type { Role, RoleMap } from '../label';
import type { LayerPart } from '../recipe';
import type { Skeleton } from '../skeleton';

/** The part of the body that a role belongs to. */
export function partOf(role: Role): LayerPart {
  if (role === 'ground' || role === 'hips') return 'way';
  if (/^(neck|head)/.test(role)) return 'head';
  const side = role.startsWith('left.') ? 'left' : role.startsWith('right.') ? 'right' : undefined;
  if (!side) return 'trunk';
  return /\.(upperLeg|lowerLeg|hock|fetlock|foot|toes)/.test(role) ? `${side}.leg` : `${side}.arm`;
}

/** 1 for the joints of some parts, those without a role with what they hang on; of no parts all. */
export function jointsIn({ parents }: Skeleton, roles: RoleMap, parts: readonly LayerPart[]): Uint8Array {
  const roleOf = new Map([...roles].map(([role, joint]) => [joint, role]));
  const out = new Uint8Array(parents.length);
  for (let j = 0; j < out.length; j++) {
    const role = roleOf.get(j);
    if (role !== undefined) out[j] = parts.length === 0 || parts.includes(partOf(role)) ? 1 : 0;
    else out[j] = parents[j] < 0 ? (parts.length === 0 || parts.includes('way') ? 1 : 0) : out[parents[j]];
  }
  return out;
}
