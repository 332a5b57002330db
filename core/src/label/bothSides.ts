import { distance } from '../math/vec';
/** Mistakes that are seen by holding left against right. */
import type { Skeleton } from '../skeleton';
import type { NameHints } from './lexicon';
import { LIMBS, type Found } from './mistake';
import { mirrorRole, SIDES, type Role, type RoleMap } from './roles';
import { sidesByShape } from './sides';

/** Limb segments of one side whose lengths are compared, and how far they may differ. */
const LENGTH_TOLERANCE = 0.12;

/** Names of the one side under roles of the other; or feet that point backwards. */
export function exchanged(
  skeleton: Skeleton,
  roles: RoleMap,
  poses: readonly Float64Array[],
  hints: readonly NameHints[],
  found: Found[],
): void {
  const others = (pattern: RegExp): Map<Role, number> =>
    new Map([...roles].filter(([role]) => pattern.test(role)).map(([role, joint]) => [mirrorRole(role), joint] as const));
  for (const { name, pattern } of [
    { name: 'arms', pattern: /^(left|right)\.(clavicle|upperArm|lowerArm|hand|thumb|index|middle|ring|little)/ },
    { name: 'legs', pattern: /^(left|right)\.(upperLeg|lowerLeg|hock|fetlock|foot|toes)/ },
  ]) {
    const own = [...roles].filter(([role]) => pattern.test(role));
    const against = own.filter(([role, joint]) => hints[joint].side !== undefined && !role.startsWith(hints[joint].side!));
    if (against.length === 0) continue;
    const [role, joint] = against[0];
    const most = against.length * 2 > own.length;
    const fix = most ? others(pattern) : instrumentOf(against, roles);
    found.push({
      kind: 'sides',
      role,
      joint,
      why: `${skeleton.names[joint]} says ${hints[joint].side} by its name and has the role ${role}${against.length > 1 ? `; so have ${against.length - 1} more of the ${name}` : ''}`,
      instead: most ? `exchange left and right of the ${name}` : `exchange ${role} and ${mirrorRole(role)}`,
      fix,
    });
  }
  if (found.some(({ kind }) => kind === 'sides')) return;
  const points = SIDES.map((side) => {
    const at = (part: string): number | undefined => roles.get(`${side}.${part}`);
    const [top, knee, ankle] = [at('upperLeg'), at('lowerLeg'), at('foot')];
    if (top === undefined || knee === undefined || ankle === undefined) return undefined;
    const child = skeleton.parents.indexOf(ankle);
    return { top, knee, ankle, toe: at('toes') ?? (child >= 0 ? child : undefined) };
  });
  const hips = roles.get('hips');
  const top = roles.get('head');
  if (!points[0] || !points[1] || hips === undefined || top === undefined) return;
  const verdict = sidesByShape(poses, hips, top, [points[0], points[1]]);
  if (!verdict || verdict.firstIsLeft || verdict.confidence < 0.5) return;
  found.push({
    kind: 'sides',
    role: 'left.upperLeg',
    joint: points[0].top,
    why: 'by its feet and knees the body faces the other way: left and right are exchanged',
    instead: 'exchange left and right everywhere',
    fix: others(/^(left|right)\./),
  });
}

/** Exchanges single labels with their partners. */
function instrumentOf(against: readonly (readonly [Role, number])[], roles: RoleMap): Map<Role, number> {
  const fix = new Map<Role, number>();
  for (const [role, joint] of against) {
    fix.set(mirrorRole(role), joint);
    if (!fix.has(role)) fix.set(role, roles.get(mirrorRole(role)) ?? -1);
  }
  return fix;
}

/** Limbs whose segments differ from left to right: one of their labels sits on another joint than its partner's. */
export function unlike(roles: RoleMap, p: Float64Array | undefined, found: Found[]): void {
  if (!p) return;
  for (const { parts } of LIMBS) {
    const present = parts.filter((part) => SIDES.every((side) => roles.has(`${side}.${part}`)));
    const size = (side: string, i: number): number => {
      const [a, b] = [roles.get(`${side}.${present[i - 1]}`)! * 3, roles.get(`${side}.${present[i]}`)! * 3];
      return distance(p, a, p, b);
    };
    for (let i = 1; i < present.length; i++) {
      const [l, r] = [size('left', i), size('right', i)];
      if (Math.abs(l - r) <= LENGTH_TOLERANCE * Math.max(l, r, 1e-9)) continue;
      const role = `left.${present[i]}`;
      found.push({
        kind: 'length',
        role,
        joint: roles.get(role)!,
        why: `${present[i - 1]} to ${present[i]} is ${(l / Math.max(r, 1e-9)).toFixed(2)} times as long on the left as on the right`,
        instead: 'look at the labels of both sides: one may be on another joint than its partner',
        fix: undefined,
      });
      break;
    }
  }
}
