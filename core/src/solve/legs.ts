import { between, copy, fromFrame, identity, invMul, mul, mulInv, rotate, slerp } from '../math/quat';
import { eased } from '../math/filter';
import { acos } from '../math/trig';
import type { FootPath } from './footPath';
import { turnOf, type LimbTrack } from './limbTrack';
import { foldOf, wayToTarget } from './reach';

/** Result of solving a limb: its joints' turns, and the distance it could not reach. */
export interface LimbTurns {
  readonly joints: readonly number[];
  /** Local rotations of the leg's joints, frames × joints × 4. */
  readonly rotations: Float32Array;
  /** 1 in frames in which the limb stays as it was posed, and nothing is stated. */
  readonly idle: Uint8Array | undefined;
  /** Farthest that a held foot stayed from its place, metres, and in which frame. */
  readonly miss: { readonly distance: number; readonly frame: number };
  /** How far the limb is drawn out, as a share of its length frame by frame, and the joints that show it; undefined for nowhere. */
  readonly drawn?: { readonly joints: readonly number[]; readonly by: Float32Array };
}

/** A limb that is drawn out by less than this share is as it was. */
const NOT_DRAWN = 1e-6;

/** From this bend on, radians, the limb itself shows well enough in which plane it bends. */
const CLEAR_BEND = 0.35;

/**
 * Bends one leg so that its foot comes to its target, in closed form (law of cosines). The plain leg is turned by the smallest
 * rotation towards the target and its knee opened or closed in the plane in which it already bends; only as far as the knee closes
 * does the knee's own axis draw the plane to itself, so that a nearly straight leg does not swing its knee about. Of more than two
 * bones every second one turns with the first and the others with the second, as the legs of animals do.
 * @param shift where the hips go from the plain transfer, metres, 3 per frame
 * @param stretch share of its length by which a limb that can be may be drawn out, 0 for not at all
 */
