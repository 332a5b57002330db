import type { MotionFile } from '../formats';
import { chain, SIDES, type RoleMap } from '../label';
import type { Skeleton } from '../skeleton';
import { outermost, type CarriedPoint } from './outermost';

/** Parts of the body, beside feet and hands, that rest on a floor. */
export const BODY_PARTS = ['left.knee', 'right.knee', 'seat', 'back', 'head'] as const;
export type BodyPart = (typeof BODY_PARTS)[number];

/** How far the skin of a part reaches. */
export interface Bulk {
  readonly part: BodyPart;
  /** Joints whose mean place is the middle of the part: both hip joints for the seat. */
  readonly middle: readonly number[];
  readonly skin: readonly CarriedPoint[];
  /** How far the body reaches beyond those points, metres: 0 where a mesh tells it. */
  readonly radius: number;
}

/** Half the thickness of a body without a mesh, in shares of a leg. */
const THICK: Readonly<Record<BodyPart, number>> = { 'left.knee': 0.055, 'right.knee': 0.055, seat: 0.11, back: 0.12, head: 0.11 };

/** Joints whose mean place is the middle of a part; none where the skeleton has not got it. */
export function middleOf(part: BodyPart, roles: RoleMap): readonly number[] {
  const wanted: Readonly<Record<BodyPart, readonly (number | undefined)[]>> = {
    'left.knee': [roles.get('left.lowerLeg')],
    'right.knee': [roles.get('right.lowerLeg')],
    seat: SIDES.map((side) => roles.get(`${side}.upperLeg`)),
    back: [chain(roles, 'spine').at(-1)],
    head: [roles.get('head')],
  };
  return wanted[part].filter((joint) => joint !== undefined);
}

/** Joints whose skin is that of a part. */
function carriersOf(part: BodyPart, roles: RoleMap): readonly number[] {
  switch (part) {
    case 'left.knee':
    case 'right.knee': {
      const below = ['hock', 'fetlock'].map((name) => roles.get(`${part.split('.')[0]}.${name}`));
      return [...middleOf(part, roles), ...below.filter((joint) => joint !== undefined)];
    }
    case 'seat':
      return [roles.get('hips')!, ...middleOf(part, roles)];
    case 'back':
      return chain(roles, 'spine');
    case 'head':
      return [...middleOf(part, roles), ...chain(roles, 'neck')];
  }
}

/** How far knees, seat, back and head reach. @param metres per unit of the file */
export function bulkOf(skeleton: Skeleton, roles: RoleMap, skin: MotionFile['skin'], metres: number, legLength: number): Bulk[] {
  return BODY_PARTS.flatMap((part): Bulk[] => {
    const middle = middleOf(part, roles);
    if (middle.length === 0) return [];
    const carriers = carriersOf(part, roles);
    const known = skin?.joints.some((joint) => carriers.includes(joint)) ?? false;
    return known
      ? [{ part, middle, skin: outermost(skeleton, skin, metres, carriers), radius: 0 }]
      : [{ part, middle, skin: middle.map((joint) => ({ joint, local: new Float64Array(3), also: [] })), radius: THICK[part] * legLength }];
  });
}
