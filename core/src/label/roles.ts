/** The parts of a body that joints can play, by their written names. */

export type Side = 'left' | 'right';
export const SIDES: readonly Side[] = ['left', 'right'];

/** A role's name as files and people write it: `hips`, `spine.2`, `left.upperArm`, `right.thumb.1`. */
export type Role = string;

export const FINGERS = ['thumb', 'index', 'middle', 'ring', 'little'] as const;
export type Finger = (typeof FINGERS)[number];

/** Parts of one arm and one leg, from the trunk outwards. Legs of three bones over the foot have a hock, of four a fetlock below it. */
export const ARM_PARTS = ['clavicle', 'upperArm', 'lowerArm', 'hand'] as const;
export const LEG_PARTS = ['upperLeg', 'lowerLeg', 'hock', 'fetlock', 'foot', 'toes'] as const;

/** Roles without which nothing can be transferred. */
export const REQUIRED_ROLES: readonly Role[] = [
  'hips',
  'head',
  ...SIDES.flatMap((side) => ['upperArm', 'lowerArm', 'hand', 'upperLeg', 'lowerLeg', 'foot'].map((part) => `${side}.${part}`)),
];

/** Joint index of each role that was found. */
export type RoleMap = ReadonlyMap<Role, number>;

/** The joints of a numbered chain (`spine.1`, `spine.2`, …) in order. */
export function chain(roles: RoleMap, stem: string): number[] {
  const joints: number[] = [];
  for (let i = 1; ; i++) {
    const joint = roles.get(`${stem}.${i}`);
    if (joint === undefined) return joints;
    joints.push(joint);
  }
}

/** The part that a shin ends at: the next one below the knee that a leg has. */
export function shinEnd(roles: RoleMap, side: string): 'hock' | 'fetlock' | 'foot' {
  return roles.has(`${side}.hock`) ? 'hock' : roles.has(`${side}.fetlock`) ? 'fetlock' : 'foot';
}

/** Required roles that are missing. */
export function missingRoles(roles: RoleMap): Role[] {
  return REQUIRED_ROLES.filter((role) => !roles.has(role));
}

/** The role on the other side of the body; the role itself when it has no side. */
export function mirrorRole(role: Role): Role {
  if (role.startsWith('left.')) return `right.${role.slice(5)}`;
  if (role.startsWith('right.')) return `left.${role.slice(6)}`;
  return role;
}

const ORDER = ['ground', 'hips', 'spine', 'neck', 'head', ...ARM_PARTS, ...FINGERS, ...LEG_PARTS];

/** Sorts roles as people read a body: trunk, then left, then right, each from the trunk outwards. */
export function compareRoles(a: Role, b: Role): number {
  const key = (role: Role): number => {
    const side = role.startsWith('left.') ? 1 : role.startsWith('right.') ? 2 : 0;
    const parts = role.replace(/^(left|right)\./, '').split('.');
    const twist = parts.includes('twist') ? 0.5 : 0;
    return side * 1000 + (ORDER.indexOf(parts[0]) + twist) * 10 + (Number(parts[parts.length - 1]) || 0) * 0.1;
  };
  const x = key(a);
  const y = key(b);
  return (Number.isNaN(x) ? 0 : x) - (Number.isNaN(y) ? 0 : y) || (a < b ? -1 : a > b ? 1 : 0);
}

/** The role of a joint in a chain that a person named: a tail, a wing, a third arm. Numbers count from 1. */
export const extraRole = (chainName: string, number: number): Role => `extra.${chainName}.${number}`;

/** Chains that a person named, base to tip, by name. */
export function extraChains(roles: RoleMap): Map<string, number[]> {
  const names = new Set<string>();
  for (const role of roles.keys()) {
    const found = /^extra\.(.+)\.\d+$/.exec(role);
    if (found) names.add(found[1]);
  }
  return new Map([...names].map((name) => [name, chain(roles, `extra.${name}`)] as const).filter(([, joints]) => joints.length > 0));
}

/** The joints that make up the body: all that are labelled but the ground, twist joints and chains that a person named. */
export function bodyJoints(roles: RoleMap): number[] {
  return [...roles]
    .filter(([role]) => role !== 'ground' && !role.includes('.twist.') && !role.startsWith('extra.'))
    .map(([, joint]) => joint);
}
