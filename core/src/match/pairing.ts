import { withSole, type Foot, type Hand, type Rig } from '../rig';
import { SIDES } from '../label';
import type { Fault } from '../errors';
import { rotate, unrotate } from '../math/quat';
import { childrenOf } from '../skeleton';
import { compareBodies, type SameBody } from './likeness';
import { makeLinks, type Link } from './links';
import type { JointMap } from '../joints';
import { DEFAULT_PAIRING, type ByJoint, type PairingSettings } from '../recipe';
import { partnersOf, type ExtraPartner } from './extras';
import { matchRest, type RestMatch } from './restMatch';
import { twinsOf } from './twins';
import { findScale, type Scale } from './scale';

/** One performer skeleton and one character, made ready to carry takes across. */
export interface Pairing {
  readonly performer: Rig;
  readonly character: Rig;
  readonly same: SameBody;
  readonly match: RestMatch;
  readonly scale: Scale;
  readonly links: readonly Link[];
  /** The character's extra chains, each with what drives it. */
  readonly extras: readonly ExtraPartner[];
  /** Size of the character's props over the performer's. */
  readonly propSize: number;
  /** Joint of the performer by joint of the character, where both are one body on one skeleton. */
  readonly twins: ReadonlyMap<number, number> | undefined;
  /** How they are paired joint by joint, where they are; nothing else of the pairing is used then. */
  readonly joints?: { readonly map: JointMap; readonly settings: ByJoint };
  readonly warnings: readonly Fault[];
}

/** Residuals above this, degrees, stand as cautions. */
const DOUBTFUL_RESIDUAL = 5;

/** A point of one of the performer's joints, in the frame of a joint of a character of the same body. */
type Carry = (local: Float64Array, from: number, to: number) => Float64Array;

function carryBetween(performer: Rig, match: RestMatch, ratio: number): Carry {
  return (local, from, to) => {
    const v = local.map((x) => x * ratio);
    rotate(v, 0, performer.restPose.rotations, from * 4, v, 0);
    unrotate(v, 0, match.pose.rotations, to * 4, v, 0);
    return v;
  };
}

/** The performer's palms on a character of the same body. */
function handsOfSameBody(performer: Rig, character: Rig, carry: Carry): Hand[] {
  return character.hands.map((hand) => {
    const theirs = performer.hands.find(({ side }) => side === hand.side);
    return theirs ? { ...hand, palm: carry(theirs.palm, theirs.hand, hand.hand) } : hand;
  });
}

/**
 * The performer's feet on a character of the same body: the probes stand where the performer's do, whatever pose the
 * character's own feet rest in.
 */
function feetOfSameBody(performer: Rig, character: Rig, carry: Carry, ratio: number): Foot[] {
  return character.feet.map((foot) => {
    const theirs = performer.feet.find(({ side }) => side === foot.side);
    if (!theirs || foot.toes < 0 !== theirs.toes < 0) return foot;
    const [from, to] = theirs.toes >= 0 ? [theirs.toes, foot.toes] : [theirs.foot, foot.foot];
    return {
      ...foot,
      heel: carry(theirs.heel, theirs.foot, foot.foot),
      ball: carry(theirs.ball, theirs.foot, foot.foot),
      tip: carry(theirs.tip, from, to),
      bend: carry(theirs.bend, theirs.foot, foot.foot),
      ankleHeight: theirs.ankleHeight * ratio,
    };
  });
}

/** Pairs two bodies: rest match, scale and links. */
export function makePairing(performer: Rig, target: Rig, settings: PairingSettings = DEFAULT_PAIRING): Pairing {
  const same = compareBodies(performer, target);
  const match = matchRest(performer, target, same, settings);
  const carry = carryBetween(performer, match, same.ratio);
  const { scale: automatic, sole } = findScale(performer, target, match, same, lowestFoot(target, match));
  const character = same.same
    ? { ...target, feet: feetOfSameBody(performer, target, carry, same.ratio), hands: handsOfSameBody(performer, target, carry) }
    : withSole(target, sole);
  const scale: Scale = {
    ...automatic,
    stride: settings.stride === 'legs' ? automatic.stride : settings.stride === 'marks' ? 1 : settings.stride,
    lift: settings.lift === 'hips' ? automatic.lift : settings.lift,
  };
  const warnings: Fault[] = [];
  for (const { role, after, reason } of match.residuals) {
    if (after > DOUBTFUL_RESIDUAL && !role.includes('clavicle')) {
      warnings.push({
        code: 'match/rest',
        message: `${role} is ${after.toFixed(1)}° off the performer after rest match: ${reason}`,
        where: { joint: character.skeleton.names[character.roles.get(role)!] },
      });
    }
  }
  const extras = partnersOf(performer, character, settings.extras);
  for (const { name, partner } of extras) {
    if (partner === undefined) {
      warnings.push({
        code: 'match/rest',
        message: `the chain "${name}" has no partner on the performer: it keeps its rest and goes with the body`,
        where: { file: character.name },
      });
    }
  }
  for (const body of [performer, character]) {
    if (!body.isRestClean) {
      warnings.push({
        code: 'match/rest',
        message: `no clean rest pose: ${body.rest.reason}. Limbs may be turned about their axes`,
        where: { file: body.name },
      });
    }
  }
  if (scale.lift > 4 || scale.lift < 0.25) {
    warnings.push({
      code: 'match/scale',
      message: `the character is ${scale.lift.toFixed(2)} times the performer's height; look at the units`,
      where: {},
    });
  }
  const twins = twinsOf(performer, character, same);
  const links = makeLinks(performer, character, extras, settings.links, twins);
  const propSize = settings.props ?? (same.same ? same.ratio : 1);
  return { performer, character, same, match, scale, links, extras, propSize, twins, warnings };
}

function lowestFoot(body: Rig, match: RestMatch): number {
  let lowest = Infinity;
  const children = childrenOf(body.skeleton);
  for (const side of SIDES) {
    const foot = body.roles.get(`${side}.foot`);
    const toes = body.roles.get(`${side}.toes`);
    for (const j of [foot, toes]) {
      if (j === undefined) continue;
      lowest = Math.min(lowest, match.pose.positions[j * 3 + 1]);
      if (j === (toes ?? foot)) {
        for (const c of children[j]) lowest = Math.min(lowest, match.pose.positions[c * 3 + 1]);
        if (Number.isFinite(body.skeleton.tips[j * 3])) lowest = Math.min(lowest, tipHeight(body, match, j));
      }
    }
  }
  return lowest;
}

function tipHeight({ skeleton }: Rig, match: RestMatch, j: number): number {
  const [x, y, z, w] = match.pose.rotations.slice(j * 4, j * 4 + 4);
  const [tx, ty, tz] = skeleton.tips.slice(j * 3, j * 3 + 3);
  return match.pose.positions[j * 3 + 1] + 2 * (x * y + w * z) * tx + (1 - 2 * (x * x + z * z)) * ty + 2 * (y * z - w * x) * tz;
}
