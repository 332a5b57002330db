import { length } from '../math/vec';
import { boneLengths, childrenOf, isBelow, pathDown, type Skeleton } from '../skeleton';
import type { NameHints } from './lexicon';
import { ARM_PARTS, LEG_PARTS } from './roles';
import { log } from '../math/trig';

/** Measures of a skeleton that do not depend on how it stands: lengths and branching only. */
export interface Shape {
  readonly skeleton: Skeleton;
  readonly hints: readonly NameHints[];
  readonly children: readonly (readonly number[])[];
  /** Length of each joint's bone from its parent. */
  readonly lengths: Float64Array;
  /** Longest way from each joint down to a leaf or tip. */
  readonly reach: Float64Array;
  /** Joints at and below each joint. */
  readonly counts: Int32Array;
}

/** Two like branches of one joint: a left and a right limb, sides not yet known. */
export interface LimbPair {
  readonly parent: number;
  readonly a: readonly number[];
  readonly b: readonly number[];
  readonly reach: number;
  readonly likeness: number;
}

/** Where legs and arms hang on the body. */
export interface BodyPlan {
  readonly legs: LimbPair;
  readonly arms: LimbPair;
  readonly score: number;
}

export function measureShape(skeleton: Skeleton, hints: readonly NameHints[]): Shape {
  const children = childrenOf(skeleton);
  const lengths = boneLengths(skeleton);
  const count = lengths.length;
  const reach = new Float64Array(count);
  const counts = new Int32Array(count).fill(1);
  for (let j = count - 1; j >= 0; j--) {
    const o = j * 3;
    const tip = length(skeleton.tips, o);
    if (children[j].length === 0 && Number.isFinite(tip)) reach[j] = Math.max(reach[j], tip);
    const parent = skeleton.parents[j];
    if (parent < 0) continue;
    reach[parent] = Math.max(reach[parent], lengths[j] + reach[j]);
    counts[parent] += counts[j];
  }
  return { skeleton, hints, children, lengths, reach, counts };
}

/** The main way down a limb: at each branching to the child that reaches farthest, side branches by name apart. */
export function mainPath(shape: Shape, from: number): number[] {
  const path = [from];
  for (let j = from; shape.children[j].length > 0;) {
    const weigh = (c: number): number => {
      const hint = shape.hints[c];
      const aside = hint.isTwist || hint.isEnd || hint.fit.prop !== undefined || hint.finger === 'thumb';
      const limb = Math.max(hint.fit.hand ?? 0, hint.fit.foot ?? 0, hint.fit.lowerArm ?? 0, hint.fit.lowerLeg ?? 0);
      return (shape.lengths[c] + shape.reach[c]) * (aside ? 0.3 : 1) * (1 + limb) + shape.counts[c] * 1e-9;
    };
    j = shape.children[j].reduce((best, c) => (weigh(c) > weigh(best) ? c : best));
    path.push(j);
  }
  return path;
}

const MAX_PAIRS = 24;

/** All pairs of like branches, the largest first. */
function findPairs(shape: Shape): LimbPair[] {
  const { children, reach, lengths, counts } = shape;
  const total = Math.max(...reach);
  const pairs: LimbPair[] = [];
  for (let p = 0; p < children.length; p++) {
    const list = children[p].filter((c) => reach[c] > 0.12 * total && counts[c] >= 2);
    for (let i = 0; i < list.length && i < 12; i++) {
      for (let k = i + 1; k < list.length && k < 12; k++) {
        const likeness = alike(list[i], list[k]);
        if (likeness < 0.6) continue;
        pairs.push({
          parent: p,
          a: mainPath(shape, list[i]),
          b: mainPath(shape, list[k]),
          reach: (reach[list[i]] + reach[list[k]]) / 2,
          likeness,
        });
      }
    }
  }
  return pairs.sort((x, y) => y.reach * y.likeness - x.reach * x.likeness).slice(0, MAX_PAIRS);

  function alike(a: number, b: number): number {
    const unlike = (x: number, y: number): number => Math.abs(x - y) / Math.max(x + y, 1e-9);
    let score = 1 - 1.5 * unlike(reach[a], reach[b]) - 0.5 * unlike(lengths[a], lengths[b]) - 0.3 * unlike(counts[a], counts[b]);
    const sideA = shape.hints[a].side;
    const sideB = shape.hints[b].side;
    if (sideA !== undefined && sideB !== undefined) score += sideA !== sideB ? 0.3 : -1;
    return score;
  }
}

