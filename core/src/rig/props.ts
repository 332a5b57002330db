import { extraChains, extraRole, type Role } from '../label';
import { isBelow } from '../skeleton';
import type { Rig } from './rig';

/** A thing beside the body that a take records too: a crate, a pole, a door. */
export interface Prop {
  readonly name: string;
  readonly role: Role;
  readonly joint: number;
}

/** The props of a skeleton: chains that a person named whose base does not hang on the body. */
export function propsOf({ roles, skeleton, carrier }: Pick<Rig, 'roles' | 'skeleton' | 'carrier'>): Prop[] {
  return [...extraChains(roles)].flatMap(([name, [joint]]) =>
    isBelow(skeleton, joint, carrier) ? [] : [{ name, role: extraRole(name, 1), joint }],
  );
}
