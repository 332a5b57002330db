/** Trees of joints, and which joints of two trees stand at the same place in them. */
import type { Numbers } from '../math/quat';
import { distance } from '../math/vec';
import { childrenOf, type Skeleton } from '../skeleton';

/** A tree as it is compared: chains between the joints at which it branches. */
interface Limb {
  /** From the joint under a branch down to the next branch or the end. */
  readonly chain: readonly number[];
  /** Length from the branch above to each joint of the chain. */
  readonly along: readonly number[];
  readonly below: readonly Limb[];
  /** Joints in all, and the length of all bones. */
  readonly size: number;
  readonly length: number;
}

function limbFrom(joint: number, children: readonly (readonly number[])[], lengths: ArrayLike<number>): Limb {
  const chain = [joint];
  const along = [lengths[joint]];
  let at = joint;
  while (children[at].length === 1) {
    at = children[at][0];
    chain.push(at);
    along.push(along[along.length - 1] + lengths[at]);
  }
  const below = children[at].map((child) => limbFrom(child, children, lengths));
  const sum = (of: (limb: Limb) => number): number => below.reduce((all, limb) => all + of(limb), 0);
  return {
    chain,
    along,
    below,
    size: chain.length + sum(({ size }) => size),
    length: along[along.length - 1] + sum(({ length }) => length),
  };
}

function limbsOf(skeleton: Skeleton, rest: Numbers): Limb[] {
  const children = childrenOf(skeleton);
  const lengths = skeleton.names.map((_, j) => {
    const parent = skeleton.parents[j];
    if (parent < 0) return 0;
    return distance(rest, j * 3, rest, parent * 3);
  });
  return skeleton.names.flatMap((_, j) => (skeleton.parents[j] < 0 ? [limbFrom(j, children, lengths)] : []));
}

/** What a pair of joints is worth beyond their place in the tree, 0…1. */
export type Likeness = (source: number, target: number) => number;

/**
 * Joints of two trees that stand at the same place in them: roots on roots; along a chain those that lie at the same share of its length,
 * in order; where a tree branches, the branches that are most alike. A chain with a joint more keeps one over.
 * @param rest world places at rest, 3 per joint
 * @returns the source of each joint of the target, −1 for none
 */
export function pairByShape(
  source: Skeleton,
  sourceRest: Numbers,
  target: Skeleton,
  targetRest: Numbers,
  likeness: Likeness = () => 0,
): Int32Array {
  const out = new Int32Array(target.names.length).fill(-1);
  pairLimbs(limbsOf(source, sourceRest), limbsOf(target, targetRest), likeness, out);
  return out;
}

/** Branches beyond so many pairs of one joint are paired in order: comparing all with all would take minutes. */
const MOST_COMPARED = 40_000;

function pairLimbs(sources: readonly Limb[], targets: readonly Limb[], likeness: Likeness, out: Int32Array): void {
  if (sources.length * targets.length > MOST_COMPARED) {
    targets.slice(0, sources.length).forEach((target, i) => pairLimb(sources[i], target, likeness, out));
    return;
  }
  const whole = [sources, targets].map((limbs) => Math.max(...limbs.map(({ length }) => length), 1e-9));
  const pairs = targets
    .flatMap((target, t) => sources.map((source, s) => ({ s, t, value: alike(source, target, whole, likeness) })))
    .sort((a, b) => b.value - a.value || a.t - b.t || a.s - b.s);
  const [usedS, usedT] = [new Set<number>(), new Set<number>()];
  for (const { s, t } of pairs) {
    if (usedS.has(s) || usedT.has(t)) continue;
    usedS.add(s);
    usedT.add(t);
    pairLimb(sources[s], targets[t], likeness, out);
  }
}

/**
 * How alike two limbs are: length of their bones beside their neighbours', joints in all and of the chain, branches; and what their
 * joints are worth.
 */
function alike(a: Limb, b: Limb, [wholeA, wholeB]: readonly number[], likeness: Likeness): number {
  const near = (x: number, y: number): number => Math.min(x, y) / Math.max(x, y, 1);
  let names = 0;
  for (const joint of a.chain.slice(0, 8)) for (const other of b.chain.slice(0, 8)) names = Math.max(names, likeness(joint, other));
  const lengths = 1 - Math.abs(a.length / wholeA - b.length / wholeB);
  return lengths + near(a.size, b.size) + near(a.chain.length, b.chain.length) + near(a.below.length + 1, b.below.length + 1) + 2 * names;
}

function pairLimb(a: Limb, b: Limb, likeness: Likeness, out: Int32Array): void {
  for (const [source, target] of pairChain(a, b, likeness)) out[target] = source;
  pairLimbs(a.below, b.below, likeness, out);
}

/** Joints of two chains in order, all of the shorter one paired, so that shares of length and names agree best (dynamic programming). */
function pairChain(a: Limb, b: Limb, likeness: Likeness): [source: number, target: number][] {
  const isLonger = a.chain.length > b.chain.length;
  const [long, short] = isLonger ? [a, b] : [b, a];
  const [n, m] = [long.chain.length, short.chain.length];
  const share = ({ along }: Limb, i: number): number => {
    const [first, last] = [along[0], along[along.length - 1]];
    return last > first ? (along[i] - first) / (last - first) : 0;
  };
  const cost = (i: number, j: number): number => {
    const [source, target] = isLonger ? [long.chain[i], short.chain[j]] : [short.chain[j], long.chain[i]];
    return Math.abs(share(long, i) - share(short, j)) - likeness(source, target);
  };
  // The least for the first i joints of the longer and j of the shorter chain; those that are skipped are the longer one's.
  const best = Array.from({ length: n + 1 }, () => Float64Array.from({ length: m + 1 }, (_, j) => (j === 0 ? 0 : Infinity)));
  for (let i = 1; i <= n; i++) {
    for (let j = 1; j <= Math.min(i, m); j++) best[i][j] = Math.min(best[i - 1][j - 1] + cost(i - 1, j - 1), best[i - 1][j]);
  }
  const pairs: [number, number][] = [];
  for (let i = n, j = m; j > 0; i--) {
    if (best[i][j] === best[i - 1][j]) continue;
    j--;
    pairs.push(isLonger ? [long.chain[i - 1], short.chain[j]] : [short.chain[j], long.chain[i - 1]]);
  }
  return pairs;
}
