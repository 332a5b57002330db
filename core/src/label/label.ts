import type { Fault } from '../errors';
import { isBelow, pathDown, type Skeleton } from '../skeleton';
import { findFingers } from './fingers';
import { readNames, type NameHints, type NamePart } from './lexicon';
import type { Labels } from './labels';
import { findArm, findLeg, type LimbParts } from './limbs';
import { applyFix, findMistakes } from './mistakes';
import { compareRoles, FINGERS, missingRoles, shinEnd, SIDES, type Role, type RoleMap, type Side } from './roles';
import { sidesByName, sidesByShape, type LegPoints } from './sides';
import { findBodyPlan, measureShape, type BodyPlan, type LimbPair, type Shape } from './structure';
import { findTrunk } from './trunk';

/**
 * Labels a skeleton: which joint plays which part of an upright two-legged body. Names and structure are weighed
 * together: structure proposes where legs, arms and trunk run, names and proportions choose among the joints of each.
 * @param poses world positions (3 per joint) of a few poses, the file's rest first; used for left and right only
 */
export function labelSkeleton(skeleton: Skeleton, poses: readonly Float64Array[]): Labels {
  const hints = readNames(skeleton.names);
  const shape = measureShape(skeleton, hints);
  const roles = new Map<Role, number>();
  const confidence = new Map<Role, number>();
  const warnings: Fault[] = [];
  const plan = findBodyPlan(shape);
  if (plan === undefined) {
    labelByNameOnly(shape, roles, confidence);
    const missing = missingRoles(roles);
    warnings.push({
      code: 'label/missing',
      message:
        roles.size === 0
          ? 'no body was found in this skeleton: it goes joint by joint on Match, or is labelled by hand'
          : `no body with two legs and two arms was found in this skeleton; missing: ${missing.join(', ')}`,
      where: {},
    });
    return { roles: sorted(roles), confidence, missing, warnings };
  }
  const trunk = findTrunk(shape, plan);
  const set = (role: Role, joint: number | undefined, part: NamePart, base: number): void => {
    if (joint === undefined) return;
    roles.set(role, joint);
    confidence.set(role, trust(hints[joint], part, base));
  };
  const strength = Math.min(1, plan.score / 9);
  set('ground', trunk.ground, 'ground', 0.7);
  set('hips', trunk.hips, 'hips', 0.65 + 0.2 * strength);
  trunk.spine.forEach((j, i) => set(`spine.${i + 1}`, j, 'spine', 0.7 + 0.2 * strength));
  trunk.neck.forEach((j, i) => set(`neck.${i + 1}`, j, 'neck', 0.6 + 0.2 * strength));
  set('head', trunk.head, 'head', 0.65 + 0.2 * strength);

  const legs = [findLeg(shape, plan.legs.a), findLeg(shape, plan.legs.b)] as const;
  const arms = [findArm(shape, plan.arms.a), findArm(shape, plan.arms.b)] as const;
  agree(shape, plan.legs, legs);
  agree(shape, plan.arms, arms);

  const chest = trunk.spine[trunk.spine.length - 1] ?? plan.arms.parent;
  const points = legs.map((leg): LegPoints | undefined => legPoints(shape, leg));
  const byShape = points[0] && points[1] ? sidesByShape(poses, trunk.hips, trunk.head ?? chest, [points[0], points[1]]) : undefined;
  const legSide = sidesByName(shape, plan.legs.a, plan.legs.b) ?? byShape;
  const armByName = sidesByName(shape, plan.arms.a, plan.arms.b);
  const legFirst = legSide?.firstIsLeft ?? defaultSide(plan.legs, poses);
  const armFirst = armByName?.firstIsLeft ?? armsLikeLegs(plan, legFirst, poses);
  const sideTrust = legSide?.confidence ?? 0.2;
  if (legSide === undefined) {
    warnings.push({
      code: 'label/doubt',
      message: 'left and right could not be told from names or feet; left is taken to be the side at +X',
      where: {},
    });
  } else if (byShape && byShape.confidence > 0.5 && byShape.firstIsLeft !== legFirst) {
    warnings.push({
      code: 'label/doubt',
      message: 'names and shape disagree about left and right: by its feet the body faces the other way. Check whether sides are exchanged',
      where: { joint: skeleton.names[legs[0].upperLeg ?? plan.legs.a[0]] },
    });
  }

  SIDES.forEach((side) => {
    const leg = (side === 'left') === legFirst ? 0 : 1;
    const arm = (side === 'left') === armFirst ? 0 : 1;
    const base = (0.6 + 0.2 * strength) * (0.6 + 0.4 * sideTrust);
    for (const [part, joint] of Object.entries(legs[leg])) set(`${side}.${part}`, joint, part as NamePart, base);
    for (const [part, joint] of Object.entries(arms[arm])) set(`${side}.${part}`, joint, part as NamePart, base);
    const hand = arms[arm].hand;
    if (hand !== undefined && poses.length > 0) {
      const fingers = findFingers(shape, hand, poses[0]);
      for (const finger of FINGERS) {
        fingers[finger]?.forEach((j, i) => {
          roles.set(`${side}.${finger}.${i + 1}`, j);
          confidence.set(`${side}.${finger}.${i + 1}`, hints[j].finger === finger ? 0.95 : 0.55);
        });
      }
    }
    findTwists(shape, side, roles, confidence);
  });

  const missing = missingRoles(roles);
  if (missing.length > 0) {
    warnings.push({ code: 'label/missing', message: `no joint was found for: ${missing.join(', ')}`, where: {} });
  }
  return { roles: sorted(corrected(skeleton, roles, poses)), confidence, missing, warnings };
}

