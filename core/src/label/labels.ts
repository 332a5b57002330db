import type { Fault } from '../errors';
import type { Role, RoleMap } from './roles';

/** The outcome of automatic labelling. */
export interface Labels {
  readonly roles: RoleMap;
  /** 0…1 for each role found. */
  readonly confidence: ReadonlyMap<Role, number>;
  readonly missing: readonly Role[];
  readonly warnings: readonly Fault[];
}
