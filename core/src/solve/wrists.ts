import { length } from '../math/vec';
import type { Clip } from '../clip';
import { SIDES } from '../label';
import type { Pairing } from '../match';
import type { Rig } from '../rig';
import { fromAxisAngle, invMul, mul, mulInv, twistAngle } from '../math/quat';
import { smoothstep } from '../math/filter';
import { DEG, PI, TAU } from '../math/trig';

/** A hand or foot turned about the bone before it by more than this wrings a mesh that has no twist joint there. */
const LIMIT = 90 * DEG;
/** Tangent of half a quarter turn, by less than rounding. */
const QUARTER = 0.999;
/** An upper arm or thigh turned about itself by more than this wrings the shoulder or the hip. */
const ROOT_LIMIT = 100 * DEG;
/** Cosines of half the swing between which a turn about the bone comes to count. */
const TOLD = [0.34, 0.6] as const;

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
      if (!wrist || !isWrung(wrist, rotations, wrist.end, joints, seenFromBone)) continue;
      let last = 0;
      for (let f = 0; f < take.frames; f++) {
        const end = (f * joints + wrist.end) * 4;
        const top = (f * joints + wrist.top) * 4;
        let angle = turnOf(wrist, rotations, end, q);
        angle -= TAU * Math.round((angle - last) / TAU);
        last = angle;
        if (angle > -LIMIT && angle < LIMIT) continue;
        const performerTurn = source ? Math.abs(turnOf(source, take.rotations, (f * sourceJoints + source.end) * 4, q)) : 0;
        const limit = Math.max(LIMIT, Math.min(PI, performerTurn));
        const excess = angle - Math.min(limit, Math.max(-limit, angle));
        if (excess === 0) continue;
        fromAxisAngle(q, 0, wrist.axis[0], wrist.axis[1], wrist.axis[2], excess);
        mul(rotations, top, rotations, top, q, 0);
        invMul(rotations, end, q, 0, rotations, end);
      }
    }
  }
}

/**
 * Where an upper arm or thigh has no twist joint, a turn about itself beyond its limit is passed on to the joint below it, which
 * turns back as far: elbow, hand, knee and foot keep place and rotation. Motion of the performer's limb is never held back.
 * @param rotations local rotations of the character, frames × joints × 4, written in place
 */
export function relieveRoots({ performer, character }: Pairing, take: Clip, rotations: Float32Array): void {
  const joints = character.skeleton.parents.length;
  const sourceJoints = performer.skeleton.parents.length;
  const q = new Float64Array(4);
  for (const side of SIDES) {
    for (const [part, next] of [
      ['upperArm', 'lowerArm'],
      ['upperLeg', 'lowerLeg'],
    ] as const) {
      if (character.roles.has(`${side}.${part}.twist.1`)) continue;
      const limb = rootOf(character, `${side}.${part}`, `${side}.${next}`);
      const source = rootOf(performer, `${side}.${part}`, `${side}.${next}`);
      if (!limb || !isWrung(limb, rotations, limb.top, joints, seenFromAbove)) continue;
      let last = 0;
      for (let f = 0; f < take.frames; f++) {
        const top = (f * joints + limb.top) * 4;
        const end = (f * joints + limb.end) * 4;
        let angle = rollOf(limb, rotations, top, q);
        angle -= TAU * Math.round((angle - last) / TAU);
        last = angle;
        if (angle > -ROOT_LIMIT && angle < ROOT_LIMIT) continue;
        const performerTurn = source ? Math.abs(rollOf(source, take.rotations, (f * sourceJoints + source.top) * 4, q)) : 0;
        const limit = Math.max(ROOT_LIMIT, Math.min(PI, performerTurn));
        // Of a limb that points back along its rest nobody can say how far it is turned about itself.
        const told = smoothstep((toldBy(limb, rotations, top, q) - TOLD[0]) / (TOLD[1] - TOLD[0]));
        const excess = told * (angle - Math.min(limit, Math.max(-limit, angle)));
        if (excess === 0) continue;
        fromAxisAngle(q, 0, limb.axis[0], limb.axis[1], limb.axis[2], excess);
        mulInv(rotations, top, rotations, top, q, 0);
        mul(rotations, end, q, 0, rotations, end);
      }
    }
  }
}

