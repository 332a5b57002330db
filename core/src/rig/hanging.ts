import type { MotionFile } from '../formats';
import { extraChains, type RoleMap } from '../label';
import { childrenOf, isBelow, type Skeleton } from '../skeleton';
import { outermost, type CarriedPoint } from './outermost';

/** A chain that hangs free of the body's limbs: a tail, an ear, a coat's hem. */
export interface Hanging {
  /** Base to tip. */
  readonly joints: readonly number[];
  /** Of each joint the outermost points of its skin, in its frame; none without a mesh. */
  readonly skin: readonly (readonly CarriedPoint[])[];
}

/** Joints that free chains hang on: trunk and head. */
const TRUNK = /^(hips|spine|neck|head)/;

/** Chains that hang free: those that a person named, and what hangs unlabelled on trunk or head in one line. @param metres per unit of the file */
export function hangingOf(skeleton: Skeleton, roles: RoleMap, carrier: number, skin: MotionFile['skin'], metres: number): Hanging[] {
  // A thing beside the body hangs on nothing.
  const named = [...extraChains(roles).values()].filter(([base]) => isBelow(skeleton, base, carrier));
  const roleOf = new Map([...roles].map(([role, joint]) => [joint, role]));
  const children = childrenOf(skeleton);
  const lines = [...skeleton.parents.keys()].flatMap((base) => {
    const on = roleOf.get(skeleton.parents[base]);
    if (roleOf.has(base) || on === undefined || !TRUNK.test(on)) return [];
    const line = [base];
    while (children[line[line.length - 1]].length === 1) line.push(children[line[line.length - 1]][0]);
    return line.length > 1 && line.every((joint) => !roleOf.has(joint)) ? [line] : [];
  });
  const chains = [...named, ...lines];
  const owners = new Set(skin?.joints);
  const covered = chains.flat().filter((joint) => owners.has(joint));
  const points = covered.length === 0 ? [] : outermost(skeleton, skin, metres, covered);
  return chains.map((joints) => ({ joints, skin: joints.map((joint) => points.filter((point) => point.joint === joint)) }));
}
