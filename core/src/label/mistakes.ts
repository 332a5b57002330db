import { isBelow, pathDown, type Skeleton } from '../skeleton';
import { readNames, type NameHints } from './lexicon';
import type { Labels } from './labels';
import { chain, FINGERS, SIDES, type Role, type RoleMap } from './roles';
import { exchanged, unlike } from './bothSides';
import { LIMBS, type Found, type Mistake } from './mistake';
import { hypot } from '../math/numbers';

/** Labels that contradict how joints hang on each other break a body; others only make it move oddly. */
function doesBreak({ kind, role }: Found): boolean {
  return kind === 'order' || kind === 'double' || (kind === 'limb' && role.includes('Leg'));
}

/**
 * Looks for labels that are likely wrong, before anything is solved: names, hierarchy, lengths and the shape of poses are held
 * against each label, and against what automatic labelling would say.
 * @param poses world positions (3 per joint) of a few poses, the rest first
 * @param automatic what automatic labelling finds on the same skeleton; its roles are offered in place of wrong ones
 * @returns worst first
 */
export function findMistakes(
  skeleton: Skeleton,
  roles: RoleMap,
  poses: readonly Float64Array[],
  automatic: Pick<Labels, 'roles' | 'confidence'> | undefined,
): Mistake[] {
  const hints = readNames(skeleton.names);
  const found: Found[] = [];
  const instead = new Instead(skeleton, roles, automatic);
  const apart = ground(skeleton, roles, instead, found);
  exchanged(skeleton, roles, poses, hints, found);
  wrongLimb(skeleton, roles, instead, found);
  byName(skeleton, roles, hints, instead, found);
  doubled(skeleton, roles, found);
  order(skeleton, roles, instead, found);
  skips(skeleton, roles, hints, found);
  unlike(roles, poses[0], found);
  // One label, one mistake: the first found is the nearest to the cause.
  const seen = new Set<Role>();
  return found
    .filter(({ role, kind }) => {
      const key = kind === 'sides' ? 'sides' : role;
      if (seen.has(key)) return false;
      seen.add(key);
      return true;
    })
    .map((mistake) => ({ ...mistake, breaks: doesBreak(mistake) || apart.includes(mistake) }));
}

/** Words and changes for what automatic labelling would put in a label's place. */
class Instead {
  constructor(
    private readonly skeleton: Skeleton,
    private readonly roles: RoleMap,
    private readonly automatic: Pick<Labels, 'roles' | 'confidence'> | undefined,
  ) {}

  /** The joint that automatic labelling gives a role, when it is another one. */
  joint(role: Role): number | undefined {
    const joint = this.automatic?.roles.get(role);
    return joint === undefined || joint === this.roles.get(role) ? undefined : joint;
  }

  words(role: Role): string {
    const joint = this.joint(role);
    return joint === undefined ? 'give the role to another joint' : `give ${role} to ${this.skeleton.names[joint]}`;
  }

  fix(role: Role): Map<Role, number> | undefined {
    const joint = this.joint(role);
    if (joint === undefined) return undefined;
    const fix = new Map<Role, number>([[role, joint]]);
    // Whoever held that joint gets what automatic labelling gives it, or nothing.
    for (const [other, at] of this.roles) if (at === joint && other !== role) fix.set(other, this.joint(other) ?? -1);
    return fix;
  }
}

function doubled(skeleton: Skeleton, roles: RoleMap, found: Found[]): void {
  const first = new Map<number, Role>();
  for (const [role, joint] of roles) {
    const other = first.get(joint);
    if (other === undefined) first.set(joint, role);
    else {
      found.push({
        kind: 'double',
        role,
        joint,
        why: `${skeleton.names[joint]} already is ${other}`,
        instead: 'give one of the two roles to another joint',
        fix: undefined,
      });
    }
  }
}

/**
 * The hips are where trunk and legs part; a joint above that is the ground.
 * @returns the mistakes that break the body: hips that do not carry all of it, a ground that does not carry the hips
 */
