import { Vector3 } from 'three';
import type { Pose, Role } from '@hollow-stride/core';
import type { TouchPoint } from './touch-points';

/** Where the bone of a part ends; a part without one is a place. */
const ENDS: Readonly<Record<string, string>> = {
  'left.upperLeg': 'left.lowerLeg',
  'right.upperLeg': 'right.lowerLeg',
  'left.upperArm': 'left.lowerArm',
  'right.upperArm': 'right.lowerArm',
  'left.lowerArm': 'left.hand',
  'right.lowerArm': 'right.hand',
  hips: 'neck.1',
};

export interface Near {
  readonly index: number;
  readonly name: string;
  /** From the hand's joint to the bone of the part, metres. */
  readonly metres: number;
}

/** Partners of a hand in order of distance, the nearest first, no more than `most`. */
export function nearest(
  points: readonly TouchPoint[],
  hand: number,
  { positions }: Pose,
  roles: ReadonlyMap<Role, number>,
  most: number,
): Near[] {
  const from = new Vector3().fromArray(positions, hand * 3);
  return points
    .flatMap(({ name, role, joint, of }, index): Near[] => {
      const start = joint ?? roles.get(role);
      if (start === undefined || start === hand || (of?.kind === 'touch' && of.on === 'rest')) return [];
      const end = joint === undefined ? roles.get(ENDS[role] as Role) : undefined;
      return [{ index, name, metres: distance(from, positions, start, end ?? start) }];
    })
    .sort((a, b) => a.metres - b.metres)
    .slice(0, most);
}

/** From a place to the stretch between two joints, metres. */
function distance(from: Vector3, positions: Float64Array, start: number, end: number): number {
  const a = new Vector3().fromArray(positions, start * 3);
  const along = new Vector3().fromArray(positions, end * 3).sub(a);
  const length = along.lengthSq();
  const share = length > 0 ? Math.max(0, Math.min(1, from.clone().sub(a).dot(along) / length)) : 0;
  return from.distanceTo(a.addScaledVector(along, share));
}
