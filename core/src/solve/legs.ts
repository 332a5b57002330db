import { between, copy, fromAxisAngle, fromFrame, identity, invMul, mul, mulInv, rotate, slerp } from '../math/quat';
import { eased, smoothstep } from '../math/filter';
import { acos } from '../math/trig';
import type { FootPath } from './footPath';
import { turnOf, type LimbTrack } from './limbTrack';
import type { LimbPlan } from './plan';
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
  /** How far it swings about the line from its root to its end, radians, one a frame; undefined nowhere. */
  readonly swing?: Float64Array;
  /** How far the limb is drawn out, as a share of its length frame by frame, and the joints that show it; undefined for nowhere. */
  readonly drawn?: { readonly joints: readonly number[]; readonly by: Float32Array };
}

/** A limb that is drawn out by less than this share is as it was. */
const NOT_DRAWN = 1e-6;

/** From this bend on, radians, the limb itself shows well enough in which plane it bends. */
const CLEAR_BEND = 0.35;

/** Vectors of one frame: the plain limb's two parts and the whole, where its end shall be, both parts bent, and the plane that they bend in. */
const [u, w, plain, wanted, u2, w2] = Array.from({ length: 6 }, () => new Float64Array(3));
const [hinge, normal, turned] = Array.from({ length: 3 }, () => new Float64Array(3));
/** Turns of one frame: what the upper and the lower part are turned by, and how both then stand. */
const [firstTurn, lastTurn, upperQ, lowerQ] = Array.from({ length: 4 }, () => new Float64Array(4));
const [parentQ, boneQ, qa, qb] = Array.from({ length: 4 }, () => new Float64Array(4));

/** Told in which frame an end stays away from its place, and how far, metres. */
type Missed = (distance: number, frame: number) => void;

/** Lengths of one frame, metres: of both parts as they were and as they are drawn out, and of the way from root to end before and after. */
const size = { short1: 0, short2: 0, l1: 0, l2: 0, before: 0, after: 0 };

/**
 * Bends one leg so that its foot comes to its target, in closed form (law of cosines). The plain leg is turned by the smallest
 * rotation towards the target and its knee opened or closed in the plane in which it already bends; only as far as the knee closes
 * does the knee's own axis draw the plane to itself, so that a nearly straight leg does not swing its knee about. Of more than two
 * bones every second one turns with the first and the others with the second, as the legs of animals do.
 * @param shift where the hips go from the plain transfer, metres, 3 per frame; undefined where they stay
 * @param stretch share of its length by which a limb that can be may be drawn out, 0 for not at all
 */
export function solveLimb(leg: LimbTrack, path: FootPath, shift: Float64Array | undefined, softReach: number, stretch = 0): LimbTurns {
  const { data, at, stride, frames } = leg;
  const { joints, drawn: shows } = leg.plan;
  const rotations = new Float32Array(frames * joints.length * 4);
  const drawn = stretch > 0 && shows.length > 0 ? new Float32Array(frames) : undefined;
  const miss = { distance: 0, frame: 0 };
  const missed = (distance: number, frame: number): void => {
    if (path.held[frame] && distance > miss.distance) Object.assign(miss, { distance, frame });
  };
  const limits = { softReach, stretch: drawn && stretch, missed };
  for (let f = 0; f < frames; f++) {
    if (path.idle?.[f]) continue;
    const by = poseLimb(leg, path, f, shift, limits);
    if (drawn) drawn[f] = by;
    const angle = path.swing?.[f] ?? 0;
    if (angle !== 0) swing(angle);
    const o = f * stride;
    mul(upperQ, 0, firstTurn, 0, data, o + at.topQ);
    mul(lowerQ, 0, lastTurn, 0, data, o + at.midQ);
    write(rotations, leg, path, f);
  }
  const isDrawn = drawn?.some((by) => by > NOT_DRAWN);
  return { joints, rotations, idle: path.idle, miss, ...(drawn && isDrawn && { drawn: { joints: shows, by: drawn } }) };
}

/** How far limbs reach. */
interface Limits {
  readonly softReach: number;
  /** Undefined for limbs that keep their length. */
  readonly stretch: number | undefined;
  readonly missed: Missed;
}

/** Tells in a frame where a limb's bend and its end come to, but for how it swings. */
export type Bends = (mid: Float64Array, end: Float64Array, f: number) => void;

/**
 * Makes what tells where a limb comes to.
 * @param path undefined where it stays as it was posed
 */
