import { chain, FINGERS, SIDES, type RoleMap, type Side } from '../label';
import type { Pairing } from '../match';
import { rotate, unrotate } from '../math/quat';
import { cross, length, normalize, sub, vec } from '../math/vec';
import type { TouchUp } from '../recipe';
import { isBelow, pathDown, type Skeleton } from '../skeleton';

/** How a touch-up turns one joint, relative to what carries it. */
export interface JointTurn {
  readonly joint: number;
  /** Unit axis in the frame of the joint's parent; undefined turns about the line from the joint to `keep`. */
  readonly axis: Float64Array | undefined;
  /** Radians per radian of the touch-up. */
  readonly share: number;
  /** Joint below that does not turn along, −1 for none; and the joints from `joint` down to it. */
  readonly keep: number;
  readonly path: readonly number[];
}

type Axis = 'left' | 'up' | 'ahead';

/** 1 on the left, −1 on the right. */
const mirror = (side: Side): number => (side === 'left' ? 1 : -1);

/**
 * The turns of a touch-up on a character: none where it does not have the joints. Axes are those of the body in its matched rest;
 * they go along with what carries the joint, so that a raised shoulder is raised in a body that lies down as well.
 */
export function turnsOf(pairing: Pairing, touchUp: TouchUp): JointTurn[] {
  const { roles } = pairing.character;
  const { kind } = touchUp;
  const body = new Turner(pairing);
  const sides = SIDES.filter((side) => touchUp.side === 'both' || touchUp.side === side);
  const spine = chain(roles, 'spine');
  const headway = [...chain(roles, 'neck'), roles.get('head')!];

  switch (kind) {
    case 'shoulders':
      return sides.flatMap((side) => body.shoulder(side, 'ahead', mirror(side)));
    case 'shouldersAhead':
      return sides.flatMap((side) => body.shoulder(side, 'up', -mirror(side)));
    case 'arms':
      return sides.flatMap((side) => body.turn(`${side}.upperArm`, 'ahead', mirror(side)));
    case 'armsAhead':
      return sides.flatMap((side) => body.turn(`${side}.upperArm`, 'left', -1));
    case 'elbows':
      return sides.flatMap((side) => body.turn(`${side}.upperArm`, undefined, mirror(side), `${side}.hand`));
    case 'thumbs':
      return sides.flatMap((side) => body.thumb(side));
    case 'fingers':
      return sides.flatMap((side) => body.fingers(side));
    case 'legs':
      return sides.flatMap((side) => body.turn(`${side}.upperLeg`, 'ahead', mirror(side), `${side}.foot`));
    case 'knees':
      return sides.flatMap((side) => body.turn(`${side}.upperLeg`, undefined, -mirror(side), `${side}.foot`));
    case 'feet':
      return sides.flatMap((side) => body.turn(`${side}.foot`, 'up', mirror(side)));
    case 'lean':
      return body.spread(spine, 'left', 1);
    case 'leanAside':
      return body.spread(spine, 'ahead', -1);
    case 'trunk':
      return body.spread(spine, 'up', 1);
    case 'head':
      return body.spread(headway, 'left', 1);
    case 'headTurn':
      return body.spread(headway, 'up', 1);
    case 'headTilt':
      return body.spread(headway, 'ahead', -1);
    case 'joint':
      return touchUp.role === null ? [] : body.turn(touchUp.role, touchUp.axis, 1);
    case 'hips':
    case 'heading':
    case 'travel':
    case 'placeLeft':
    case 'placeAhead':
    case 'stepsOut':
    case 'stepsAhead':
    case 'stepsTurned':
      return [];
  }
}

/** Makes the turns of a character's joints, as it stands in its matched rest. */
class Turner {
  private readonly skeleton: Skeleton;
  private readonly roles: RoleMap;
  private readonly performer: Pairing['performer'];
  /** Places and rotations of its joints there. */
  private readonly P: Float64Array;
  private readonly R: Float64Array;

  constructor({ character, performer, match }: Pairing) {
    this.skeleton = character.skeleton;
    this.roles = character.roles;
    this.performer = performer;
    this.P = match.pose.positions;
    this.R = match.pose.rotations;
  }

