import type { Rig } from '../rig';
import { ARM_PARTS, chain, FINGERS, LEG_PARTS, SIDES, type Finger, type RoleMap, type Side } from '../label';
import { isBelow } from '../skeleton';
import { distance } from '../math/vec';
import type { PairingSettings } from '../recipe';
import type { ExtraPartner } from './extras';

/**
 * Driver of one joint of the character: the turn of performer joint `a`, or the turn a fraction `t` of the way from
 * that of `a` to that of `b`.
 */
export interface Link {
  readonly joint: number;
  readonly a: number;
  readonly b: number;
  readonly t: number;
}

const SINGLE_PARTS = [...ARM_PARTS, ...LEG_PARTS];

/**
 * Stage 5, its plan: single parts drive their like; chains of unlike counts are linked by arc length, so that a bend
 * spreads evenly and the chain's end turns exactly as the performer's.
 */
export function makeLinks(
  performer: Rig,
  character: Rig,
  extras: readonly ExtraPartner[] = [],
  byHand: PairingSettings['links'] = {},
  twins?: ReadonlyMap<number, number>,
): Link[] {
  const links: Link[] = [];
  const single = (role: string): void => {
    const joint = character.roles.get(role);
    const a = performer.roles.get(role);
    if (joint !== undefined && a !== undefined) links.push({ joint, a, b: a, t: 0 });
  };
  single('hips');
  const spines = [chain(performer.roles, 'spine'), chain(character.roles, 'spine')] as const;
  linkChain(performer, character, performer.roles.get('hips')!, character.roles.get('hips')!, spines[0], spines[1], links);
  const last = <T>(list: readonly T[]): T | undefined => list[list.length - 1];
  const necks = [withHead(performer.roles), withHead(character.roles)] as const;
  linkChain(
    performer,
    character,
    last(spines[0]) ?? performer.roles.get('hips')!,
    last(spines[1]) ?? character.roles.get('hips')!,
    necks[0],
    necks[1],
    links,
  );
  for (const side of SIDES) {
    SINGLE_PARTS.forEach((part) => single(`${side}.${part}`));
    const hands = [performer.roles.get(`${side}.hand`), character.roles.get(`${side}.hand`)] as const;
    if (hands[0] === undefined || hands[1] === undefined) continue;
    for (const finger of FINGERS) {
      const leader = leaderOf(performer.roles, side, finger);
      linkChain(
        performer,
        character,
        hands[0],
        hands[1],
        chain(performer.roles, leader),
        chain(character.roles, `${side}.${finger}`),
        links,
      );
    }
  }
  for (const { joints, partner } of extras) {
    if (!partner) continue;
    const bases = [performer.skeleton.parents[partner[0]], character.skeleton.parents[joints[0]]];
    linkChain(performer, character, bases[0] < 0 ? partner[0] : bases[0], bases[1] < 0 ? joints[0] : bases[1], partner, joints, links);
  }
  linkRest(performer, character, links, twins);
  return Object.keys(byHand).length > 0 ? changeLinks(performer, character, links, byHand) : links;
}

/** The performer's finger that leads one of the character's: its own, or the nearest beside it, so that a whole fist closes. */
function leaderOf(roles: RoleMap, side: Side, finger: Finger): string {
  const has = (other: Finger): boolean => roles.has(`${side}.${other}.1`);
  if (has(finger) || finger === 'thumb') return `${side}.${finger}`;
  const away = (other: Finger): number => Math.abs(FINGERS.indexOf(other) - FINGERS.indexOf(finger));
  const [nearest = finger] = FINGERS.slice(1)
    .filter(has)
    .sort((a, b) => away(a) - away(b));
  return `${side}.${nearest}`;
}

/**
 * Links what no role links: the joint above everything labelled turns as the performer's does, wherever the hips are; and on the
 * same body every joint without a role follows its like.
 */
function linkRest(performer: Rig, character: Rig, links: Link[], twins: ReadonlyMap<number, number> | undefined): void {
  const linked = new Set(links.map(({ joint }) => joint));
  const add = (joint: number, source: number): void => {
    if (linked.has(joint)) return;
    linked.add(joint);
    links.push({ joint, a: source, b: source, t: 0 });
  };
  add(character.carrier, performer.carrier);
  if (!twins) return;
  const extra = new Set([...character.roles].filter(([role]) => role.startsWith('extra.')).map(([, joint]) => joint));
  for (const [joint, source] of twins) {
    if (!extra.has(joint) && isBelow(character.skeleton, joint, character.carrier)) add(joint, source);
  }
}

/** Lays rungs set by hand over the automatic ones: moved, added, or cut. Roles that a body does not have are left out. */
function changeLinks(performer: Rig, character: Rig, links: readonly Link[], byHand: PairingSettings['links']): Link[] {
  const out = new Map(links.map((link) => [link.joint, link]));
  for (const [role, rung] of Object.entries(byHand)) {
    const joint = character.roles.get(role);
    if (joint === undefined) continue;
    if (rung === null) {
      // The joint that carries the body must turn with it: without that there is nothing to place.
      if (joint !== character.carrier) out.delete(joint);
      continue;
    }
    const a = performer.roles.get(rung.a);
    const b = performer.roles.get(rung.b);
    if (a !== undefined && b !== undefined) out.set(joint, { joint, a, b, t: rung.t });
  }
  return [...out.values()];
}

function withHead(roles: RoleMap): number[] {
  const head = roles.get('head');
  return head === undefined ? chain(roles, 'neck') : [...chain(roles, 'neck'), head];
}

/** Place of each joint of a chain between its base (0) and its last joint (1), by arc length. */
function places(body: Rig, base: number, joints: readonly number[]): number[] {
  const p = body.restPose.positions;
  const small = 0.002 * body.legLength;
  let at = 0;
  let before = base;
  const out = joints.map((j) => {
    // Joints in one place keep their order.
    at += Math.max(small, distance(p, before * 3, p, j * 3));
    before = j;
    return at;
  });
  return out.map((v) => v / at);
}

function linkChain(
  performer: Rig,
  character: Rig,
  baseP: number,
  baseC: number,
  chainP: readonly number[],
  chainC: readonly number[],
  links: Link[],
): void {
  if (chainP.length === 0 || chainC.length === 0) return;
  if (chainP.length === chainC.length) {
    chainC.forEach((joint, i) => links.push({ joint, a: chainP[i], b: chainP[i], t: 0 }));
    return;
  }
  const knots = [0, ...places(performer, baseP, chainP)];
  const joints = [baseP, ...chainP];
  places(character, baseC, chainC).forEach((place, i) => {
    let k = 1;
    while (k < knots.length - 1 && knots[k] < place) k++;
    const t = Math.min(1, Math.max(0, (place - knots[k - 1]) / (knots[k] - knots[k - 1])));
    if (t > 1 - 1e-9) links.push({ joint: chainC[i], a: joints[k], b: joints[k], t: 0 });
    else links.push({ joint: chainC[i], a: joints[k - 1], b: joints[k], t });
  });
}
