import type { Rig } from '../rig';
import { jointKeys } from '../skeleton';
import type { SameBody } from './likeness';

/**
 * The performer's joint for every joint of a character that is the same body on the same skeleton: the same joints by key, hanging
 * on each other the same way. Then joints without a role, and joints that change their place, can be carried over too.
 * @returns joint of the performer by joint of the character; undefined when they are not the same
 */
export function twinsOf(performer: Rig, character: Rig, same: SameBody): Map<number, number> | undefined {
  if (!same.same || performer.skeleton.names.length !== character.skeleton.names.length) return undefined;
  const index = new Map(jointKeys(performer.skeleton).map((key, j) => [key, j]));
  const twins = new Map<number, number>();
  for (const [j, key] of jointKeys(character.skeleton).entries()) {
    const twin = index.get(key);
    const parent = character.skeleton.parents[j];
    if (twin === undefined || (parent < 0 ? -1 : twins.get(parent)) !== performer.skeleton.parents[twin]) return undefined;
    twins.set(j, twin);
  }
  for (const [role, joint] of character.roles) if (performer.roles.get(role) !== twins.get(joint)) return undefined;
  return twins;
}
