import { copy, fromFrame, identity, invMul, mul, mulInv, rotate, between } from '../math/quat';
import { acos } from '../math/trig';
import type { Skeleton } from '../skeleton/skeleton';
import { pathDown } from '../skeleton/skeleton';
import type { FootPath } from './footPath';
import { legReach } from './pelvis';
import { LEG, type LegTrack } from './tracks';

/** What the leg solve missed. */
export interface LegMisses {
  /** Frames with a leg at full stretch, and the farthest that a target stayed out of reach, metres. */
  readonly stretched: number;
  readonly worst: number;
}

/** Bend of less than this share of a full stretch counts as full stretch. */
const STRETCHED = 0.9995;

/** From this bend on, radians, the limb itself shows well enough in which plane it bends. */
const CLEAR_BEND = 0.35;

/**
 * Stage 12: bends one leg so that its foot comes to its target, in closed form (law of cosines), and writes the leg's
 * local rotations. The plain leg is turned by the smallest rotation towards the target and its knee opened or closed in
 * the plane in which it already bends; only as far as the knee closes does the knee's own axis draw the plane to itself,
 * so that a nearly straight leg does not swing its knee about. A hock keeps its direction and the two long segments
 * solve to its upper end.
 * @param kneeAxis unit axis that the knee bends about, in the upper leg's own frame
 * @param drop metres that the hips go down, one per frame
 */
