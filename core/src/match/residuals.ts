import type { Role } from '../label';
import { rotate } from '../math/quat';
import { DEG } from '../math/trig';
import { angleBetween } from '../math/vec';
import { limbSegments } from '../rig';
import { segmentBetween } from './segments';
import type { Turning } from './toPerformer';

/** How far one limb segment of the character's rest pose was from the performer's, and is after matching. */
export interface Residual {
  readonly role: Role;
  /** Degrees between the two rest poses' segment directions, as the files have them. */
  readonly before: number;
  /** Degrees after matching and turns by hand. */
  readonly after: number;
  /** For people: what the rest of the angle most likely comes from. */
  readonly reason: string;
}

/**
 * What matching left between the limb segments of both bodies.
 * @param wholeLegs legs are alike as wholes only
 * @param turned roles that a person turned
 * @param isKept true for a role that a setting leaves at its own rest, or nearer to it
 */
export function residualsOf(turning: Turning, wholeLegs: boolean, turned: object, isKept: (role: Role) => boolean): Residual[] {
  const { performer, character, pose, heading } = turning;
  const theirs = limbSegments(performer, wholeLegs);
  return limbSegments(character, wholeLegs).flatMap(({ role, joint, end }): Residual[] => {
    const other = theirs.find((one) => one.role === role);
    if (!other || !performer.roles.has(role)) return [];
    const way = segmentBetween(performer.restPose, other.joint, other.end);
    const before = segmentBetween(character.restPose, joint, end);
    rotate(before, 0, heading, 0, before, 0);
    const after = segmentBetween(pose, joint, end);
    return [
      {
        role,
        before: angleBetween(way, 0, before, 0) / DEG,
        after: angleBetween(way, 0, after, 0) / DEG,
        reason: reasonOf(turning, role, turned, isKept),
      },
    ];
  });
}

function reasonOf({ performer, character, isSame }: Turning, role: Role, turned: object, isKept: (role: Role) => boolean): string {
  const { roles, skeleton } = character;
  const roleOf = new Map([...roles].map(([own, joint]) => [joint, own]));
  for (let j = roles.get(role) ?? -1; j >= 0; j = skeleton.parents[j]) {
    const own = roleOf.get(j);
    if (own !== undefined && own in turned) return own === role ? 'it was turned by hand' : `${own} above it was turned by hand`;
  }
  if (!isSame && role.endsWith('clavicle') && isKept(role)) return 'clavicles keep their own rest by a setting';
  if (!performer.isRestClean) return "the performer's rest pose is not clean; choose another frame for it";
  if (!character.isRestClean) return "the character's rest pose is not clean; choose another one for it";
  return 'look at its label and at that of the next joint: one of them may be on a wrong joint';
}
