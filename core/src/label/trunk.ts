import { isBelow, pathDown } from '../skeleton';
import { commonAncestor, mainPath, type BodyPlan, type Shape } from './structure';
import { tipLength } from './limbs';
import { log } from '../math/trig';

/** The trunk from the ground up. */
export interface Trunk {
  readonly ground: number | undefined;
  readonly hips: number;
  readonly spine: readonly number[];
  readonly neck: readonly number[];
  readonly head: number | undefined;
}

/** Finds hips, spine, neck and head once it is known where legs and arms hang. */
export function findTrunk(shape: Shape, plan: BodyPlan): Trunk {
  const { skeleton, hints } = shape;
  const limbs = new Set([plan.legs.a[0], plan.legs.b[0], plan.arms.a[0], plan.arms.b[0]]);
  let hips = plan.legs.parent;
  const chest = plan.arms.parent;
  const meet = commonAncestor(skeleton, hips, chest);
  // The joint above legs and trunk carries the body, whatever its name: moving only one of its children tears it.
  if (meet >= 0) hips = meet;
  // Legs that hang on a spine joint: the hips are the joint above that is named so.
  if ((hints[hips].fit.spine ?? 0) > 0) {
    for (let j = skeleton.parents[hips]; j >= 0; j = skeleton.parents[j]) {
      if ((hints[j].fit.hips ?? 0) > 0) {
        hips = j;
        break;
      }
    }
  }
  let from = pathDown(skeleton, hips, chest);
  if (from.length === 0) from = pathDown(skeleton, commonAncestor(skeleton, hips, chest), chest);
  const below = from.filter((j) => j !== hips && !isBelow(skeleton, hips, j) && isTrunk(j));
  const headPath = findHeadPath();
  const { neck, head } = splitHead(headPath);
  // A joint that carries the arms but is named a neck belongs to the neck.
  const spine = [...below];
  while (spine.length > 1 && (hints[spine[spine.length - 1]].fit.neck ?? 0) > (hints[spine[spine.length - 1]].fit.spine ?? 0)) {
    neck.unshift(spine.pop()!);
  }
  // Joints above the arms that are named as spine.
  while (neck.length > 0 && (hints[neck[0]].fit.spine ?? 0) > (hints[neck[0]].fit.neck ?? 0)) spine.push(neck.shift()!);
  return { ground: findGround(), hips, spine, neck, head };

  function isTrunk(j: number): boolean {
    return !hints[j].isTwist && (hints[j].fit.ground === undefined || hints[j].fit.spine !== undefined);
  }

  function findGround(): number | undefined {
    const above: number[] = [];
    for (let j = skeleton.parents[hips]; j >= 0; j = skeleton.parents[j]) above.push(j);
    if (above.length === 0) return undefined;
    const named = above.find((j) => (hints[j].fit.ground ?? 0) > 0);
    if (named !== undefined) return named;
    // Without a name: a root that the hips stand well above.
    const distance = pathDown(skeleton, above[above.length - 1], hips)
      .slice(1)
      .reduce((sum, j) => sum + shape.lengths[j], 0);
    return distance > 0.4 * plan.legs.reach ? above[above.length - 1] : undefined;
  }

  /** The way up from the chest (or a joint of the spine near it) to the top of the head. */
  function findHeadPath(): number[] {
    let best: number[] = [];
    let bestScore = -Infinity;
    from.forEach((joint, i) => {
      for (const child of shape.children[joint]) {
        if (limbs.has(child) || from.includes(child) || isBelow(skeleton, plan.legs.parent, child) || isBelow(skeleton, chest, child))
          continue;
        const path = mainPath(shape, child);
        const speech = path.slice(0, 5).reduce((m, j) => Math.max(m, hints[j].fit.head ?? 0, hints[j].fit.neck ?? 0), 0);
        const sided = hints[child].side !== undefined ? 1 : 0;
        const reach = shape.lengths[child] + shape.reach[child];
        const prop = path.some((j) => hints[j].fit.prop !== undefined) ? 0.5 : 0;
        const score =
          4 * speech - sided - prop + (1.5 * (i + 1)) / from.length - Math.abs(log(Math.max(reach, 1e-9) / (0.3 * plan.legs.reach)));
        if (score > bestScore) {
          bestScore = score;
          best = path;
        }
      }
    });
    return best;
  }

  function splitHead(path: readonly number[]): { neck: number[]; head: number | undefined } {
    if (path.length === 0) return { neck: [], head: undefined };
    let at = path.findIndex((j) => (hints[j].fit.head ?? 0) > 0 && !hints[j].isEnd);
    if (at < 0) at = path.findIndex((j) => shape.children[j].length >= 2);
    if (at < 0) {
      const named = path.filter((j) => !hints[j].isEnd);
      at = Math.max(0, named.length - 1);
      const necks = path.filter((j) => (hints[j].fit.neck ?? 0) > 0).length;
      if (necks > 0 && necks < named.length) at = Math.max(...path.map((j, i) => ((hints[j].fit.neck ?? 0) > 0 ? i : -1))) + 1;
      else if (named.length >= 3 && tipLength(shape, named[named.length - 1]) === 0) {
        // A last long bone without a tip is the head's own end, not another joint.
        const lengths = named.slice(1).map((j) => shape.lengths[j]);
        const last = lengths.pop()!;
        if (last > 1.2 * (lengths.reduce((a, b) => a + b, 0) / lengths.length)) at = named.length - 2;
      }
    }
    at = Math.min(at, path.length - 1);
    return { neck: path.slice(0, at).filter((j) => !hints[j].isTwist), head: path[at] };
  }
}
