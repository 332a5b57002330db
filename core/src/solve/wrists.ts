import type { Clip } from '../clip';
import { SIDES } from '../label';
import type { Pairing } from '../match';
import type { Rig } from '../rig';
import { fromAxisAngle, invMul, mul, mulInv, twistAngle } from '../math/quat';
import { DEG, PI, TAU } from '../math/trig';

/** A hand or foot turned about the bone before it by more than this wrings a mesh that has no twist joint there. */
const LIMIT = 90 * DEG;

/** A bone and the joint at its end, on one body. */
interface Wrist {
  readonly top: number;
  readonly end: number;
  /** Unit axis of the bone in the top joint's frame. */
  readonly axis: Float64Array;
  /** Rest rotation of the end relative to the bone. */
  readonly rest: Float64Array;
}

/**
 * Where a fore arm or shin has no twist joint, a turn of the hand or foot about it beyond a quarter
 * turn is passed on to the bone itself. The bone turns about its own axis only, so hand and foot keep place and rotation;
 * what the performer's own wrist does is never held back. Angles are unwrapped along time.
 * @param rotations local rotations of the character, frames × joints × 4, written in place
 */
export function relieveWrists({ performer, character }: Pairing, take: Clip, rotations: Float32Array): void {
  const joints = character.skeleton.parents.length;
  const sourceJoints = performer.skeleton.parents.length;
  const q = new Float64Array(4);
  for (const side of SIDES) {
    for (const [part, next] of [
      ['lowerArm', 'hand'],
      ['lowerLeg', 'foot'],
    ] as const) {
      if (character.roles.has(`${side}.${part}.twist.1`)) continue;
      const wrist = wristOf(character, `${side}.${part}`, `${side}.${next}`);
      const source = wristOf(performer, `${side}.${part}`, `${side}.${next}`);
      if (!wrist) continue;
      let last = 0;
      for (let f = 0; f < take.frames; f++) {
        const end = (f * joints + wrist.end) * 4;
        const top = (f * joints + wrist.top) * 4;
        let angle = turnOf(wrist, rotations, end, q);
        angle -= TAU * Math.round((angle - last) / TAU);
        last = angle;
        if (angle > -LIMIT && angle < LIMIT) continue;
        const own = source ? Math.abs(turnOf(source, take.rotations, (f * sourceJoints + source.end) * 4, q)) : 0;
        const limit = Math.max(LIMIT, Math.min(PI, own));
        const excess = angle - Math.min(limit, Math.max(-limit, angle));
        if (excess === 0) continue;
        fromAxisAngle(q, 0, wrist.axis[0], wrist.axis[1], wrist.axis[2], excess);
        mul(rotations, top, rotations, top, q, 0);
        invMul(rotations, end, q, 0, rotations, end);
      }
    }
  }
}

function turnOf({ axis, rest }: Wrist, rotations: Float32Array, o: number, q: Float64Array): number {
  mulInv(q, 0, rotations, o, rest, 0);
  return twistAngle(q, 0, axis[0], axis[1], axis[2]);
}

/** The wrist or ankle of a body, when its end hangs directly on the bone. */
function wristOf({ roles, skeleton, restPose }: Rig, part: string, next: string): Wrist | undefined {
  const top = roles.get(part);
  const end = roles.get(next);
  if (top === undefined || end === undefined || skeleton.parents[end] !== top) return undefined;
  const axis = skeleton.restT.slice(end * 3, end * 3 + 3);
  const n = Math.sqrt(axis[0] ** 2 + axis[1] ** 2 + axis[2] ** 2);
  if (n < 1e-6) return undefined;
  const rest = new Float64Array(4);
  invMul(rest, 0, restPose.rotations, top * 4, restPose.rotations, end * 4);
  return { top, end, axis: axis.map((x) => x / n), rest };
}
