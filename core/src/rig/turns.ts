import { mirrorRole, type RoleMap } from '../label';
import { exp, log, mulInv } from '../math/quat';
import { DEG } from '../math/trig';
import type { Turns } from '../recipe';
import { type Pose, type Skeleton, turnBelow } from '../skeleton';
import type { Heading } from './heading';

/** Smaller turns than this, degrees, are not kept. */
const NOTHING = 1e-4;

const q = new Float64Array(4);
const w = new Float64Array(3);

/** A pose's own copy. */
export function copyPose({ positions, rotations }: Pose): Pose {
  return { positions: positions.slice(), rotations: rotations.slice() };
}

/** Turns joints of a world pose by hand-made turns, base to tip; what hangs on a joint goes with it. Changes the pose. */
export function applyTurns(pose: Pose, skeleton: Skeleton, roles: RoleMap, turns: Turns, { left, forward }: Heading): void {
  const edits = Object.entries(turns)
    .map(([role, turn]) => ({ joint: roles.get(role), turn }))
    .filter((edit): edit is { joint: number; turn: Turns[string] } => edit.joint !== undefined)
    .sort((a, b) => a.joint - b.joint);
  for (const { joint, turn } of edits) {
    const [x, y, z] = turn.map((degrees) => degrees * DEG);
    exp(q, 0, x * left[0] + z * forward[0], y, x * left[2] + z * forward[2]);
    turnBelow(pose, skeleton, joint, q);
  }
}

/**
 * The turns that bring one world pose to another, role by role, base to tip.
 * @returns degrees about left, up and ahead; roles that need none are left out
 */
export function turnsBetween(from: Pose, to: Pose, skeleton: Skeleton, roles: RoleMap, { left, forward }: Heading): Turns {
  const pose = copyPose(from);
  const turns: Turns = {};
  for (const [role, joint] of [...roles].sort((a, b) => a[1] - b[1])) {
    mulInv(q, 0, to.rotations, joint * 4, pose.rotations, joint * 4);
    log(w, 0, q, 0);
    const turn: Turns[string] = [(w[0] * left[0] + w[2] * left[2]) / DEG, w[1] / DEG, (w[0] * forward[0] + w[2] * forward[2]) / DEG];
    if (Math.max(...turn.map(Math.abs)) < NOTHING) continue;
    turns[role] = turn;
    turnBelow(pose, skeleton, joint, q);
  }
  return turns;
}

/** The turns of one side laid on the other: the mirror image about the body's own middle plane. */
export function mirrorTurn(role: string, [x, y, z]: Turns[string]): [role: string, turn: Turns[string]] {
  return [mirrorRole(role), [x, -y, -z]];
}