function ground(skeleton: Skeleton, roles: RoleMap, instead: Instead, found: Found[]): Found[] {
  const hips = roles.get('hips');
  if (hips === undefined) return [];
  const floor = roles.get('ground');
  if (floor !== undefined && floor !== hips && !isBelow(skeleton, hips, floor)) {
    found.push({
      kind: 'ground',
      role: 'ground',
      joint: floor,
      why: `${skeleton.names[floor]} is not above the hips: a ground joint carries the whole body`,
      instead: instead.words('ground'),
      fix: instead.fix('ground') ?? new Map([['ground', -1]]),
    });
  }
  const legs = SIDES.map((side) => roles.get(`${side}.upperLeg`)).filter((j) => j !== undefined);
  const trunk = chain(roles, 'spine')[0] ?? roles.get('head');
  if (legs.length < 2 || trunk === undefined) return [...found];
  // The lowest joint that carries both legs and the trunk.
  const arms = SIDES.map((side) => roles.get(`${side}.upperArm`)).filter((j) => j !== undefined);
  const parting = lowestCommon(skeleton, [...legs, trunk, ...arms]);
  if (parting < 0) return [...found];
  if (!isBelow(skeleton, parting, hips)) {
    found.push({
      kind: 'ground',
      role: 'hips',
      joint: hips,
      why: `legs and trunk do not all hang on ${skeleton.names[hips]}`,
      instead: `give hips to ${skeleton.names[parting]}`,
      fix: new Map([['hips', parting], ...(floor === parting ? [['ground', -1] as const] : [])]),
    });
    return [...found];
  }
  const breaking = [...found];
  if (parting !== hips && !roleAt(roles, parting)?.startsWith('spine')) {
    found.push({
      kind: 'ground',
      role: 'hips',
      joint: hips,
      why: `only ${skeleton.names[parting]} hangs on ${skeleton.names[hips]}, and there legs and trunk part: the label is on the ground joint`,
      instead: `give hips to ${skeleton.names[parting]} and ground to ${skeleton.names[hips]}`,
      fix: new Map([
        ['hips', parting],
        ['ground', hips],
      ]),
    });
  }
  return breaking;
}

function lowestCommon(skeleton: Skeleton, joints: readonly number[]): number {
  for (let j = joints[0]; j >= 0; j = skeleton.parents[j]) {
    // A joint that is one of them cannot be where they part.
    if (!joints.includes(j) && joints.every((other) => isBelow(skeleton, other, j))) return j;
  }
  return -1;
}

const roleAt = (roles: RoleMap, joint: number): Role | undefined => [...roles].find(([, j]) => j === joint)?.[0];

/** Arms hang on the trunk above the hips, legs on the hips. */
function wrongLimb(skeleton: Skeleton, roles: RoleMap, instead: Instead, found: Found[]): void {
  const spine = chain(roles, 'spine');
  const chest = spine[Math.floor(spine.length / 2)];
  if (chest === undefined) return;
  for (const side of SIDES) {
    const arm = roles.get(`${side}.upperArm`);
    const leg = roles.get(`${side}.upperLeg`);
    if (arm !== undefined && !isBelow(skeleton, arm, spine[0])) {
      found.push({
        kind: 'limb',
        role: `${side}.upperArm`,
        joint: arm,
        why: `${skeleton.names[arm]} hangs on the hips and not on the spine: this is a leg`,
        instead: instead.words(`${side}.upperArm`),
        fix: instead.fix(`${side}.upperArm`),
      });
    }
    if (leg !== undefined && isBelow(skeleton, leg, chest)) {
      found.push({
        kind: 'limb',
        role: `${side}.upperLeg`,
        joint: leg,
        why: `${skeleton.names[leg]} hangs on the spine: this is an arm`,
        instead: instead.words(`${side}.upperLeg`),
        fix: instead.fix(`${side}.upperLeg`),
      });
    }
  }
}

const isLimbRole = (role: Role): boolean => !role.includes('twist') && !role.startsWith('extra.') && role !== 'ground';

function byName(skeleton: Skeleton, roles: RoleMap, hints: readonly NameHints[], instead: Instead, found: Found[]): void {
  const leaf = (joint: number): boolean => skeleton.parents.indexOf(joint) < 0;
  for (const [role, joint] of roles) {
    if (!isLimbRole(role)) continue;
    const name = skeleton.names[joint];
    const hint = hints[joint];
    const offer = { instead: instead.words(role), fix: instead.fix(role) };
    const finger = FINGERS.some((f) => role.includes(`.${f}.`));
    const named = Object.entries(hint.fit).filter(([part]) => part !== 'prop').length > 0;
    if (hint.isTwist) {
      found.push({
        kind: 'twist',
        role,
        joint,
        why: `${name} is a twist joint by its name: it turns beside the limb and does not bend it`,
        ...offer,
      });
    } else if (hint.fit.prop !== undefined && !named) {
      found.push({ kind: 'prop', role, joint, why: `${name} is a prop or a helper by its name, not a part of the body`, ...offer });
    } else if (hint.isEnd && (/\.(hand|foot|lowerArm|lowerLeg)$/.test(role) || (finger && instead.joint(role) !== undefined))) {
      found.push({ kind: 'end', role, joint, why: `${name} is the end of a bone by its name: nothing turns there`, ...offer });
    } else if (
      /\.(hand|foot)$/.test(role) &&
      leaf(joint) &&
      instead.joint(role) !== undefined &&
      isBelow(skeleton, joint, instead.joint(role)!)
    ) {
      found.push({
        kind: 'end',
        role,
        joint,
        why: `${name} is the last joint of its chain: the ${role.split('.')[1]} lies above it`,
        ...offer,
      });
    }
  }
}