export function bendsAlong(limb: LimbTrack, path: FootPath | undefined, softReach: number, stretch: number): Bends {
  const { data, at, stride, plan } = limb;
  const limits: Limits = { softReach, stretch: stretch > 0 && plan.drawn.length > 0 ? stretch : undefined, missed: () => undefined };
  return (mid, end, f) => {
    const o = f * stride;
    const isPosed = !path || path.idle?.[f] === 1;
    if (!isPosed) poseLimb(limb, path, f, undefined, limits);
    for (let c = 0; c < 3; c++) {
      mid[c] = isPosed ? data[o + at.mid + c] : data[o + at.top + c] + u2[c];
      end[c] = isPosed ? data[o + at.end + c] : mid[c] + w2[c];
    }
  };
}

/** Bends a limb of one frame to its target. @returns share by which it is drawn out */
function poseLimb(leg: LimbTrack, path: FootPath, f: number, shift: Float64Array | undefined, limits: Limits): number {
  const { data, at, stride } = leg;
  const o = f * stride;
  wayToTarget(wanted, leg, path, f);
  for (let c = 0; c < 3; c++) {
    u[c] = data[o + at.mid + c] - data[o + at.top + c];
    w[c] = data[o + at.end + c] - data[o + at.mid + c];
    plain[c] = u[c] + w[c];
    if (shift) wanted[c] -= shift[f * 3 + c];
  }
  const by = holdWithin(leg.plan, limits, f);
  if (Math.abs(wanted[0] - plain[0]) + Math.abs(wanted[1] - plain[1]) + Math.abs(wanted[2] - plain[2]) < 1e-9) {
    identity(firstTurn, 0);
    identity(lastTurn, 0);
    u2.set(u);
    w2.set(w);
  } else {
    rotate(hinge, 0, data, o + at.topQ, leg.plan.hinge, 0);
    bend(leg.plan.kind === 'leg');
  }
  return by;
}

/** Turns both parts about the line from root to end. */
function swing(angle: number): void {
  const n = norm(wanted);
  if (n < 1e-9) return;
  fromAxisAngle(qa, 0, wanted[0] / n, wanted[1] / n, wanted[2] / n, angle);
  mul(firstTurn, 0, qa, 0, firstTurn, 0);
  mul(lastTurn, 0, qa, 0, lastTurn, 0);
}

/** How late limbs slow down that fold (`eased`): a foot beside the seat is to come to its place; a hand at the head may stay a little off it. */
const FOLDS = { leg: 3, arm: 2 } as const;

/**
 * Brings the way to the target within what the limb can do, and notes its lengths.
 * @returns share by which it is drawn out
 */
function holdWithin({ kind }: LimbPlan, { softReach, stretch, missed }: Limits, f: number): number {
  const short1 = norm(u);
  const short2 = norm(w);
  const whole = short1 + short2;
  const d0 = norm(plain);
  size.after = norm(wanted);
  let by = 0;
  if (size.after > d0) {
    // An arm straightens without a corner, the less the nearer it is to its full length.
    const to = d0 + eased(size.after - d0, Math.max(0, softReach * whole - d0));
    if (stretch !== undefined) by = Math.fround(eased(size.after / to - 1, stretch));
    bring(to * (1 + by), f, missed);
  }
  size.short1 = short1;
  size.short2 = short2;
  size.l1 = short1 * (1 + by);
  size.l2 = short2 * (1 + by);
  size.before = d0;
  const most = whole * (1 + by);
  const least = Math.abs(size.l1 - size.l2) + 1e-4 * (size.l1 + size.l2);
  if (size.after < d0) bring(d0 - eased(d0 - size.after, Math.max(0, d0 - foldOf(short1, short2)), FOLDS[kind]), f, missed);
  if (size.after > most || size.after < least) bring(size.after > most ? most : least, f, missed);
  return by;
}

/** Brings the end as far as is said; how far it stays away is told. */
function bring(to: number, f: number, missed: Missed): void {
  missed(Math.abs(size.after - to), f);
  for (let c = 0; c < 3; c++) wanted[c] *= to / size.after;
  size.after = to;
}

