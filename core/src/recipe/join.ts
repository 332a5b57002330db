import { mirrorRole, type Role } from '../label';
import type { PairingSettings, SolveDecisions } from './choices';
import type { TouchUp, TouchUpKind } from './touchUps';

/** Parts of the body whose settings are taken over apart from the rest. */
export const JOIN_PARTS = ['arms', 'legs', 'trunk', 'way'] as const;
export type JoinPart = (typeof JOIN_PARTS)[number];

/** Decisions about a pairing and a solve, with touch-ups that may name their take. */
export interface Joinable<T extends { readonly touchUp: TouchUp }> extends PairingSettings, SolveDecisions {
  readonly touchUps: readonly T[];
}

const PART_OF_KIND: Readonly<Record<Exclude<TouchUpKind, 'joint'>, JoinPart>> = {
  shoulders: 'arms',
  shouldersAhead: 'arms',
  arms: 'arms',
  armsAhead: 'arms',
  elbows: 'arms',
  thumbs: 'arms',
  fingers: 'arms',
  legs: 'legs',
  knees: 'legs',
  feet: 'legs',
  stepsOut: 'legs',
  stepsAhead: 'legs',
  stepsTurned: 'legs',
  lean: 'trunk',
  leanAside: 'trunk',
  trunk: 'trunk',
  head: 'trunk',
  headTurn: 'trunk',
  headTilt: 'trunk',
  hips: 'way',
  heading: 'way',
  travel: 'way',
  placeLeft: 'way',
  placeAhead: 'way',
};

/** Which part of the body a role belongs to. */
function partOfRole(role: Role): JoinPart {
  if (role === mirrorRole(role)) return role === 'ground' || role === 'hips' ? 'way' : 'trunk';
  return /\.(upperLeg|lowerLeg|hock|fetlock|foot|toes)/.test(role) ? 'legs' : 'arms';
}

const partOf = ({ kind, role }: TouchUp): JoinPart => (kind === 'joint' ? partOfRole(role ?? 'hips') : PART_OF_KIND[kind]);

/** Settings that concern one part alone. */
const OWN: Readonly<Record<JoinPart, readonly (keyof PairingSettings | keyof SolveDecisions)[]>> = {
  arms: ['hands', 'keepOut', 'clavicleHelp', 'spineHelp', 'clavicles', 'palms', 'thumbs'],
  legs: ['apart', 'softReach'],
  trunk: ['head', 'tails', 'extras', 'face'],
  way: ['stride', 'lift', 'floor', 'inPlace', 'balance'],
};

/**
 * One set of decisions with what concerns a part of the body taken from another: settings, turns and links of its joints, and
 * touch-ups.
 */
export function joinChoices<T extends { readonly touchUp: TouchUp }, C extends Joinable<T>>(base: C, other: C, part: JoinPart): C {
  const settings = Object.fromEntries(OWN[part].map((key) => [key, other[key]]));
  const side = part === 'arms' ? 'Arm' : part === 'legs' ? 'Leg' : undefined;
  const follow = side
    ? { ...base.follow, [`left${side}`]: other.follow[`left${side}`], [`right${side}`]: other.follow[`right${side}`] }
    : base.follow;
  const isOwn = ({ touchUp }: T): boolean => partOf(touchUp) === part;
  // Each comes where one of the part's own stood, what is more behind the last of them.
  const taken = other.touchUps.filter(isOwn);
  const slots = base.touchUps.filter(isOwn).length;
  let next = 0;
  const touchUps = base.touchUps.flatMap((one) => {
    if (!isOwn(one)) return [one];
    next++;
    return next === slots ? taken.slice(next - 1) : taken.slice(next - 1, next);
  });
  if (slots === 0) touchUps.push(...taken);
  return {
    ...base,
    ...settings,
    follow,
    turns: joinRecords(base.turns, other.turns, part),
    links: joinRecords(base.links, other.links, part),
    touchUps,
  };
}

function joinRecords<V>(base: Readonly<Record<Role, V>>, other: Readonly<Record<Role, V>>, part: JoinPart): Record<Role, V> {
  const of = (record: Readonly<Record<Role, V>>, own: boolean): [Role, V][] =>
    Object.entries(record).filter(([role]) => (partOfRole(role) === part) === own);
  return Object.fromEntries([...of(base, false), ...of(other, true)]);
}
