import { SIDES } from '../label';
import type { Pairing } from '../match';
import { cross, distance, length } from '../math/vec';
import { between, fromAxisAngle, fromFrame, mul, mulInv, rotate, unrotate } from '../math/quat';
import { acos } from '../math/trig';
import { legChain, unlikeLegs } from '../rig';
import type { Pose } from '../skeleton';

/** A leg that is carried over as one, between two bodies whose legs have unlike numbers of bones. */
export interface WholeLeg {
  /** Joints of the character from the hip to the last over the foot: every second turns as the thigh does, the others as the shin. */
  readonly joints: readonly number[];
  /** The performer's hip joint and ankle; its way between them at rest, metres. */
  readonly hip: number;
  readonly ankle: number;
  readonly length: number;
  /** Unit axis that knees bend about, in the performer's hip joint's frame. */
  readonly hinge: Float64Array;
  /**
   * The character's own at the matched rest: from hip to ankle one way, the bones that turn with the thigh and the others set on each
   * other, their lengths, and their angles to that way.
   */
  readonly rest: {
    readonly direction: Float64Array;
    readonly frame: Float64Array;
    readonly normal: Float64Array;
    readonly l1: number;
    readonly l2: number;
    readonly d: number;
    readonly alpha: number;
    readonly beta: number;
  };
  /** Matched rest rotations of the joints of the character. */
  readonly turns: Float64Array;
}

/** A leg opens no farther and closes no farther than this, in shares of both lengths. */
const STRAIGHT = 0.9995;
const CLOSED = 1.005;

/** Legs of a pairing that are alike as wholes only; none where both bodies have as many bones in them. */
export function planWholeLegs({ performer, character, match }: Pairing): WholeLeg[] {
  if (!unlikeLegs(performer, character)) return [];
  const { positions, rotations } = match.pose;
  return SIDES.map((side) => {
    const leg = legChain(character.roles, side);
    const [joints, end] = [leg.slice(0, -1), leg[leg.length - 1]];
    const [hip, ankle] = ['upperLeg', 'foot'].map((part) => performer.roles.get(`${side}.${part}`)!);
    const direction = (a: number, b: number): Float64Array =>
      Float64Array.from([0, 1, 2], (c) => positions[b * 3 + c] - positions[a * 3 + c]);
    const [c1, w] = [new Float64Array(3), new Float64Array(3)];
    joints.forEach((joint, i) => direction(joint, leg[i + 1]).forEach((v, c) => ((i % 2 === 0 ? c1 : w)[c] += v)));
    const whole = direction(joints[0], end);
    const [l1, l2, d] = [c1, w, whole].map((v) => length(v, 0));
    const normal = new Float64Array(3);
    cross(normal, 0, c1, 0, w, 0);
    const size = length(normal, 0);
    // A straight leg bends about the body's side axis.
    normal.set(size > 1e-3 * l1 * l2 ? normal.map((v) => v / size) : performer.left);
    const frame = new Float64Array(4);
    fromFrame(frame, 0, whole, 0, performer.left, 0);
    const hinge = performer.left.slice();
    unrotate(hinge, 0, performer.restPose.rotations, hip * 4, hinge, 0);
    return {
      joints,
      hip,
      ankle,
      length: distance(performer.restPose.positions, hip * 3, performer.restPose.positions, ankle * 3),
      hinge,
      rest: { direction: whole, frame, normal, l1, l2, d, alpha: angle(l1, d, l2), beta: angle(l2, d, l1) },
      turns: Float64Array.from(joints.flatMap((j) => [...rotations.subarray(j * 4, j * 4 + 4)])),
    };
  });
}

/** Angle between sides a and b of a triangle whose third side is c. */
function angle(a: number, b: number, c: number): number {
  return acos((a * a + b * b - c * c) / (2 * a * b));
}

/** A distance as far as a leg can fold for it: below half of the way it folds less and less, and never comes to its least. */
function foldTo(d: number, least: number, whole: number, most: number): number {
  const half = (least + whole) / 2;
  if (d >= half) return Math.min(d, most);
  const s = (half - d) / (half - least);
  return half - ((half - least) * s) / (1 + s);
}

const v = new Float64Array(3);
const k = new Float64Array(3);
const turned = new Float64Array(4);
const q = new Float64Array(4);

/**
 * Poses a whole leg: its ankle lies the way from its hip joint in which the performer's does, as far in proportion, and it folds in
 * its own plane, every second bone turning as the thigh does.
 * @param out world rotations of the character's joints, written for the leg's
 */
export function poseWholeLeg(out: Float64Array, leg: WholeLeg, { positions, rotations }: Pose): void {
  const { hip, ankle, rest, turns, joints } = leg;
  let size = 0;
  for (let c = 0; c < 3; c++) {
    v[c] = positions[ankle * 3 + c] - positions[hip * 3 + c];
    size += v[c] * v[c];
  }
  rotate(k, 0, rotations, hip * 4, leg.hinge, 0);
  // A leg that points along its own knee's axis has no plane of its own.
  if (fromFrame(turned, 0, v, 0, k, 0)) mulInv(turned, 0, turned, 0, rest.frame, 0);
  else between(turned, 0, rest.direction, 0, v, 0);
  const { l1, l2, normal } = rest;
  const d = foldTo((rest.d * Math.sqrt(size)) / leg.length, CLOSED * Math.abs(l1 - l2), rest.d, STRAIGHT * (l1 + l2));
  rotate(k, 0, turned, 0, normal, 0);
  const open = angle(l1, d, l2) - rest.alpha;
  fromAxisAngle(q, 0, k[0], k[1], k[2], -open);
  mul(q, 0, q, 0, turned, 0);
  for (let i = 0; i < joints.length; i += 2) mul(out, joints[i] * 4, q, 0, turns, i * 4);
  fromAxisAngle(q, 0, k[0], k[1], k[2], angle(l2, d, l1) - rest.beta);
  mul(q, 0, q, 0, turned, 0);
  for (let i = 1; i < joints.length; i += 2) mul(out, joints[i] * 4, q, 0, turns, i * 4);
}
