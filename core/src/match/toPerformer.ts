import { shinEnd, type Role } from '../label';
import { between, copy, fromAxisAngle, fromFrame, invMul, mul, mulInv, rotate, slerp } from '../math/quat';
import { atan2, DEG } from '../math/trig';
import { angleBetween, cross, dot, length, normalize, vec } from '../math/vec';
import type { Rig } from '../rig';
import type { Pose } from '../skeleton';
import { localDirection, segmentBetween, type SegmentEnd } from './segments';

/** A character's rest pose as it is turned to the performer's, joint by joint. */
export interface Turning {
  readonly performer: Rig;
  readonly character: Rig;
  /** World pose of the character, which is turned. */
  readonly pose: Pose;
  /** From the character's heading to the performer's. */
  readonly heading: Float64Array;
  /** All differences at rest are pose, none is shape. */
  readonly isSame: boolean;
  /** Where bones end, by role. */
  readonly ends: ReadonlyMap<Role, readonly SegmentEnd[]>;
  readonly performerEnds: ReadonlyMap<Role, readonly SegmentEnd[]>;
}

/** A bend of less than this says nothing certain about the plane that a limb bends in. */
const CLEAR_BEND = 12 * DEG;
/** A fan of bones narrower than this, by its sine, does not fix the turn about the first; bones of one body agree exactly, so that a narrow one does. */
const FAN = { same: 0.02, unlike: 0.2 } as const;

const q = new Float64Array(4);
const [frame, theirFrame, matched] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];

/** Puts a joint where its parent carries it at rest. */
export function carryByParent({ character: { skeleton, restPose }, pose, heading }: Turning, joint: number): void {
  const parent = skeleton.parents[joint];
  if (parent < 0) {
    mul(pose.rotations, joint * 4, heading, 0, restPose.rotations, joint * 4);
    return;
  }
  invMul(q, 0, restPose.rotations, parent * 4, restPose.rotations, joint * 4);
  mul(pose.rotations, joint * 4, pose.rotations, parent * 4, q, 0);
}

/** Leaves a joint as it is at rest in the world, but for the heading. */
export function keepInWorld({ character: { restPose }, pose, heading }: Turning, joint: number): void {
  mul(pose.rotations, joint * 4, heading, 0, restPose.rotations, joint * 4);
}

/** A foot keeps its own relation to the floor and turns in heading only. */
export function turnFootHeading({ performer, character, pose }: Turning, role: Role): void {
  const side = role.split('.')[0];
  const mine = character.feet.find((foot) => foot.side === side);
  const theirs = performer.feet.find((foot) => foot.side === side);
  if (!mine || !theirs) return;
  fromAxisAngle(q, 0, 0, 1, 0, atan2(theirs.heading[0], theirs.heading[2]) - atan2(mine.heading[0], mine.heading[2]));
  mul(pose.rotations, mine.foot * 4, q, 0, character.restPose.rotations, mine.foot * 4);
}

/**
 * Turns a joint, standing as its parent carries it, so that what hangs on it points as on the performer.
 * @param weight how far, 0 to 1
 * @param keep puts it back as it was at rest, which it is turned from in part
 */
export function turnToPerformer(turning: Turning, joint: number, role: Role, weight: number, keep: () => void): void {
  turnOnto(turning, joint, role);
  if (weight === 1) return;
  const { rotations } = turning.pose;
  copy(matched, 0, rotations, joint * 4);
  keep();
  slerp(rotations, joint * 4, rotations, joint * 4, matched, 0, weight);
}

/** A direction of one bone of both bodies in the world. */
interface Direction {
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
}

