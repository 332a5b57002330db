import { FINGERS, SIDES, type RoleMap } from '../../label';
import { rotate, unrotate } from '../../math/quat';
import type { Rig } from '../../rig';
import { hypot } from '../../math/numbers';

export type PointKind = 'feet' | 'hands' | 'body';

/** A point of a body that may rest on something: a joint and a place in its frame. */
export interface BodyPoint {
  /** For people: "left heel". */
  readonly name: string;
  readonly kind: PointKind;
  readonly joint: number;
  readonly local: Float64Array;
}

/** The points of one body that are watched: soles, palms, finger tips, knees, seat, back and head. */
function pointsOf({ roles, skeleton, feet, restPose, forward }: Rig): BodyPoint[] {
  const out: BodyPoint[] = [];
  const add = (name: string, kind: PointKind, joint: number | undefined, local: Float64Array = new Float64Array(3)): void => {
    if (joint !== undefined) out.push({ name, kind, joint, local });
  };
  for (const foot of feet) {
    add(`${foot.side} heel`, 'feet', foot.foot, foot.heel);
    add(`${foot.side} ball`, 'feet', foot.foot, foot.ball);
    add(`${foot.side} toe tip`, 'feet', foot.toes >= 0 ? foot.toes : foot.foot, foot.tip);
  }
  for (const side of SIDES) {
    const hand = roles.get(`${side}.hand`);
    const tip = hand === undefined ? undefined : fingerTip(roles, skeleton.tips, side);
    if (hand !== undefined) {
      const half = new Float64Array(3);
      if (tip && tip.joint === hand) half.set(tip.local.map((v) => v * 0.5));
      else if (tip) {
        const base = roles.get(`${side}.middle.1`) ?? roles.get(`${side}.index.1`) ?? tip.joint;
        for (let c = 0; c < 3; c++) half[c] = (restPose.positions[base * 3 + c] - restPose.positions[hand * 3 + c]) * 0.6;
        unrotate(half, 0, restPose.rotations, hand * 4, half, 0);
      }
      add(`${side} palm`, 'hands', hand, half);
    }
    if (tip) add(`${side} finger tips`, 'hands', tip.joint, tip.local);
    add(`${side} knee`, 'body', roles.get(`${side}.lowerLeg`));
  }
  // The seat lies behind and below the middle of the hip joints.
  const hips = roles.get('hips')!;
  const [l, r] = SIDES.map((side) => roles.get(`${side}.upperLeg`)! * 3);
  const seat = new Float64Array(3);
  const width = hypot(...[0, 1, 2].map((c) => restPose.positions[l + c] - restPose.positions[r + c]));
  for (let c = 0; c < 3; c++) {
    seat[c] = (restPose.positions[l + c] + restPose.positions[r + c]) / 2 - restPose.positions[hips * 3 + c];
    seat[c] -= forward[c] * 0.5 * width + (c === 1 ? 0.4 * width : 0);
  }
  unrotate(seat, 0, restPose.rotations, hips * 4, seat, 0);
  add('seat', 'body', hips, seat);
  let spine = 0;
  while (roles.has(`spine.${spine + 1}`)) spine++;
  add('back', 'body', roles.get(`spine.${Math.ceil(spine / 2)}`));
  add('head', 'body', roles.get('head'));
  return out;
}

/** Where the longest finger ends: the tip of its last joint, or the hand's own tip. */
function fingerTip(roles: RoleMap, tips: Float64Array, side: string): { joint: number; local: Float64Array } | undefined {
  const tipOf = (joint: number): { joint: number; local: Float64Array } => {
    const local = tips.slice(joint * 3, joint * 3 + 3);
    return { joint, local: local.every(Number.isFinite) ? local : new Float64Array(3) };
  };
  for (const finger of [FINGERS[2], FINGERS[1]]) {
    for (let i = 4; i >= 1; i--) {
      const joint = roles.get(`${side}.${finger}.${i}`);
      if (joint !== undefined) return tipOf(joint);
    }
  }
  const hand = roles.get(`${side}.hand`);
  if (hand === undefined) return undefined;
  const tip = tipOf(hand);
  return tip.local.some((v) => v !== 0) ? tip : undefined;
}

/** The points that both bodies have, side by side. */
export function sharedPoints(performer: Rig, character: Rig): { readonly performer: BodyPoint[]; readonly character: BodyPoint[] } {
  const theirs = new Map(pointsOf(performer).map((point) => [point.name, point]));
  const mine = pointsOf(character).filter(({ name }) => theirs.has(name));
  return { performer: mine.map(({ name }) => theirs.get(name)!), character: mine };
}

/** out = the places of points in a pose, 3 a point. */
export function placePoints(
  out: Float64Array,
  oo: number,
  points: readonly BodyPoint[],
  positions: Float64Array,
  rotations: Float64Array,
): void {
  for (let i = 0; i < points.length; i++) {
    const { joint, local } = points[i];
    const o = oo + i * 3;
    rotate(out, o, rotations, joint * 4, local, 0);
    out[o] += positions[joint * 3];
    out[o + 1] += positions[joint * 3 + 1];
    out[o + 2] += positions[joint * 3 + 2];
  }
}