export function solveLimb(leg: LimbTrack, path: FootPath, shift: Float64Array, softReach: number, stretch = 0): LimbTurns {
  const { data, at, stride, frames } = leg;
  const { joints, between: between0, hinge: hingeAxis, end: endIndex, beyond } = leg.plan;
  const isLeg = leg.plan.kind === 'leg';
  const count = joints.length;
  const rotations = new Float32Array(frames * count * 4);
  const drawn = stretch > 0 && leg.plan.drawn.length > 0 ? new Float32Array(frames) : undefined;
  let isDrawn = false;
  let miss = { distance: 0, frame: 0 };

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
  const firstQ = new Float64Array(4);
  const boneQ = new Float64Array(4);

  for (let f = 0; f < frames; f++) {
    if (path.idle?.[f]) continue;
    const o = f * stride;
    const row = f * count * 4;
    wayToTarget(wanted, leg, path, f);
    for (let c = 0; c < 3; c++) {
      u[c] = data[o + at.mid + c] - data[o + at.top + c];
      w[c] = data[o + at.end + c] - data[o + at.mid + c];
      plain[c] = u[c] + w[c];
      wanted[c] -= shift[f * 3 + c];
    }
    const short1 = norm(u);
    const short2 = norm(w);
    let l1 = short1;
    let l2 = short2;
    const d0 = norm(plain);
    let d = norm(wanted);
    if (d > d0) {
      // An arm straightens without a corner, the less the nearer it is to its full length.
      let to = d0 + eased(d - d0, Math.max(0, softReach * (l1 + l2) - d0));
      if (drawn) {
        drawn[f] = eased(d / to - 1, stretch);
        to *= 1 + drawn[f];
      }
      if (path.held[f] && d - to > miss.distance) miss = { distance: d - to, frame: f };
      for (let c = 0; c < 3; c++) wanted[c] *= to / d;
      d = to;
    }
    let most = l1 + l2;
    if (drawn) {
      isDrawn ||= drawn[f] > NOT_DRAWN;
      most *= 1 + drawn[f];
      l1 *= 1 + drawn[f];
      l2 *= 1 + drawn[f];
    }
    const least = Math.abs(l1 - l2) + 1e-4 * (l1 + l2);
    if (d < d0) {
      const to = d0 - eased(d0 - d, Math.max(0, d0 - foldOf(short1, short2)));
      if (path.held[f] && to - d > miss.distance) miss = { distance: to - d, frame: f };
      for (let c = 0; c < 3; c++) wanted[c] *= to / d;
      d = to;
    }
    if (d > most || d < least) {
      const to = d > most ? most : least;
      if (path.held[f] && Math.abs(d - to) > miss.distance) miss = { distance: Math.abs(d - to), frame: f };
      for (let c = 0; c < 3; c++) wanted[c] *= to / d;
      d = to;
    }

    const moved = Math.abs(wanted[0] - plain[0]) + Math.abs(wanted[1] - plain[1]) + Math.abs(wanted[2] - plain[2]);
    if (moved < 1e-9) {
      copy(upperQ, 0, data, o + at.topQ);
      copy(lowerQ, 0, data, o + at.midQ);
      identity(firstQ, 0);
      identity(q, 0);
    } else {
      // Bend angles before and after, from the triangle of thigh, shin and reach.
      const bend0 = bendOf(short1, short2, d0);
      const bend1 = bendOf(l1, l2, d);
      rotate(hinge, 0, data, o + at.topQ, hingeAxis, 0);
      normal[0] = (u[1] * w[2] - u[2] * w[1]) / (short1 * short2);
      normal[1] = (u[2] * w[0] - u[0] * w[2]) / (short1 * short2);
      normal[2] = (u[0] * w[1] - u[1] * w[0]) / (short1 * short2);
      const along = normal[0] * hinge[0] + normal[1] * hinge[1] + normal[2] * hinge[2];
      // A knee bent backwards a little that has to close further closes forwards; elbows are left as performed.
      if (isLeg && along < 0 && bend1 > bend0) for (let c = 0; c < 3; c++) normal[c] -= 2 * along * hinge[c];
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
      turnFrame(firstQ, u, normal, u2, turned);
      mul(upperQ, 0, firstQ, 0, data, o + at.topQ);
      turnFrame(q, w, normal, w2, turned);
      mul(lowerQ, 0, q, 0, data, o + at.midQ);
    }

    invMul(rotations, row, data, o + at.parentQ, upperQ, 0);
    mul(parentQ, 0, upperQ, 0, between0, 4);
    invMul(rotations, row + 4, parentQ, 0, lowerQ, 0);
    copy(parentQ, 0, lowerQ, 0);
    for (let i = 2; i < endIndex; i++) {
      mul(boneQ, 0, i % 2 === 0 ? firstQ : q, 0, data, o + turnOf(i));
      mul(parentQ, 0, parentQ, 0, between0, i * 4);
      invMul(rotations, row + i * 4, parentQ, 0, boneQ, 0);
      copy(parentQ, 0, boneQ, 0);
    }
    mul(parentQ, 0, parentQ, 0, between0, endIndex * 4);
    const along = path.along?.[f] ?? 0;
    if (along === 0) invMul(rotations, row + endIndex * 4, parentQ, 0, path.footQ, f * 4);
    else {
      mulInv(q, 0, lowerQ, 0, data, o + at.midQ);
      mul(qa, 0, q, 0, path.footQ, f * 4);
      slerp(qa, 0, path.footQ, f * 4, qa, 0, along);
      invMul(rotations, row + endIndex * 4, parentQ, 0, qa, 0);
    }
    if (beyond >= 0) {
      mul(parentQ, 0, path.footQ, f * 4, between0, beyond * 4);
      invMul(rotations, row + beyond * 4, parentQ, 0, path.toesQ, f * 4);
    }
  }
  return { joints, rotations, idle: path.idle, miss, ...(drawn && isDrawn && { drawn: { joints: leg.plan.drawn, by: drawn } }) };

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