/**
 * True where a joint is turned about its bone by a quarter turn in any frame. Below that its turn need not be followed along time, and
 * nothing is to be passed on.
 * @param away how its turn away from rest is told
 */
function isWrung(limb: Wrist, rotations: Float32Array, joint: number, joints: number, away: typeof seenFromBone): boolean {
  const { axis } = limb;
  const q = new Float64Array(4);
  // Both parts of the turn away are linear in the rotation: what they make of its four numbers says all.
  const [x, y, z, w] = Array.from({ length: 4 }, (_, i) => {
    away(
      q,
      limb,
      Float32Array.from({ length: 4 }, (_, c) => (c === i ? 1 : 0)),
      0,
    );
    return { about: q[0] * axis[0] + q[1] * axis[1] + q[2] * axis[2], straight: q[3] };
  });
  for (let o = joint * 4; o < rotations.length; o += joints * 4) {
    const [a, b, c, d] = [rotations[o], rotations[o + 1], rotations[o + 2], rotations[o + 3]];
    const about = a * x.about + b * y.about + c * z.about + d * w.about;
    const straight = a * x.straight + b * y.straight + c * z.straight + d * w.straight;
    if (Math.abs(about) > QUARTER * Math.abs(straight)) return true;
  }
  return false;
}

/** q = turn of a limb's first bone away from rest, seen from what carries it. */
const seenFromAbove = (q: Float64Array, { rest }: Wrist, rotations: Float32Array, o: number): void => invMul(q, 0, rest, 0, rotations, o);

/** q = turn of a hand or foot away from rest, seen from the bone before it. */
const seenFromBone = (q: Float64Array, { rest }: Wrist, rotations: Float32Array, o: number): void => mulInv(q, 0, rotations, o, rest, 0);

/** Turn of a limb's first bone about itself. */
function rollOf(limb: Wrist, rotations: Float32Array, o: number, q: Float64Array): number {
  const { axis } = limb;
  seenFromAbove(q, limb, rotations, o);
  return twistAngle(q, 0, axis[0], axis[1], axis[2]);
}

/** Cosine of half the angle by which a limb's first bone points away from rest. */
function toldBy(limb: Wrist, rotations: Float32Array, o: number, q: Float64Array): number {
  const { axis } = limb;
  seenFromAbove(q, limb, rotations, o);
  const along = q[0] * axis[0] + q[1] * axis[1] + q[2] * axis[2];
  return Math.sqrt(q[3] * q[3] + along * along);
}

/** An upper arm or thigh, when the next joint hangs directly on it; its rest is relative to what carries it. */
function rootOf(rig: Rig, part: string, next: string): Wrist | undefined {
  const found = wristOf(rig, part, next);
  if (!found) return undefined;
  const { restPose, skeleton } = rig;
  const parent = skeleton.parents[found.top];
  const rest = restPose.rotations.slice(found.top * 4, found.top * 4 + 4);
  if (parent >= 0) invMul(rest, 0, restPose.rotations, parent * 4, restPose.rotations, found.top * 4);
  return { ...found, rest };
}

/** Turn of a hand or foot about the bone before it. */
function turnOf(limb: Wrist, rotations: Float32Array, o: number, q: Float64Array): number {
  const { axis } = limb;
  seenFromBone(q, limb, rotations, o);
  return twistAngle(q, 0, axis[0], axis[1], axis[2]);
}

/** The wrist or ankle of a body, when its end hangs directly on the bone. */
function wristOf({ roles, skeleton, restPose }: Rig, part: string, next: string): Wrist | undefined {
  const top = roles.get(part);
  const end = roles.get(next);
  if (top === undefined || end === undefined || skeleton.parents[end] !== top) return undefined;
  const axis = skeleton.restT.slice(end * 3, end * 3 + 3);
  const n = length(axis, 0);
  if (n < 1e-6) return undefined;
  const rest = new Float64Array(4);
  invMul(rest, 0, restPose.rotations, top * 4, restPose.rotations, end * 4);
  return { top, end, axis: axis.map((x) => x / n), rest };
}
