import { LEG_PARTS, SIDES, type Side } from '../label';
import type { Pairing } from '../match';
import { identity, invMul, mul, unrotate } from '../math/quat';
import type { Rig } from '../rig';
import { isBelow, pathDown, type Skeleton } from '../skeleton';
import { planWholeLegs, type WholeLeg } from './wholeLegs';

export const enum Drive {
  /** Nothing drives the joint: it keeps its rest relative to its parent. */
  Rest,
  /** The turn of one joint of the performer. */
  Direct,
  /** A turn between those of two joints. */
  Blend,
}

/** A limb of the character as a chain of joints, top to end; records of it hold a place and a rotation for each. */
export interface LimbPlan {
  readonly kind: 'leg' | 'arm';
  readonly side: Side;
  /** Upper, lower, what stands between the lower and the end, the end (foot or hand), and what hangs on it (toes). */
  readonly joints: readonly number[];
  /** Index in `joints` of the foot or the hand: the number of bones. Every second turns as the first does, the others as the second. */
  readonly end: number;
  /** Index in `joints` of the toes, −1 where there are none. */
  readonly beyond: number;
  /** Joint that the limb hangs on, −1 for none. */
  readonly parent: number;
  /** For each joint after the first the product of the rest rotations between it and the one before, 4 numbers each. */
  readonly between: Float64Array;
  /** Joints to be posed to know where the limb is, from the root down. */
  readonly chain: Int32Array;
  /** Joints whose places draw the limb out, the first left out; none where the file states no places for all of them. */
  readonly drawn: readonly number[];
  /** Unit axis that the middle joint bends about, in the upper joint's frame at the matched rest. */
  readonly hinge: Float64Array;
}

/** A joint that changes its place at its parent in the take, on a character of the same body: kept. */
export interface Slide {
  readonly joint: number;
  readonly source: number;
  /** From the performer's parent frame to the character's. */
  readonly turn: Float64Array;
  readonly ratio: number;
}

/** The part of a pose transfer that does not change from frame to frame. */
export interface PosePlan {
  readonly drive: Uint8Array;
  readonly a: Int32Array;
  readonly b: Int32Array;
  readonly share: Float64Array;
  /** Rest of a performer joint, inverted, times the matched rest of the joint that it drives; 4 per joint. */
  readonly factorA: Float64Array;
  readonly factorB: Float64Array;
  /** Joints with something driven at or below them: the others stand at rest. */
  readonly turning: Int32Array;
  /** Local rotations of joints that nothing drives. */
  readonly rest: Float64Array;
  /** The joint whose translation carries the body. */
  readonly mover: number;
  /** The ground joint that follows the hips over the floor, −1 for none. */
  readonly ground: number;
  /** Ways from the root to both hip joints. */
  readonly hipWay: Int32Array;
  readonly hips: readonly [left: number, right: number];
  readonly limbs: readonly LimbPlan[];
  readonly slides: readonly Slide[];
  /** Legs that are carried over as wholes, and 1 for their joints. */
  readonly wholeLegs: readonly WholeLeg[];
  readonly isWhole: Uint8Array;
}

/**
 * Plans a pose transfer. A joint's turn from rest in the world, Δ = G·G(rest)⁻¹, is laid on the matched rest M of the linked
 * joint: Δ·M. As G(rest)⁻¹·M does not change over time it is multiplied out here, which leaves two products a joint and frame.
 */
export function planPose(pairing: Pairing): PosePlan {
  const { performer, character, match, links } = pairing;
  const { skeleton } = character;
  const joints = skeleton.parents.length;
  const drive = new Uint8Array(joints);
  const a = new Int32Array(joints);
  const b = new Int32Array(joints);
  const share = new Float64Array(joints);
  const factorA = new Float64Array(joints * 4);
  const factorB = new Float64Array(joints * 4);
  for (const link of links) {
    const { joint } = link;
    drive[joint] = link.a === link.b ? Drive.Direct : Drive.Blend;
    a[joint] = link.a;
    b[joint] = link.b;
    share[joint] = link.t;
    invMul(factorA, joint * 4, performer.restPose.rotations, link.a * 4, match.pose.rotations, joint * 4);
    invMul(factorB, joint * 4, performer.restPose.rotations, link.b * 4, match.pose.rotations, joint * 4);
  }
  const isTurning = new Uint8Array(joints);
  for (const { joint } of links) for (let j = joint; j >= 0 && isTurning[j] === 0; j = skeleton.parents[j]) isTurning[j] = 1;
  // Joints that hang on the body stand as matched; those that carry it, or stand beside it, as their file has them.
  const rest = skeleton.restR.slice();
  for (let j = 0; j < joints; j++) {
    if (isBelow(skeleton, j, character.carrier)) rest.set(match.undriven.subarray(j * 4, j * 4 + 4), j * 4);
  }
  const wholeLegs = planWholeLegs(pairing);
  const isWhole = new Uint8Array(joints);
  for (const { joints: leg } of wholeLegs) for (const joint of leg) isWhole[joint] = 1;
  const mover = findMover(character);
  const hips = SIDES.map((side) => character.roles.get(`${side}.upperLeg`)!) as [number, number];
  return {
    drive,
    a,
    b,
    share,
    factorA,
    factorB,
    turning: indices(isTurning),
    rest,
    mover,
    ground: findGround(character, mover),
    hipWay: wayTo(skeleton, hips),
    hips,
    limbs: [...SIDES.map((side) => planLimb(pairing, rest, 'leg', side)), ...SIDES.map((side) => planLimb(pairing, rest, 'arm', side))],
    slides: planSlides(pairing),
    wholeLegs,
    isWhole,
  };
}

