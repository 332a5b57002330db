import * as v from 'valibot';
import { fail } from '../errors';
import { jointKeys, type Skeleton } from '../skeleton';
import { roleSchema } from './roleSchema';
import { namesOfRoles } from './assign';
import { REQUIRED_ROLES, type Role, type RoleMap } from './roles';

export const SCHEME_FORMAT = 'hollow-stride/naming-scheme';
export const SCHEME_VERSION = 1;

/** A naming scheme: the joint names, without prefix, that play each role. */
export const namingSchemeSchema = v.object({
  format: v.literal(SCHEME_FORMAT, `must be "${SCHEME_FORMAT}"`),
  version: v.literal(SCHEME_VERSION, `must be ${SCHEME_VERSION}`),
  name: v.pipe(v.string(), v.trim(), v.minLength(1, 'a name is needed'), v.maxLength(120)),
  roles: v.pipe(
    v.record(roleSchema, v.pipe(v.string(), v.minLength(1), v.maxLength(400))),
    v.check((roles) => Object.keys(roles).length > 0, 'holds no role'),
    v.check((roles) => Object.keys(roles).length <= 500, 'holds more than 500 roles'),
  ),
});
export type NamingScheme = v.InferOutput<typeof namingSchemeSchema>;

/** The labels of a skeleton as a naming scheme. */
export function schemeOf(name: string, skeleton: Skeleton, roles: RoleMap): NamingScheme {
  return { format: SCHEME_FORMAT, version: SCHEME_VERSION, name, roles: namesOfRoles(skeleton, roles) };
}

/** Result of fitting a scheme to a skeleton. */
export interface SchemeFit {
  /** 0…1: share of the scheme's roles that are found, the required ones counted four times. */
  readonly score: number;
  readonly roles: RoleMap;
  /** Roles whose joint the skeleton does not have. */
  readonly misses: readonly Role[];
}

/** Holds a scheme against a skeleton. Prefixes, and capitals where they tell no two joints apart, do not matter. */
export function fitScheme(scheme: Pick<NamingScheme, 'roles'>, skeleton: Skeleton): SchemeFit {
  const exact = new Map<string, number>();
  const folded = new Map<string, number>();
  jointKeys(skeleton).forEach((name, j) => {
    if (!exact.has(name)) exact.set(name, j);
    const low = name.toLowerCase();
    folded.set(low, folded.has(low) ? -1 : j);
  });
  const roles = new Map<Role, number>();
  const misses: Role[] = [];
  let found = 0;
  let all = 0;
  for (const [role, name] of Object.entries(scheme.roles)) {
    const weight = REQUIRED_ROLES.includes(role) ? 4 : 1;
    all += weight;
    const joint = exact.get(name) ?? folded.get(name.toLowerCase()) ?? -1;
    if (joint < 0) misses.push(role);
    else {
      roles.set(role, joint);
      found += weight;
    }
  }
  return { score: all === 0 ? 0 : found / all, roles, misses };
}

/**
 * Reads a naming scheme from a file's text.
 * @throws FaultError label/scheme, saying what is wrong and where in the file
 */
export function parseScheme(text: string, file?: string): NamingScheme {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    return fail('label/scheme', `this is no naming scheme: it is not valid JSON (${(error as Error).message})`, { file });
  }
  const result = v.safeParse(namingSchemeSchema, json);
  if (result.success) return result.output;
  const issue = result.issues[0];
  return fail('label/scheme', `this naming scheme cannot be used: ${v.getDotPath(issue) ?? 'the file'} ${issue.message}`, { file });
}
