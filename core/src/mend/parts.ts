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

/** What of a filter is kept to some parts of the body, of none to all of it, and what share each of them takes. */
export interface Masked {
  readonly parts: readonly LayerPart[];
  readonly shares?: Readonly<Partial<Record<LayerPart, number>>>;
}

/** The share that each joint takes, 0 outside the parts; a joint without a role as what it hangs on. */
export function sharesOf({ parents }: Skeleton, roles: RoleMap, { parts, shares = {} }: Masked): Float64Array {
  const of = (part: LayerPart): number => (parts.length === 0 || parts.includes(part) ? (shares[part] ?? 1) : 0);
  const roleOf = new Map([...roles].map(([role, joint]) => [joint, role]));
  const out = new Float64Array(parents.length);
  for (let j = 0; j < out.length; j++) {
    const role = roleOf.get(j);
    if (role !== undefined) out[j] = of(partOf(role));
    else out[j] = parents[j] < 0 ? of('way') : out[parents[j]];
  }
  return out;
}