function indices(flags: Uint8Array): Int32Array {
  return Int32Array.from([...flags.keys()].filter((j) => flags[j] === 1));
}

function wayTo(skeleton: Skeleton, joints: readonly number[]): Int32Array {
  const flags = new Uint8Array(skeleton.parents.length);
  for (const joint of joints) for (let j = joint; j >= 0; j = skeleton.parents[j]) flags[j] = 1;
  return indices(flags);
}

/** The joint that carries the body over the floor: the one above all that is labelled, or the nearest above it that may move. */
function findMover({ carrier, canMove, skeleton }: Rig): number {
  for (let j = carrier; j >= 0; j = skeleton.parents[j]) if (canMove[j] === 1) return j;
  let root = carrier;
  while (skeleton.parents[root] >= 0) root = skeleton.parents[root];
  return root;
}

/** The ground joint, when it can follow the hips over the floor; −1 otherwise. */
function findGround({ canMove, roles, skeleton }: Rig, mover: number): number {
  const ground = roles.get('ground');
  if (ground === undefined || ground === mover || skeleton.parents[ground] >= 0 || canMove[ground] === 0) return -1;
  return isBelow(skeleton, mover, ground) ? ground : -1;
}

const PARTS = {
  leg: LEG_PARTS,
  arm: ['upperArm', 'lowerArm', 'hand'],
} as const;

function planLimb({ match, performer, character }: Pairing, rest: Float64Array, kind: 'leg' | 'arm', side: Side): LimbPlan {
  const { roles, skeleton } = character;
  const parts = PARTS[kind].filter((part) => roles.has(`${side}.${part}`));
  const joints = parts.map((part) => roles.get(`${side}.${part}`)!);
  const end = parts.findIndex((part) => part === 'foot' || part === 'hand');
  const between = new Float64Array(joints.length * 4);
  identity(between, 0);
  for (let i = 1; i < joints.length; i++) {
    identity(between, i * 4);
    for (const j of pathDown(skeleton, joints[i - 1], joints[i]).slice(1, -1)) mul(between, i * 4, between, i * 4, rest, j * 4);
  }
  function drawnOf(): readonly number[] {
    const below = pathDown(skeleton, joints[0], joints[end]).slice(1);
    // Of more than two bones one turns along with another, and is not drawn out with it.
    return end === 2 && below.every((j) => character.canMove[j] === 1) ? below : [];
  }
  // Knees bend about the body's side axis, elbows of level arms about the vertical.
  const hinge = kind === 'leg' ? performer.left.slice() : Float64Array.of(0, side === 'left' ? -1 : 1, 0);
  unrotate(hinge, 0, match.pose.rotations, joints[0] * 4, hinge, 0);
  return {
    kind,
    side,
    joints,
    end,
    beyond: parts.findIndex((part) => part === 'toes'),
    parent: skeleton.parents[joints[0]],
    between,
    drawn: drawnOf(),
    chain: wayTo(skeleton, [joints[joints.length - 1]]),
    hinge,
  };
}

/** Joints of the same body that may slide at their parents in the take, and can on the character. */
function planSlides({ performer, character, match, twins, same }: Pairing): Slide[] {
  const slides: Slide[] = [];
  twins?.forEach((source, joint) => {
    const parent = character.skeleton.parents[joint];
    const above = performer.skeleton.parents[source];
    if (parent < 0 || above < 0 || !isBelow(character.skeleton, parent, character.carrier) || character.canMove[joint] === 0) return;
    const turn = new Float64Array(4);
    invMul(turn, 0, match.pose.rotations, parent * 4, performer.restPose.rotations, above * 4);
    slides.push({ joint, source, turn, ratio: same.ratio });
  });
  return slides;
}
