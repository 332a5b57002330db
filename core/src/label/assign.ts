import type { Fault } from '../errors';
import { jointKeys, type Skeleton } from '../skeleton';
import type { Labels } from './labels';
import { compareRoles, missingRoles, type Role } from './roles';

/**
 * Labels by joint name: what a person, a naming scheme or a file's own body map says. Prefixes do not matter.
 * @param source for people: where the names come from
 * @returns labels whose warnings name every role whose joint the skeleton does not have
 */
export function assignRoles(skeleton: Skeleton, names: Readonly<Record<Role, string>>, source: string): Labels {
  const joints = new Map(jointKeys(skeleton).map((key, j) => [key, j]));
  const roles = new Map<Role, number>();
  const warnings: Fault[] = [];
  for (const role of Object.keys(names).sort(compareRoles)) {
    const joint = joints.get(names[role]);
    if (joint === undefined) {
      warnings.push({
        code: 'label/unknown-joint',
        message: `the ${source} puts ${role} on a joint that is not here`,
        where: { joint: names[role] },
      });
    } else roles.set(role, joint);
  }
  const missing = missingRoles(roles);
  if (missing.length > 0) warnings.push({ code: 'label/missing', message: `no joint has the role: ${missing.join(', ')}`, where: {} });
  return { roles, confidence: new Map([...roles.keys()].map((role) => [role, 1])), missing, warnings };
}

/** The key of the joint of every role: labels as they are kept. */
export function namesOfRoles(skeleton: Skeleton, roles: ReadonlyMap<Role, number>): Record<Role, string> {
  const names = jointKeys(skeleton);
  return Object.fromEntries([...roles].map(([role, joint]) => [role, names[joint]]));
}