/** Every labelled joint of a limb hangs below the one before it. */
function order(skeleton: Skeleton, roles: RoleMap, instead: Instead, found: Found[]): void {
  const check = (names: readonly Role[]): void => {
    const present = names.filter((role) => roles.has(role));
    for (let i = 1; i < present.length; i++) {
      const [above, role] = [present[i - 1], present[i]];
      const [a, j] = [roles.get(above)!, roles.get(role)!];
      if (j === a || isBelow(skeleton, j, a)) continue;
      const isAbove = isBelow(skeleton, a, j);
      // The joint out of line is the one that automatic labelling would move.
      const culprit = instead.joint(above) !== undefined && instead.joint(role) === undefined ? above : role;
      const at = roles.get(culprit)!;
      found.push({
        kind: 'order',
        role: culprit,
        joint: at,
        why: isAbove
          ? `${role} (${skeleton.names[j]}) lies above ${above} (${skeleton.names[a]}): the chain is out of order`
          : `${role} (${skeleton.names[j]}) does not hang below ${above} (${skeleton.names[a]})`,
        instead: instead.words(culprit),
        fix: instead.fix(culprit),
      });
    }
  };
  for (const side of SIDES) {
    for (const { parts } of LIMBS) check(parts.map((part) => `${side}.${part}`));
    for (const finger of FINGERS) check([`${side}.hand`, ...[1, 2, 3, 4].map((i) => `${side}.${finger}.${i}`)]);
  }
  const numbered = (stem: string): Role[] => chain(roles, stem).map((_, i) => `${stem}.${i + 1}`);
  check(['ground', 'hips', ...numbered('spine'), ...numbered('neck'), 'head']);
}

/** A chain that leaves a joint of its own out. */
function skips(skeleton: Skeleton, roles: RoleMap, hints: readonly NameHints[], found: Found[]): void {
  const taken = new Set(roles.values());
  const longest = Math.max(...skeleton.parents.map((_, j) => hypot(...skeleton.restT.subarray(j * 3, j * 3 + 3))));
  const between = (above: number, below: number): number[] =>
    pathDown(skeleton, above, below)
      .slice(1, -1)
      .filter((j) => !taken.has(j) && !hints[j].isTwist && hypot(...skeleton.restT.subarray(j * 3, j * 3 + 3)) > 0.02 * longest);
  for (const stem of ['spine', 'neck', ...SIDES.flatMap((side) => FINGERS.map((finger) => `${side}.${finger}`))]) {
    const joints = chain(roles, stem);
    for (let i = 1; i < joints.length; i++) {
      const left = between(joints[i - 1], joints[i]);
      if (left.length === 0) continue;
      const whole = pathDown(skeleton, joints[0], joints[joints.length - 1]).filter((j) => joints.includes(j) || left.includes(j));
      found.push({
        kind: 'skip',
        role: `${stem}.${i + 1}`,
        joint: joints[i],
        why: `${stem}.${i} to ${stem}.${i + 1} skips ${left.map((j) => skeleton.names[j]).join(', ')}`,
        instead: `take ${left.length === 1 ? 'it' : 'them'} into the chain`,
        fix: new Map(whole.map((j, k) => [`${stem}.${k + 1}`, j])),
      });
    }
  }
}

/** Labels with a mistake's fix applied. */
export function applyFix(roles: RoleMap, fix: ReadonlyMap<Role, number>): Map<Role, number> {
  const out = new Map(roles);
  for (const [role, joint] of fix) if (joint < 0) out.delete(role);
  for (const [role, joint] of fix) if (joint >= 0) out.set(role, joint);
  return out;
}
