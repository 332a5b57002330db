import { LEG_PARTS, type RoleMap } from '../label';
import { distance } from '../math/vec';

/** Joints of a leg from hip to ankle. */
export function legChain(roles: RoleMap, side: string): number[] {
  return LEG_PARTS.filter((part) => part !== 'toes')
    .map((part) => roles.get(`${side}.${part}`))
    .filter((j) => j !== undefined);
}

/** How many bones a leg has over its foot: two, with a hock three, with a fetlock below that four. */
export const legBones = (roles: RoleMap): number => legChain(roles, 'left').length - 1;

/** Length of a way from joint to joint in a pose. */
export function chainLength(p: Float64Array, joints: readonly number[]): number {
  let sum = 0;
  for (let i = 1; i < joints.length; i++) sum += distance(p, joints[i - 1] * 3, p, joints[i] * 3);
  return sum;
}
