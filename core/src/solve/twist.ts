import { shinEnd, SIDES } from '../label';
import type { Rig } from '../rig';
import { copy, fromAxisAngle, identity, invMul, mul, mulInv, twistAngle } from '../math/quat';
import { PI, TAU } from '../math/trig';
import { pathDown } from '../skeleton';

interface TwistJoint {
  readonly joint: number;
  /** Place along the bone, 0 at the limb joint, 1 at the next. */
  readonly place: number;
}

interface Plan {
  readonly top: number;
  readonly end: number;
  readonly twists: readonly TwistJoint[];
  readonly fromEnd: boolean;
  /** Unit bone axis in the top joint's frame at rest. */
  readonly axis: Float64Array;
}

/**
 * Gives twist joints their share. Along a fore arm or shin the turn of the hand or foot about the bone grows
 * from nothing at the top to all of it at the end; along an upper arm or thigh the joint's own turn about its bone is
 * taken back towards the top. Angles are unwrapped along time. Hands and feet keep their place and rotation.
 * @param rest local rotations that undriven joints have in the result
 * @param driven 0 for joints that nothing drives; twist joints that the performer drives are left to it
 * @param rotations local rotations of the character, frames × joints × 4, written in place
 */
export function shareTwist(character: Rig, rest: Float64Array, driven: Uint8Array, rotations: Float32Array): void {
  const { skeleton } = character;
  const plans = makePlans(character, driven);
  if (plans.length === 0) return;
  const joints = skeleton.parents.length;
  const frames = rotations.length / (joints * 4);
  const q = new Float64Array(4);
  const part = new Float64Array(4);
  const before = new Float64Array(4);
  const end0 = new Float64Array(4);
  for (const plan of plans) {
    const { top, end, twists, axis } = plan;
    const inline = new Set(pathDown(skeleton, top, end).slice(1, -1));
    const chain = [...inline];
    let last = 0;
    restThrough(before, rest, chain);
    restThrough(end0, skeleton.restR, chain);
    mul(end0, 0, end0, 0, skeleton.restR, end * 4);
    for (let f = 0; f < frames; f++) {
      const row = f * joints * 4;
      // Turn away from rest of the end relative to the bone, or of the top joint relative to what carries it.
      if (plan.fromEnd) {
        mul(q, 0, before, 0, rotations, row + end * 4);
        mulInv(q, 0, q, 0, end0, 0);
      } else invMul(q, 0, skeleton.restR, top * 4, rotations, row + top * 4);
      let angle = twistAngle(q, 0, axis[0], axis[1], axis[2]);
      while (angle - last > PI) angle -= TAU;
      while (angle - last < -PI) angle += TAU;
      last = angle;
      for (const { joint, place } of twists) {
        const share = plan.fromEnd ? place : place - 1;
        const ownShare = inline.has(joint) ? place - placeBefore(plan, joint, inline) : share;
        boneTurn(part, rest, plan, joint, (inline.has(joint) ? (plan.fromEnd ? ownShare : 0) : share) * angle);
        copy(rotations, row + joint * 4, part, 0);
      }
      if (plan.fromEnd && twists.some(({ joint }) => inline.has(joint))) {
        // The turn of the inline joints is taken out of the end again.
        identity(part, 0);
        for (const j of chain) mul(part, 0, part, 0, rotations, row + j * 4);
        mul(q, 0, before, 0, rotations, row + end * 4);
        invMul(rotations, row + end * 4, part, 0, q, 0);
      }
    }
  }
}

/** Product of rest rotations along a way. */
function restThrough(out: Float64Array, rest: Float64Array, chain: readonly number[]): void {
  identity(out, 0);
  for (let i = 0; i < chain.length; i++) mul(out, 0, out, 0, rest, chain[i] * 4);
}

function placeBefore(plan: Plan, joint: number, inline: ReadonlySet<number>): number {
  let before = 0;
  for (const t of plan.twists) {
    if (t.joint === joint) return before;
    if (inline.has(t.joint)) before = t.place;
  }
  return before;
}

/** Rest rotation of a twist joint with a turn about the bone, whose axis is given in the top joint's frame. */
function boneTurn(out: Float64Array, rest: Float64Array, plan: Plan, joint: number, angle: number): void {
  fromAxisAngle(out, 0, plan.axis[0], plan.axis[1], plan.axis[2], angle);
  mul(out, 0, out, 0, rest, joint * 4);
}

function makePlans(character: Rig, driven: Uint8Array): Plan[] {
  const { roles, skeleton } = character;
  const plans: Plan[] = [];
  for (const side of SIDES) {
    const segments = [
      ['upperArm', 'lowerArm', false],
      ['lowerArm', 'hand', true],
      ['upperLeg', 'lowerLeg', false],
      ['lowerLeg', shinEnd(roles, side), true],
    ] as const;
    for (const [part, next, fromEnd] of segments) {
      const top = roles.get(`${side}.${part}`);
      const end = roles.get(`${side}.${next}`);
      if (top === undefined || end === undefined) continue;
      // Only twist joints that hang directly on the bone or on each other along it.
      const chain = pathDown(skeleton, top, end);
      const axis = new Float64Array(3);
      let length = 0;
      for (const j of chain.slice(1)) for (let c = 0; c < 3; c++) axis[c] += skeleton.restT[j * 3 + c];
      for (let c = 0; c < 3; c++) length += axis[c] * axis[c];
      length = Math.sqrt(length);
      if (length < 1e-6) continue;
      for (let c = 0; c < 3; c++) axis[c] /= length;
      const twists: TwistJoint[] = [];
      for (let i = 1; ; i++) {
        const joint = roles.get(`${side}.${part}.twist.${i}`);
        if (joint === undefined) break;
        if (skeleton.parents[joint] !== top && !chain.includes(skeleton.parents[joint])) continue;
        if (driven[joint] !== 0 || (!fromEnd && chain.includes(joint))) continue;
        let place = 0;
        for (let j = joint; j !== top && j >= 0; j = skeleton.parents[j]) {
          for (let c = 0; c < 3; c++) place += (skeleton.restT[j * 3 + c] * axis[c]) / length;
        }
        twists.push({ joint, place: Math.min(1, Math.max(0, place)) });
      }
      twists.sort((a, b) => a.place - b.place);
      if (twists.length > 0) plans.push({ top, end, twists, fromEnd, axis });
    }
  }
  return plans;
}