/** Mistakes that the finder is sure of are corrected here: labelling never contradicts it. */
function corrected(skeleton: Skeleton, found: RoleMap, poses: readonly Float64Array[]): Map<Role, number> {
  let roles = new Map(found);
  for (let round = 0; round < 4; round++) {
    const mistake = findMistakes(skeleton, roles, poses, undefined).find(({ kind, fix }) => fix && (kind === 'ground' || kind === 'skip'));
    if (!mistake?.fix) break;
    roles = applyFix(roles, mistake.fix);
  }
  return roles;
}

function sorted(roles: RoleMap): RoleMap {
  return new Map([...roles].sort(([a], [b]) => compareRoles(a, b)));
}

function trust(hint: NameHints, part: NamePart, base: number): number {
  const own = hint.fit[part] ?? 0;
  const other = Math.max(0, ...Object.entries(hint.fit).map(([p, s]) => (p === part ? 0 : s)));
  const value = base + (own > 0 ? 0.3 * own : 0) - (own < other && own === 0 ? 0.25 * other : 0);
  return Math.max(0.05, Math.min(0.99, value));
}

/** Where both limbs have the same number of joints, both take the choice that the better named one made. */
function agree(shape: Shape, pair: LimbPair, found: readonly [LimbParts, LimbParts]): void {
  if (pair.a.length !== pair.b.length) return;
  const index = (path: readonly number[], parts: LimbParts): string =>
    JSON.stringify(
      Object.entries(parts)
        .map(([part, j]) => [part, path.indexOf(j)])
        .sort(),
    );
  const a = index(pair.a, found[0]);
  const b = index(pair.b, found[1]);
  if (a === b) return;
  const named = (path: readonly number[]): number => path.filter((j) => Object.keys(shape.hints[j].fit).length > 0).length;
  const [from, to, path] = named(pair.a) >= named(pair.b) ? [a, found[1], pair.b] : [b, found[0], pair.a];
  for (const key of Object.keys(to) as (keyof LimbParts)[]) to[key] = undefined;
  for (const [part, i] of JSON.parse(from) as [keyof LimbParts, number][]) if (i >= 0) to[part] = path[i];
}