/** Mean over a limb's first joints of how much more its names speak of a leg (positive) than of an arm (negative). */
function speaksOfLegs(shape: Shape, path: readonly number[]): number {
  let sum = 0;
  let named = 0;
  for (const j of path.slice(0, 7)) {
    const hint = shape.hints[j];
    const leg = Math.max(0, ...LEG_PARTS.map((part) => hint.fit[part] ?? 0));
    const arm = Math.max(hint.finger === undefined ? 0 : 1, ...ARM_PARTS.map((part) => hint.fit[part] ?? 0));
    if (leg === 0 && arm === 0) continue;
    sum += leg - arm;
    named++;
  }
  return named === 0 ? 0 : sum / named;
}

/**
 * Finds legs and arms: of all pairs of like branches the two that make the best upright two-legged body, judged by
 * proportion (legs about 1.3 arms, trunk about half a leg), by place (legs nearer the root) and by name.
 */
export function findBodyPlan(shape: Shape): BodyPlan | undefined {
  const pairs = findPairs(shape);
  const { skeleton, lengths } = shape;
  const total = Math.max(...shape.reach);
  const speech = pairs.map((pair) => (speaksOfLegs(shape, pair.a) + speaksOfLegs(shape, pair.b)) / 2);
  let best: BodyPlan | undefined;
  pairs.forEach((legs, l) => {
    pairs.forEach((arms, a) => {
      if (legs === arms || sharesBranch(legs, arms)) return;
      if (legs.a.length < 2 || arms.a.length < 2) return;
      let score = 3 * (speech[l] - speech[a]) + legs.likeness + arms.likeness;
      score -= Math.abs(log(legs.reach / arms.reach / 1.2));
      score += (2 * (legs.reach + arms.reach)) / total;
      const down = pathDown(skeleton, legs.parent, arms.parent);
      const up = pathDown(skeleton, arms.parent, legs.parent);
      const chain = down.length > 0 ? down : up.length > 0 ? up : [];
      let trunk = chain.slice(1).reduce((sum, j) => sum + lengths[j], 0);
      if (chain.length === 0) trunk = betweenBranches(shape, legs.parent, arms.parent);
      score -= Math.min(2, Math.abs(log(Math.max(trunk, 1e-6) / (0.55 * legs.reach))));
      if (down.length > 1) score += 1;
      else if (chain.length > 1) score -= 0.5;
      else if (chain.length === 1) score -= 0.5;
      // A head: something else that hangs on the arms' end of the trunk.
      const others = shape.children[arms.parent].filter((c) => c !== arms.a[0] && c !== arms.b[0] && !isBelow(skeleton, legs.parent, c));
      if (others.length > 0) score += 0.5;
      const hint = shape.hints[legs.parent];
      score += hint.fit.hips ?? 0;
      if (best === undefined || score > best.score) best = { legs, arms, score };
    });
  });
  return best;

  function sharesBranch(x: LimbPair, y: LimbPair): boolean {
    return (
      [x.a[0], x.b[0]].some((top) => isBelow(skeleton, y.parent, top) || y.a[0] === top || y.b[0] === top) ||
      [y.a[0], y.b[0]].some((top) => isBelow(skeleton, x.parent, top))
    );
  }
}

/** Length of the way between two joints of different branches. */
function betweenBranches({ skeleton, lengths }: Shape, a: number, b: number): number {
  const seen = new Map<number, number>();
  let sum = 0;
  for (let j = a; j >= 0; j = skeleton.parents[j]) {
    seen.set(j, sum);
    sum += lengths[j];
  }
  sum = 0;
  for (let j = b; j >= 0; j = skeleton.parents[j]) {
    const met = seen.get(j);
    if (met !== undefined) return met + sum;
    sum += lengths[j];
  }
  return sum;
}

/** The nearest joint that has both below it. */
export function commonAncestor(skeleton: Skeleton, a: number, b: number): number {
  let j = a;
  while (j >= 0 && !isBelow(skeleton, b, j)) j = skeleton.parents[j];
  return j;
}
