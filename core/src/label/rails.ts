import { boneLengths, pathDown, type Skeleton } from '../skeleton';
import { ARM_PARTS, chain, extraChains, FINGERS, LEG_PARTS, REQUIRED_ROLES, SIDES, type Role, type RoleMap } from './roles';

/** A joint on the rail of its chain. */
export interface RailJoint {
  readonly joint: number;
  /** Its role; undefined for a joint that lies in the chain and has none. */
  readonly role: Role | undefined;
  /** Distance along the chain from its base, 0…1. */
  readonly place: number;
}

/** One chain of a body as a rail: joints at their distance along it. */
export interface Rail {
  /** `trunk`, `neck`, `left.arm`, `right.thumb`, `extra.tail` … */
  readonly chain: string;
  readonly joints: readonly RailJoint[];
  /** Length along the bones, in the skeleton's unit. */
  readonly length: number;
  /** Required roles of the chain that have no joint, and optional ones. */
  readonly missing: readonly Role[];
  readonly optional: readonly Role[];
}

/** The chains of an upright body, from the trunk outwards, and the roles that each may have. */
export function rolesOfBody(): { chain: string; roles: Role[] }[] {
  const out = [
    { chain: 'trunk', roles: ['hips', ...[1, 2, 3].map((i) => `spine.${i}`)] },
    { chain: 'neck', roles: ['neck.1', 'head'] },
  ];
  for (const side of SIDES) {
    out.push({ chain: `${side}.arm`, roles: ARM_PARTS.map((p) => `${side}.${p}`) });
    out.push({ chain: `${side}.leg`, roles: ['upperLeg', 'lowerLeg', 'foot', 'toes'].map((p) => `${side}.${p}`) });
  }
  for (const side of SIDES) for (const f of FINGERS) out.push({ chain: `${side}.${f}`, roles: [1, 2, 3].map((i) => `${side}.${f}.${i}`) });
  return out;
}

/** The labelled joints of a chain in order, base to tip. */
export function jointsOfChain(roles: RoleMap, name: string): { role: Role; joint: number }[] {
  const list = (names: readonly Role[]): { role: Role; joint: number }[] =>
    names.flatMap((role) => (roles.has(role) ? [{ role, joint: roles.get(role)! }] : []));
  const numbered = (stem: string): Role[] => chain(roles, stem).map((_, i) => `${stem}.${i + 1}`);
  if (name === 'trunk') return list(['hips', ...numbered('spine')]);
  if (name === 'neck') return list([...numbered('neck'), 'head']);
  const [side, part] = name.split('.');
  if (part === 'arm') return list(ARM_PARTS.map((p) => `${side}.${p}`));
  if (part === 'leg') return list(LEG_PARTS.map((p) => `${side}.${p}`));
  return list(numbered(name));
}

/** The rails of a skeleton by its labels: every chain of an upright body, then the extra chains that it has. */
export function railsOf(skeleton: Skeleton, roles: RoleMap): Rail[] {
  const lengths = boneLengths(skeleton);
  const names = [...rolesOfBody(), ...[...extraChains(roles).keys()].map((name) => ({ chain: `extra.${name}`, roles: [] }))];
  return names.map(({ chain: name, roles: wanted }) => {
    const labelled = jointsOfChain(roles, name);
    const roleOf = new Map(labelled.map(({ role, joint }) => [joint, role]));
    const first = labelled[0]?.joint;
    const last = labelled[labelled.length - 1]?.joint;
    const chain = first === undefined || last === undefined ? [] : pathDown(skeleton, first, last);
    // Where the labels do not run down one way, they stand in their own order and are looked at as mistakes.
    const path = chain.length > 0 && labelled.every(({ joint }) => chain.includes(joint)) ? chain : labelled.map(({ joint }) => joint);
    let at = 0;
    const places = path.map((joint, i) => (i === 0 ? 0 : (at += lengths[joint])));
    const missing = wanted.filter((role) => !roles.has(role));
    return {
      chain: name,
      joints: path.map((joint, i) => ({
        joint,
        role: roleOf.get(joint),
        place: at > 0 ? places[i] / at : path.length > 1 ? i / (path.length - 1) : 0,
      })),
      length: at,
      missing: missing.filter((role) => REQUIRED_ROLES.includes(role)),
      optional: missing.filter((role) => !REQUIRED_ROLES.includes(role)),
    };
  });
}
