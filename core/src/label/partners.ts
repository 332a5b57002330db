import { childrenOf, isBelow, type Skeleton } from '../skeleton';
import { readNames, type NameHints } from './lexicon';
import { mirrorRole, type Role, type RoleMap } from './roles';
import { hypot } from '../math/numbers';

/**
 * The joint on the other side of the body that answers to a joint: the one under the partner of the nearest ancestor with a
 * side, down the same way. Names decide where they pair; else the same place among brothers of the same length.
 * @returns −1 where there is none
 */
function partnerOf(skeleton: Skeleton, children: readonly number[][], hints: readonly NameHints[], joint: number): number {
  const own = hints[joint];
  if (own.side !== undefined) {
    const named = hints.findIndex(
      (hint) => hint.side !== undefined && hint.side !== own.side && hint.stem === own.stem && Object.is(hint.number, own.number),
    );
    if (named >= 0) return named;
  }
  // By shape: the branching nearest to the root whose branch has a brother of like size, and from there down the same way.
  const path: number[] = [];
  let found = -1;
  for (let j = joint; skeleton.parents[j] >= 0; j = skeleton.parents[j]) {
    const brothers = children[skeleton.parents[j]];
    const like = brothers.find((b) => b !== j && alike(skeleton, b, j));
    if (like !== undefined) found = path.reduce((at, step) => (at < 0 ? at : (children[at][step] ?? -1)), like);
    path.unshift(brothers.indexOf(j));
  }
  return found;
}

/** Branches of like size: the same number of joints, lengths within a tenth. */
function alike(skeleton: Skeleton, a: number, b: number): boolean {
  const size = (top: number): { count: number; length: number } => {
    let count = 0;
    let length = 0;
    for (let j = top; j < skeleton.parents.length; j++) {
      if (!isBelow(skeleton, j, top)) continue;
      count++;
      length += hypot(...skeleton.restT.subarray(j * 3, j * 3 + 3));
    }
    return { count, length };
  };
  const [x, y] = [size(a), size(b)];
  const offA = hypot(...skeleton.restT.subarray(a * 3, a * 3 + 3));
  const offB = hypot(...skeleton.restT.subarray(b * 3, b * 3 + 3));
  return (
    x.count === y.count &&
    Math.abs(x.length - y.length) < 0.1 * Math.max(x.length, y.length) &&
    Math.abs(offA - offB) < 0.1 * Math.max(offA, offB, 1e-9)
  );
}

/** The joint on the other side of the body for every joint, −1 for none. */
export function partnersOfJoints(skeleton: Skeleton): Int32Array {
  const hints = readNames(skeleton.names);
  const children = childrenOf(skeleton);
  return Int32Array.from(skeleton.parents, (_, j) => partnerOf(skeleton, children, hints, j));
}

/** Labels with one side's changes done on the other: for every role of `changed`, its partner role on its partner joint. */
export function mirrorLabels(roles: RoleMap, changed: readonly Role[], partner: Int32Array): Map<Role, number> {
  const out = new Map(roles);
  for (const role of changed) {
    const other = mirrorRole(role);
    if (other === role) continue;
    const joint = roles.get(role);
    // A joint that was only displaced by its partner's change takes nothing away on the other side.
    if (joint === undefined && changed.includes(other) && roles.has(other)) continue;
    if (joint === undefined) out.delete(other);
    else if (partner[joint] >= 0) {
      for (const [held, at] of out) if (at === partner[joint] && held !== other) out.delete(held);
      out.set(other, partner[joint]);
    }
  }
  return out;
}