/** Directions of the bones that hang on a joint in both bodies, the one that it points along first. */
function directionsOf({ performer, character, pose, ends, performerEnds }: Turning, joint: number, role: Role): Direction[] {
  const source = performer.roles.get(role)!;
  return (ends.get(role) ?? []).flatMap((end): Direction[] => {
    const other = performerEnds.get(role)?.find((one) => one.role === end.role);
    if (!other) return [];
    const mine = localDirection(character, joint, end);
    rotate(mine, 0, pose.rotations, joint * 4, mine, 0);
    const theirs = localDirection(performer, source, other);
    rotate(theirs, 0, performer.restPose.rotations, source * 4, theirs, 0);
    return length(mine, 0) > 1e-5 && length(theirs, 0) > 1e-5 ? [{ mine, theirs }] : [];
  });
}

function turnOnto(turning: Turning, joint: number, role: Role): void {
  const { pose, isSame } = turning;
  const directions = directionsOf(turning, joint, role);
  if (directions.length === 0) return;
  const [main, ...others] = directions;
  // A second direction well away from the first fixes the turn about it.
  let second: Direction | undefined;
  let widest: number = isSame ? FAN.same : FAN.unlike;
  for (const other of others) {
    const spread = Math.min(sinBetween(main.mine, other.mine), sinBetween(main.theirs, other.theirs));
    if (spread <= widest) continue;
    widest = spread;
    second = other;
  }
  const isFixed = second && fromFrame(frame, 0, main.mine, 0, second.mine, 0) && fromFrame(theirFrame, 0, main.theirs, 0, second.theirs, 0);
  if (isFixed) mulInv(q, 0, theirFrame, 0, frame, 0);
  else between(q, 0, main.mine, 0, main.theirs, 0);
  mul(pose.rotations, joint * 4, q, 0, pose.rotations, joint * 4);
  if (!isFixed) twistByBend(turning, joint, role, main.theirs);
}

/** The normal of the plane that a limb clearly bends in at rest. */
function planeOf({ roles, restPose }: Rig, side: string, part: string): Float64Array | undefined {
  const parts =
    part === 'upperArm' ? ['upperArm', 'lowerArm', 'hand'] : part === 'upperLeg' ? ['upperLeg', 'lowerLeg', shinEnd(roles, side)] : [];
  const [top, middle, end] = parts.map((name) => roles.get(`${side}.${name}`));
  if (top === undefined || middle === undefined || end === undefined) return undefined;
  const upper = segmentBetween(restPose, top, middle);
  const lower = segmentBetween(restPose, middle, end);
  if (angleBetween(upper, 0, lower, 0) < CLEAR_BEND) return undefined;
  const normal = vec();
  cross(normal, 0, upper, 0, lower, 0);
  return normal;
}

/** Where both limbs are clearly bent at rest, turns the first segment about its axis so that the planes agree. */
function twistByBend({ performer, character, pose }: Turning, joint: number, role: Role, axis: Float64Array): void {
  const [side, part] = role.split('.');
  const theirs = planeOf(performer, side, part);
  const mine = planeOf(character, side, part);
  if (!theirs || !mine) return;
  // The character's normal, carried by the joint from its own rest to where it stands now.
  mulInv(q, 0, pose.rotations, joint * 4, character.restPose.rotations, joint * 4);
  rotate(mine, 0, q, 0, mine, 0);
  const n = length(axis, 0);
  for (const normal of [theirs, mine]) {
    const along = dot(normal, 0, axis, 0) / (n * n);
    for (let c = 0; c < 3; c++) normal[c] -= along * axis[c];
  }
  const across = vec();
  cross(across, 0, mine, 0, theirs, 0);
  const angle = atan2(dot(across, 0, axis, 0) / n, dot(mine, 0, theirs, 0));
  const unit = axis.slice();
  normalize(unit, 0);
  fromAxisAngle(q, 0, unit[0], unit[1], unit[2], angle);
  mul(pose.rotations, joint * 4, q, 0, pose.rotations, joint * 4);
}

function sinBetween(a: Float64Array, b: Float64Array): number {
  const c = vec();
  cross(c, 0, a, 0, b, 0);
  return length(c, 0) / (length(a, 0) * length(b, 0));
}
