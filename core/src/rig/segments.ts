import { FINGERS, shinEnd, SIDES, type Role } from '../label';
import { legBones } from './legs';
import type { Rig } from './rig';

/** A limb segment: the joint that turns, and the one that it points at. */
export interface Segment {
  readonly role: Role;
  readonly joint: number;
  readonly end: number;
}

/** True when the legs of two bodies have unlike numbers of bones: they are then like as wholes, not bone by bone. */
export function unlikeLegs(a: Pick<Rig, 'roles'>, b: Pick<Rig, 'roles'>): boolean {
  return legBones(a.roles) !== legBones(b.roles);
}

/**
 * Limb segments whose directions are made equal: the joint that turns, and the one that it points at.
 * @param wholeLegs takes each leg as one segment from hip to ankle
 */
export function limbSegments(body: Pick<Rig, 'roles'>, wholeLegs = false): Segment[] {
  const segments: Segment[] = [];
  for (const side of SIDES) {
    const pairs = [
      ['clavicle', 'upperArm'],
      ['upperArm', 'lowerArm'],
      ['lowerArm', 'hand'],
      ...(wholeLegs
        ? ([['upperLeg', 'foot']] as const)
        : ([
            ['upperLeg', 'lowerLeg'],
            ['lowerLeg', shinEnd(body.roles, side)],
            ['hock', body.roles.has(`${side}.fetlock`) ? 'fetlock' : 'foot'],
            ['fetlock', 'foot'],
          ] as const)),
    ] as const;
    for (const [from, to] of pairs) {
      const joint = body.roles.get(`${side}.${from}`);
      const end = body.roles.get(`${side}.${to}`);
      if (joint !== undefined && end !== undefined) segments.push({ role: `${side}.${from}`, joint, end });
    }
    for (const finger of FINGERS) {
      for (let i = 1; i < 4; i++) {
        const joint = body.roles.get(`${side}.${finger}.${i}`);
        const end = body.roles.get(`${side}.${finger}.${i + 1}`);
        if (joint !== undefined && end !== undefined) segments.push({ role: `${side}.${finger}.${i}`, joint, end });
      }
    }
  }
  return segments;
}