function legPoints(shape: Shape, leg: LimbParts): LegPoints | undefined {
  const { upperLeg: top, lowerLeg: knee, foot: ankle } = leg;
  if (top === undefined || knee === undefined || ankle === undefined) return undefined;
  let toe = leg.toes;
  if (toe === undefined) {
    toe = shape.children[ankle].reduce<number | undefined>(
      (far, c) => (far === undefined || shape.lengths[c] > shape.lengths[far] ? c : far),
      undefined,
    );
  }
  return { top, knee, ankle, toe };
}

function defaultSide(pair: LimbPair, poses: readonly Float64Array[]): boolean {
  const p = poses[0];
  return p === undefined || p[pair.a[0] * 3] >= p[pair.b[0] * 3];
}

/** Arms without side names take the sides of the legs that they lie beside. */
function armsLikeLegs(plan: BodyPlan, legFirst: boolean, poses: readonly Float64Array[]): boolean {
  let vote = 0;
  for (const p of poses) {
    for (let c = 0; c < 3; c++) {
      const leg = p[plan.legs.a[1] * 3 + c] - p[plan.legs.b[1] * 3 + c];
      const arm = p[plan.arms.a[1] * 3 + c] - p[plan.arms.b[1] * 3 + c];
      vote += leg * arm;
    }
  }
  return vote >= 0 ? legFirst : !legFirst;
}

/** Twist joints: named so, or lying on the bone between a limb joint and the next. */
function findTwists(shape: Shape, side: Side, roles: Map<Role, number>, confidence: Map<Role, number>): void {
  const { skeleton, hints } = shape;
  const taken = new Set(roles.values());
  const segments = [
    ['upperArm', 'lowerArm'],
    ['lowerArm', 'hand'],
    ['upperLeg', 'lowerLeg'],
    ['lowerLeg', shinEnd(roles, side)],
  ] as const;
  for (const [part, next] of segments) {
    const top = roles.get(`${side}.${part}`);
    const end = roles.get(`${side}.${next}`);
    if (top === undefined || end === undefined) continue;
    const between = pathDown(skeleton, top, end).slice(1, -1);
    const beside = skeleton.names
      .map((_, j) => j)
      .filter(
        (j) => isBelow(skeleton, j, top) && !isBelow(skeleton, j, end) && !between.includes(j) && hints[j].isTwist && !hints[j].isEnd,
      );
    [...between, ...beside]
      .filter((j) => !taken.has(j))
      .forEach((j, i) => {
        roles.set(`${side}.${part}.twist.${i + 1}`, j);
        confidence.set(`${side}.${part}.twist.${i + 1}`, hints[j].isTwist ? 0.95 : 0.5);
        taken.add(j);
      });
  }
}

/** Labels from names alone, for bodies whose structure is incomplete. */
function labelByNameOnly(shape: Shape, roles: Map<Role, number>, confidence: Map<Role, number>): void {
  const parts: readonly NamePart[] = ['hips', 'head', 'clavicle', 'upperArm', 'lowerArm', 'hand', 'upperLeg', 'lowerLeg', 'foot', 'toes'];
  let spine = 0;
  let neck = 0;
  shape.hints.forEach((hint, j) => {
    if (hint.isEnd || hint.isTwist || hint.finger !== undefined) return;
    const ranked = parts.map((part) => [part, hint.fit[part] ?? 0] as const).sort((a, b) => b[1] - a[1]);
    const [part, fit] = ranked[0];
    let role: Role | undefined;
    if ((hint.fit.spine ?? 0) >= Math.max(fit, 0.5)) role = `spine.${++spine}`;
    else if ((hint.fit.neck ?? 0) >= Math.max(fit, 0.5)) role = `neck.${++neck}`;
    else if (fit > 0) role = part === 'hips' || part === 'head' ? part : hint.side === undefined ? undefined : `${hint.side}.${part}`;
    if (role !== undefined && !roles.has(role)) {
      roles.set(role, j);
      confidence.set(role, 0.4);
    }
  });
}
