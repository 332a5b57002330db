import { isBelow, pathDown, type Skeleton } from '../skeleton';
import { ARM_PARTS, LEG_PARTS, type Role, type RoleMap } from './roles';

/** Chains that are labelled by their first and last joint, with the roles that they fill, base to tip. */
export type ChainName = string;

/** The roles of a chain of a given number of joints; undefined where it cannot have that many. */
export function rolesOfChain(name: ChainName, count: number): Role[] | undefined {
  const [side, part] = name.includes('.') ? name.split('.') : ['', name];
  const of = (parts: readonly string[]): Role[] => parts.map((p) => `${side}.${p}`);
  if (part === 'arm') {
    if (count === 3) return of(['upperArm', 'lowerArm', 'hand']);
    return count === ARM_PARTS.length ? of(ARM_PARTS) : undefined;
  }
  if (part === 'leg') {
    if (count === 3) return of(['upperLeg', 'lowerLeg', 'foot']);
    if (count === 4) return of(['upperLeg', 'lowerLeg', 'foot', 'toes']);
    if (count === 5) return of(LEG_PARTS.filter((p) => p !== 'fetlock'));
    return count === LEG_PARTS.length ? of(LEG_PARTS) : undefined;
  }
  const most = name === 'spine' ? 12 : name === 'neck' ? 8 : name.startsWith('extra.') ? 60 : 4;
  if (count < 1 || count > most) return undefined;
  return Array.from({ length: count }, (_, i) => `${name}.${i + 1}`);
}

export interface FilledChain {
  /** Labels with the chain in them; the chain's former joints have lost it. */
  readonly roles: RoleMap;
  /** Joints of the chain, base to tip. */
  readonly joints: readonly number[];
  /** For people: what is odd about the chain. */
  readonly notes: readonly string[];
}

/**
 * Labels a whole chain from its first and last joint: everything between them, base to tip. Twist joints are left out by the
 * caller's say. Joints of other roles that lie in the chain are taken over, and said.
 * @param skip joints to leave out of the chain (twist joints, helpers)
 * @returns what is wrong, as a sentence, when no chain runs that way
 */
export function fillChain(
  skeleton: Skeleton,
  roles: RoleMap,
  name: ChainName,
  first: number,
  last: number,
  skip: ReadonlySet<number> = new Set(),
): FilledChain | string {
  const { names } = skeleton;
  if (!isBelow(skeleton, last, first)) {
    if (isBelow(skeleton, first, last))
      return `${names[last]} lies above ${names[first]}: the chain is out of order. Click its base first, then its tip`;
    return `${names[last]} does not hang below ${names[first]}: no chain runs between them`;
  }
  const path = pathDown(skeleton, first, last);
  const joints = path.filter((j) => !skip.has(j));
  const parts = rolesOfChain(name, joints.length);
  if (!parts) return `${joints.length} joints lie from ${names[first]} to ${names[last]}, which is no ${name.replace('.', ' ')}`;
  const notes: string[] = [];
  const out = new Map(roles);
  for (const role of [...out.keys()]) if (belongsTo(role, name)) out.delete(role);
  for (const [role, joint] of roles) {
    if (joints.includes(joint) && !belongsTo(role, name)) {
      out.delete(role);
      notes.push(`${names[joint]} was ${role}: it is in the chain now`);
    }
  }
  const left = path.filter((j) => skip.has(j));
  if (left.length > 0) notes.push(`left out as twist or helper: ${left.map((j) => names[j]).join(', ')}`);
  parts.forEach((role, i) => out.set(role, joints[i]));
  return { roles: out, joints, notes };
}

const PARTS: Readonly<Record<string, readonly string[]>> = { arm: ARM_PARTS, leg: LEG_PARTS };

function belongsTo(role: Role, name: ChainName): boolean {
  const [side, part] = name.includes('.') && !name.startsWith('extra.') ? name.split('.') : ['', name];
  const limb = PARTS[part];
  if (limb) return role.startsWith(`${side}.`) && limb.includes(role.slice(side.length + 1));
  return role.startsWith(`${name}.`) && /^\d+$/.test(role.slice(name.length + 1));
}