  shoulder(side: Side, axis: Axis, share: number): JointTurn[] {
    // The shoulder goes and takes the arm along without turning it; without a clavicle the arm itself turns.
    return this.roles.has(`${side}.clavicle`)
      ? this.turn(`${side}.clavicle`, axis, share, `${side}.upperArm`)
      : this.turn(`${side}.upperArm`, axis, share);
  }

  turn(role: string, axis: Axis | undefined, share: number, keepRole?: string): JointTurn[] {
    const joint = this.roles.get(role);
    const keep = keepRole === undefined ? undefined : this.roles.get(keepRole);
    if (joint === undefined || (axis === undefined && keep === undefined)) return [];
    return [this.about(joint, axis && this.bodyAxis(axis), share, keep)];
  }

  spread(joints: readonly number[], axis: Axis, share: number): JointTurn[] {
    return joints.map((joint) => this.about(joint, this.bodyAxis(axis), share / joints.length));
  }

  /** @param axis in the world, at the matched rest */
  private about(joint: number, axis: Float64Array | undefined, share: number, keep = -1): JointTurn {
    const parent = this.skeleton.parents[joint];
    const local = axis?.slice();
    if (local && parent >= 0) unrotate(local, 0, this.R, parent * 4, local, 0);
    const below = keep >= 0 && isBelow(this.skeleton, keep, joint);
    return { joint, axis: local, share, keep: below ? keep : -1, path: below ? pathDown(this.skeleton, joint, keep) : [] };
  }

  /** The character stands as the performer does in the matched rest. */
  private bodyAxis(axis: Axis): Float64Array {
    return axis === 'up' ? Float64Array.of(0, 1, 0) : axis === 'left' ? this.performer.left : this.performer.forward;
  }

  /** A thumb opens in the plane that it spans with the hand. */
  thumb(side: Side): JointTurn[] {
    const joint = this.roles.get(`${side}.thumb.1`);
    if (joint === undefined) return [];
    const axis = crossed(this.handWay(side), this.boneWay(joint));
    return axis ? [this.about(joint, axis, 1)] : [];
  }

  /** Fingers curl about the line across the palm, towards its inside. */
  fingers(side: Side): JointTurn[] {
    const bases = FINGERS.slice(1).flatMap((finger) => this.roles.get(`${side}.${finger}.1`) ?? []);
    const joints = FINGERS.slice(1).flatMap((finger) => chain(this.roles, `${side}.${finger}`));
    const ahead = this.performer.forward.map((v) => -v);
    const across = bases.length > 1 ? difference(this.P, bases[bases.length - 1], bases[0]) : ahead;
    const way = this.handWay(side);
    const along = way[0] * across[0] + way[1] * across[1] + way[2] * across[2];
    const axis = unit(across.map((v, c) => v - along * way[c]));
    return axis ? joints.map((joint) => this.about(joint, axis, mirror(side))) : [];
  }

  private handWay(side: Side): Float64Array {
    const hand = this.roles.get(`${side}.hand`)!;
    const base = FINGERS.slice(1).flatMap((finger) => this.roles.get(`${side}.${finger}.1`) ?? []);
    return (
      unit(base.length > 0 ? difference(this.P, base[0], hand) : difference(this.P, hand, this.roles.get(`${side}.lowerArm`)!)) ??
      this.performer.left
    );
  }

  /** Where a joint points: to the first joint or tip below it. */
  private boneWay(joint: number): Float64Array {
    const child = this.skeleton.parents.indexOf(joint);
    if (child >= 0) return unit(difference(this.P, child, joint)) ?? new Float64Array(3);
    const tip = new Float64Array(3);
    if (Number.isFinite(this.skeleton.tips[joint * 3])) rotate(tip, 0, this.R, joint * 4, this.skeleton.tips, joint * 3);
    return unit(tip) ?? tip;
  }
}

function difference(P: Float64Array, a: number, b: number): Float64Array {
  const out = vec();
  sub(out, 0, P, a * 3, P, b * 3);
  return out;
}

/** Undefined for no way at all. */
function unit(way: Float64Array): Float64Array | undefined {
  if (length(way, 0) < 1e-9) return undefined;
  const out = way.slice();
  normalize(out, 0);
  return out;
}

function crossed(a: Float64Array, b: Float64Array): Float64Array | undefined {
  const out = vec();
  cross(out, 0, a, 0, b, 0);
  return unit(out);
}