export function solveLeg(
  leg: LegTrack,
  path: FootPath,
  kneeAxis: Float64Array,
  drop: Float64Array,
  softReach: number,
  skeleton: Skeleton,
  rotations: Float32Array,
): LegMisses {
  const { data } = leg;
  const joints = skeleton.parents.length;
  const frames = drop.length;
  // Constant turns of joints that stand between the leg's own: parent of `joint` = joint above · constant.
  const end = leg.hock >= 0 ? leg.hock : leg.foot;
  const lowerK = restBetween(skeleton, leg.upper, leg.lower);
  const endK = restBetween(skeleton, leg.lower, end);
  const footK = leg.hock >= 0 ? restBetween(skeleton, leg.hock, leg.foot) : endK;
  const toesK = leg.toes >= 0 ? restBetween(skeleton, leg.foot, leg.toes) : endK;
  let stretched = 0;
  let worst = 0;

  const u = new Float64Array(3);
  const w = new Float64Array(3);
  const u2 = new Float64Array(3);
  const w2 = new Float64Array(3);
  const plain = new Float64Array(3);
  const wanted = new Float64Array(3);
  const normal = new Float64Array(3);
  const turned = new Float64Array(3);
  const hinge = new Float64Array(3);
  const q = new Float64Array(4);
  const qa = new Float64Array(4);
  const qb = new Float64Array(4);
  const upperQ = new Float64Array(4);
  const lowerQ = new Float64Array(4);
  const parentQ = new Float64Array(4);

  for (let f = 0; f < frames; f++) {
    const o = f * LEG.stride;
    const row = f * joints * 4;
    for (let c = 0; c < 3; c++) {
      u[c] = data[o + LEG.knee + c] - data[o + LEG.hip + c];
      w[c] = data[o + LEG.hock + c] - data[o + LEG.knee + c];
      plain[c] = u[c] + w[c];
      wanted[c] = path.ankle[f * 3 + c] + data[o + LEG.hock + c] - data[o + LEG.ankle + c] - data[o + LEG.hip + c];
    }
    wanted[1] += drop[f];
    const l1 = norm(u);
    const l2 = norm(w);
    const d0 = norm(plain);
    let d = norm(wanted);
    const most = legReach(leg, f, softReach);
    const least = Math.abs(l1 - l2) + 1e-4 * (l1 + l2);
    if (d > most || d < least) {
      const to = d > most ? most : least;
      if (path.held[f]) worst = Math.max(worst, Math.abs(d - to));
      for (let c = 0; c < 3; c++) wanted[c] *= to / d;
      d = to;
    }
    if (d > STRETCHED * (l1 + l2)) stretched++;

    const moved = Math.abs(wanted[0] - plain[0]) + Math.abs(wanted[1] - plain[1]) + Math.abs(wanted[2] - plain[2]);
    if (moved < 1e-9) {
      copy(upperQ, 0, data, o + LEG.upperQ);
      copy(lowerQ, 0, data, o + LEG.lowerQ);
    } else {
      // Bend angles before and after, from the triangle of thigh, shin and reach.
      const bend0 = bendOf(l1, l2, d0);
      const bend1 = bendOf(l1, l2, d);
      rotate(hinge, 0, data, o + LEG.upperQ, kneeAxis, 0);
      normal[0] = (u[1] * w[2] - u[2] * w[1]) / (l1 * l2);
      normal[1] = (u[2] * w[0] - u[0] * w[2]) / (l1 * l2);
      normal[2] = (u[0] * w[1] - u[1] * w[0]) / (l1 * l2);
      const along = normal[0] * hinge[0] + normal[1] * hinge[1] + normal[2] * hinge[2];
      // A knee bent backwards a little that has to close further closes forwards.
      if (along < 0 && bend1 > bend0) for (let c = 0; c < 3; c++) normal[c] -= 2 * along * hinge[c];
      const pull = Math.max(0, bend1 - bend0) * Math.max(0, 1 - bend0 / CLEAR_BEND);
      for (let c = 0; c < 3; c++) normal[c] += hinge[c] * pull;
      if (norm(normal) < 1e-7) normal.set(hinge);

      between(q, 0, plain, 0, wanted, 0);
      rotate(turned, 0, q, 0, normal, 0);
      let off = 0;
      for (let c = 0; c < 3; c++) off += (turned[c] * wanted[c]) / (d * d);
      for (let c = 0; c < 3; c++) turned[c] -= off * wanted[c];
      const n = norm(turned);
      for (let c = 0; c < 3; c++) turned[c] /= n;
      const x = (d * d + l1 * l1 - l2 * l2) / (2 * d);
      const y = Math.sqrt(Math.max(0, l1 * l1 - x * x));
      // The knee stands off the line to the target on the side of target × normal.
      const ex = (wanted[1] * turned[2] - wanted[2] * turned[1]) / d;
      const ey = (wanted[2] * turned[0] - wanted[0] * turned[2]) / d;
      const ez = (wanted[0] * turned[1] - wanted[1] * turned[0]) / d;
      u2[0] = (wanted[0] / d) * x + ex * y;
      u2[1] = (wanted[1] / d) * x + ey * y;
      u2[2] = (wanted[2] / d) * x + ez * y;
      for (let c = 0; c < 3; c++) w2[c] = wanted[c] - u2[c];
      turnFrame(q, u, normal, u2, turned);
      mul(upperQ, 0, q, 0, data, o + LEG.upperQ);
      turnFrame(q, w, normal, w2, turned);
      mul(lowerQ, 0, q, 0, data, o + LEG.lowerQ);
    }

    invMul(rotations, row + leg.upper * 4, data, o + LEG.parentQ, upperQ, 0);
    mul(parentQ, 0, upperQ, 0, lowerK, 0);
    invMul(rotations, row + leg.lower * 4, parentQ, 0, lowerQ, 0);
    mul(parentQ, 0, lowerQ, 0, endK, 0);
    if (leg.hock >= 0) {
      invMul(rotations, row + leg.hock * 4, parentQ, 0, data, o + LEG.hockQ);
      mul(parentQ, 0, data, o + LEG.hockQ, footK, 0);
    }
    invMul(rotations, row + leg.foot * 4, parentQ, 0, path.footQ, f * 4);
    if (leg.toes >= 0) {
      mul(parentQ, 0, path.footQ, f * 4, toesK, 0);
      invMul(rotations, row + leg.toes * 4, parentQ, 0, path.toesQ, f * 4);
    }
  }
  return { stretched, worst };

  /** out = the rotation that turns the frame of (a, n) to the frame of (a2, n2). */
  function turnFrame(out: Float64Array, a: Float64Array, n: Float64Array, a2: Float64Array, n2: Float64Array): void {
    if (fromFrame(qa, 0, a, 0, n, 0) && fromFrame(qb, 0, a2, 0, n2, 0)) mulInv(out, 0, qb, 0, qa, 0);
    else between(out, 0, a, 0, a2, 0);
  }
}

function norm(v: Float64Array): number {
  return Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
}

/** Bend of a two-segment limb, 0 when straight, whose ends are d apart. */
function bendOf(l1: number, l2: number, d: number): number {
  return acos((d * d - l1 * l1 - l2 * l2) / (2 * l1 * l2));
}

/** Product of the rest rotations of the joints that stand between two joints of a chain. */
function restBetween(skeleton: Skeleton, above: number, below: number): Float64Array {
  const q = new Float64Array(4);
  identity(q, 0);
  for (const j of pathDown(skeleton, above, below).slice(1, -1)) mul(q, 0, q, 0, skeleton.restR, j * 4);
  return q;
}
