import type { Side } from '../label';
import { between, exp, rotate, unrotate } from '../math/quat';
import { acos } from '../math/trig';
import { cross, distance, dot, normalize } from '../math/vec';
import type { Rig } from '../rig';
import type { Pose } from '../skeleton';
import type { Poser } from './poser';

/** A limb as two stiff parts: from its top to its bend, and from there to its end. */
export interface Limb {
  readonly top: number;
  readonly bend: number;
  readonly end: number;
  /** The bend's hinge at rest, in the bend's own frame: about it a straight limb begins to bend. */
  readonly hinge: Float64Array;
}

/** Share of its length that a limb comes out to: a straight one would snap. */
const STRAIGHT = 0.9995;

/** The limb of an arm or a leg; undefined where the body has none. */
export function limbOf(
  { roles, restPose, left, forward }: Pick<Rig, 'roles' | 'restPose' | 'left' | 'forward'>,
  side: Side,
  kind: 'arm' | 'leg',
): Limb | undefined {
  const at = (part: string): number | undefined => roles.get(`${side}.${part}`);
  const [top, bend, end] = (kind === 'arm' ? ['upperArm', 'lowerArm', 'hand'] : ['upperLeg', 'lowerLeg', 'foot']).map(at);
  if (top === undefined || bend === undefined || end === undefined) return undefined;
  const hinge = new Float64Array(3);
  // Knees bend backwards about the left; elbows fold ahead, about what is square to the arm and to the way ahead.
  if (kind === 'leg') hinge.set(left);
  else {
    const P = restPose.positions;
    const along = Float64Array.from({ length: 3 }, (_, c) => P[end * 3 + c] - P[top * 3 + c]);
    cross(hinge, 0, along, 0, forward, 0);
    if (normalize(hinge, 0) < 1e-6) hinge.set(left);
  }
  unrotate(hinge, 0, restPose.rotations, bend * 4, hinge, 0);
  return { top, bend, end, hinge };
}

/**
 * How much lower a limb's top must be for its end to come to a place, metres; 0 where it reaches it.
 * @param to x, y, z in the world from offset `o`
 */
export function dropFor({ positions: P }: Pose, { top, bend, end }: Limb, to: Float64Array, o: number): number {
  const length = STRAIGHT * (distance(P, top * 3, P, bend * 3) + distance(P, bend * 3, P, end * 3));
  const [x, y, z] = [0, 1, 2].map((c) => P[top * 3 + c] - to[o + c]);
  return Math.max(0, y - Math.sqrt(Math.max(0, length * length - x * x - z * z)));
}

/** How much a limb is too short for its end to come to a place, metres; 0 where it reaches it. */
export function shortBy({ positions: P }: Pose, { top, bend, end }: Limb, to: Float64Array): number {
  const length = STRAIGHT * (distance(P, top * 3, P, bend * 3) + distance(P, bend * 3, P, end * 3));
  return Math.max(0, distance(P, top * 3, to, 0) - length);
}

const a = new Float64Array(3);
const b = new Float64Array(3);
const axis = new Float64Array(3);
const fold = new Float64Array(3);
const q = new Float64Array(4);

/** A limb bends in its own plane once it is bent by so much (sine), and about its hinge as it nears straight, where that plane is noise. */
const BENT = 0.15;
/** The bend is set so often: about the hinge, and then what is left in the plane that came of it. */
const ROUNDS = 2;

/**
 * Brings a limb's end to a place: bent by the law of cosines in the plane that it bends in already, or about its hinge where it is straight, then
 * swung from its top by the least turn. Its swivel so stays as it was posed. A place out of reach is neared as far as the limb goes.
 * @param to x, y, z in the world from offset `o`
 */
export function reachTo(poser: Poser, { top, bend, end, hinge }: Limb, to: Float64Array, o: number): void {
  const { positions: P, rotations: R } = poser.pose;
  const upper = distance(P, top * 3, P, bend * 3);
  const lower = distance(P, bend * 3, P, end * 3);
  if (upper < 1e-9 || lower < 1e-9) return;
  const wanted = Math.min(Math.max(distance(P, top * 3, to, o), Math.abs(upper - lower) * 1.001), (upper + lower) * STRAIGHT);
  const angleAt = (length: number): number =>
    acos(Math.max(-1, Math.min(1, (upper * upper + lower * lower - length * length) / (2 * upper * lower))));
  for (let round = 0; round < ROUNDS; round++) {
    const less = angleAt(distance(P, top * 3, P, end * 3)) - angleAt(wanted);
    if (Math.abs(less) < 1e-7) break;
    for (let c = 0; c < 3; c++) {
      a[c] = (P[bend * 3 + c] - P[top * 3 + c]) / upper;
      b[c] = (P[end * 3 + c] - P[bend * 3 + c]) / lower;
    }
    cross(axis, 0, a, 0, b, 0);
    rotate(fold, 0, R, bend * 4, hinge, 0);
    const along = dot(fold, 0, b, 0);
    for (let c = 0; c < 3; c++) axis[c] += BENT * (fold[c] - along * b[c]);
    if (normalize(axis, 0) < 1e-6) return;
    exp(q, 0, axis[0] * less, axis[1] * less, axis[2] * less);
    poser.turn(bend, q);
  }
  for (let c = 0; c < 3; c++) {
    a[c] = P[end * 3 + c] - P[top * 3 + c];
    b[c] = to[o + c] - P[top * 3 + c];
  }
  if (normalize(a, 0) < 1e-9 || normalize(b, 0) < 1e-9) return;
  between(q, 0, a, 0, b, 0);
  poser.turn(top, q);
}