/** Bends the plain limb to the way that is wanted: sets what its two parts are turned by. */
function bend(isLeg: boolean): void {
  const { short1, short2, l1, l2, before: d0, after: d } = size;
  // Bend angles before and after, from the triangle of thigh, shin and reach.
  const bend0 = bendOf(short1, short2, d0);
  const bend1 = bendOf(l1, l2, d);
  normal[0] = (u[1] * w[2] - u[2] * w[1]) / (short1 * short2);
  normal[1] = (u[2] * w[0] - u[0] * w[2]) / (short1 * short2);
  normal[2] = (u[0] * w[1] - u[1] * w[0]) / (short1 * short2);
  const along = normal[0] * hinge[0] + normal[1] * hinge[1] + normal[2] * hinge[2];
  const clear = smoothstep(bend0 / CLEAR_BEND);
  const pull = Math.max(0, bend1 - bend0) * Math.max(0, 1 - bend0 / CLEAR_BEND);
  // A knee bent backwards a little that has to close further closes forwards. An elbow bends as performed, about whatever axis; one that is straight
  // but for a capture's noise, which may bend it either way, shows the less of one the more it closes.
  if (!isLeg) for (let c = 0; c < 3; c++) normal[c] *= 1 - (1 - clear) * (pull > 0 ? pull / (pull + bend0) : 0);
  else if (along < 0 && bend1 > bend0) for (let c = 0; c < 3; c++) normal[c] -= 2 * along * (1 - clear) * hinge[c];
  for (let c = 0; c < 3; c++) normal[c] += hinge[c] * pull;
  if (norm(normal) < 1e-7) normal.set(hinge);

  between(qa, 0, plain, 0, wanted, 0);
  rotate(turned, 0, qa, 0, normal, 0);
  let off = 0;
  for (let c = 0; c < 3; c++) off += (turned[c] * wanted[c]) / (d * d);
  for (let c = 0; c < 3; c++) turned[c] -= off * wanted[c];
  const n = norm(turned);
  for (let c = 0; c < 3; c++) turned[c] /= n;
  const x = (d * d + l1 * l1 - l2 * l2) / (2 * d);
  const y = Math.sqrt(Math.max(0, l1 * l1 - x * x));
  // The knee stands off the line to the target on the side of target × normal.
  u2[0] = (wanted[0] / d) * x + ((wanted[1] * turned[2] - wanted[2] * turned[1]) / d) * y;
  u2[1] = (wanted[1] / d) * x + ((wanted[2] * turned[0] - wanted[0] * turned[2]) / d) * y;
  u2[2] = (wanted[2] / d) * x + ((wanted[0] * turned[1] - wanted[1] * turned[0]) / d) * y;
  for (let c = 0; c < 3; c++) w2[c] = wanted[c] - u2[c];
  turnFrame(firstTurn, u, u2);
  turnFrame(lastTurn, w, w2);
}

/** Writes a frame of a limb that has been bent: its joints' turns in their parents' frames, the end as its path turns it. */
function write(rotations: Float32Array, { data, at, stride, plan }: LimbTrack, path: FootPath, f: number): void {
  const { joints, between: rests, end, beyond } = plan;
  const o = f * stride;
  const row = f * joints.length * 4;
  invMul(rotations, row, data, o + at.parentQ, upperQ, 0);
  mul(parentQ, 0, upperQ, 0, rests, 4);
  invMul(rotations, row + 4, parentQ, 0, lowerQ, 0);
  copy(parentQ, 0, lowerQ, 0);
  for (let i = 2; i < end; i++) {
    mul(boneQ, 0, i % 2 === 0 ? firstTurn : lastTurn, 0, data, o + turnOf(i));
    mul(parentQ, 0, parentQ, 0, rests, i * 4);
    invMul(rotations, row + i * 4, parentQ, 0, boneQ, 0);
    copy(parentQ, 0, boneQ, 0);
  }
  mul(parentQ, 0, parentQ, 0, rests, end * 4);
  const along = path.along?.[f] ?? 0;
  if (along === 0) invMul(rotations, row + end * 4, parentQ, 0, path.footQ, f * 4);
  else {
    mulInv(qb, 0, lowerQ, 0, data, o + at.midQ);
    mul(qa, 0, qb, 0, path.footQ, f * 4);
    slerp(qa, 0, path.footQ, f * 4, qa, 0, along);
    invMul(rotations, row + end * 4, parentQ, 0, qa, 0);
  }
  if (beyond >= 0) {
    mul(parentQ, 0, path.footQ, f * 4, rests, beyond * 4);
    invMul(rotations, row + beyond * 4, parentQ, 0, path.toesQ, f * 4);
  }
}

/** out = the rotation that turns the plain frame of a part to that of the bent one. */
function turnFrame(out: Float64Array, a: Float64Array, a2: Float64Array): void {
  if (fromFrame(qa, 0, a, 0, normal, 0) && fromFrame(qb, 0, a2, 0, turned, 0)) mulInv(out, 0, qb, 0, qa, 0);
  else between(out, 0, a, 0, a2, 0);
}

function norm(v: Float64Array): number {
  return Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
}

/** Bend of a two-segment limb, 0 when straight, whose ends are d apart. */
function bendOf(l1: number, l2: number, d: number): number {
  return acos((d * d - l1 * l1 - l2 * l2) / (2 * l1 * l2));
}
