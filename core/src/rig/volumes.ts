import type { MotionFile } from '../formats';
import { chain, SIDES, type RoleMap } from '../label';
import { between, fromAxes, invMul, rotate, unrotate } from '../math/quat';
import { percentile } from '../math/filter';
import { distance, length, normalize } from '../math/vec';
import type { Pose } from '../skeleton';

/** The room that the skin about one joint takes: an ellipsoid along the body's own axes at rest, or one drawn out along its Y, as a rod with round ends. */
export interface Volume {
  readonly role: string;
  readonly joint: number;
  /** From the joint's frame to the ellipsoid's. */
  readonly turn: Float64Array;
  /** Its middle in the joint's frame, and half its size along its own axes, metres. */
  readonly middle: Float64Array;
  readonly half: Float64Array;
  /** How far it is drawn out to both sides, metres. */
  readonly drawn: number;
}

/** Fewer points of skin than this say nothing about a volume. */
const ENOUGH = 12;
/** The outermost points of a box lie outside the ellipsoid in it; this much larger, it is about as full. */
const FULL = 1.06;

/**
 * Fits volumes to the skin of hips, trunk, head and thighs.
 * @param metres per unit of the file
 * @returns none for a body without a mesh
 */
export function volumesOf(
  rest: Pose,
  roles: RoleMap,
  skin: MotionFile['skin'],
  metres: number,
  { left, forward }: { readonly left: Float64Array; readonly forward: Float64Array },
): Volume[] {
  if (!skin) return [];
  const wanted = ['hips', ...chain(roles, 'spine').map((_, i) => `spine.${i + 1}`), 'head', ...SIDES.map((side) => `${side}.upperLeg`)];
  const body = new Float64Array(4);
  fromAxes(body, 0, left[0], left[1], left[2], 0, 1, 0, forward[0], forward[1], forward[2]);
  return wanted.flatMap((role): Volume[] => {
    const joint = roles.get(role);
    if (joint === undefined) return [];
    const turn = new Float64Array(4);
    invMul(turn, 0, body, 0, rest.rotations, joint * 4);
    const along: number[][] = [[], [], []];
    const v = new Float64Array(3);
    skin.joints.forEach((owner, i) => {
      if (owner !== joint) return;
      const k = [0, 1, 2, 3].find((n) => skin.influences[i * 4 + n] === joint) ?? 0;
      for (let c = 0; c < 3; c++) v[c] = skin.locals[(i * 4 + k) * 3 + c] * metres;
      rotate(v, 0, turn, 0, v, 0);
      for (let c = 0; c < 3; c++) along[c].push(v[c]);
    });
    if (along[0].length < ENOUGH) return [];
    const ends = along.map((list) => [percentile(list, 0.04), percentile(list, 0.96)]);
    const half = Float64Array.from(ends, ([a, b]) => (FULL * (b - a)) / 2);
    if (half.some((size) => size < 1e-3)) return [];
    const middle = Float64Array.from(ends, ([a, b]) => (a + b) / 2);
    unrotate(middle, 0, turn, 0, middle, 0);
    return [{ role, joint, turn, middle, half, drawn: 0 }];
  });
}

/** Half the thickness of a lean body's parts, in shares of the trunk's length, of a thigh and a shin their own; and how far flesh of the trunk goes beyond the ends of its bones. */
const LEAN = { head: 0.13, trunk: 0.18, upperLeg: 0.13, lowerLeg: 0.085, over: 0.05 } as const;

/** The room that a lean body takes about its bones: of one without a mesh no more is known, and a hand is in none of it. */
export function leanVolumes({ roles, restPose }: { readonly roles: RoleMap; readonly restPose: Pose }): Volume[] {
  const { positions, rotations } = restPose;
  const at = (joint: number): Float64Array => positions.slice(joint * 3, joint * 3 + 3);
  const around = (role: string, joint: number, from: Float64Array, to: Float64Array, wide: number, isRod: boolean): Volume[] => {
    const bone = to.map((x, c) => x - from[c]);
    const size = length(bone, 0);
    if (size < 1e-6) return [];
    const turn = new Float64Array(4);
    // From the bone's own direction, in its joint's frame, to the ellipsoid's Y.
    const middle = from.map((x, c) => x + bone[c] / 2 - positions[joint * 3 + c]);
    unrotate(bone, 0, rotations, joint * 4, bone, 0);
    unrotate(middle, 0, rotations, joint * 4, middle, 0);
    between(turn, 0, bone, 0, UP, 0);
    const [high, drawn] = isRod ? [wide, size / 2] : [size / 2 + LEAN.over * tall, 0];
    return [{ role, joint, turn, middle, half: Float64Array.of(wide, high, wide), drawn }];
  };
  const spine = chain(roles, 'spine');
  const trunk = [roles.get('hips'), ...spine, roles.get('neck.1') ?? roles.get('head')].filter((joint) => joint !== undefined);
  const tall = distance(positions, trunk[0] * 3, positions, trunk[trunk.length - 1] * 3);
  const head = roles.get('head');
  // The neck is the head's.
  const top = head === undefined ? [] : [at(roles.get('neck.1') ?? head), at(head).map((x, c) => x + (c === 1 ? LEAN.head * tall : 0))];
  return [
    ...trunk.slice(1).flatMap((to, i) => around(i === 0 ? 'hips' : `spine.${i}`, trunk[i], at(trunk[i]), at(to), LEAN.trunk * tall, false)),
    ...(head === undefined ? [] : around('head', head, top[0], top[1], LEAN.head * tall, true)),
    ...SIDES.flatMap((side) =>
      LEG.flatMap(([bone, next]) => {
        const [from, to] = [roles.get(`${side}.${bone}`), roles.get(`${side}.${next}`)];
        if (from === undefined || to === undefined) return [];
        return around(`${side}.${bone}`, from, at(from), at(to), LEAN[bone] * distance(positions, from * 3, positions, to * 3), true);
      }),
    ),
  ];
}

const UP = Float64Array.of(0, 1, 0);
const LEG = [
  ['upperLeg', 'lowerLeg'],
  ['lowerLeg', 'foot'],
] as const;

const p = new Float64Array(3);

/** p = a point of the world along a volume's own axes, from its middle. */
function toOwn({ joint, turn, middle }: Volume, { positions, rotations }: Pose, point: Float64Array, at: number): void {
  for (let c = 0; c < 3; c++) p[c] = point[at + c] - positions[joint * 3 + c];
  unrotate(p, 0, rotations, joint * 4, p, 0);
  for (let c = 0; c < 3; c++) p[c] -= middle[c];
  rotate(p, 0, turn, 0, p, 0);
}

/**
 * How far a point is outside of a volume, to first order (Quilez' bound of an ellipsoid), metres; below 0 inside.
 * @param out the unit way out, in the world
 */
export function gapTo(volume: Volume, pose: Pose, point: Float64Array, at: number, out: Float64Array): number {
  toOwn(volume, pose, point, at);
  const { joint, turn, half, drawn } = volume;
  p[1] -= within(drawn, p[1]);
  let k0 = 0;
  let k1 = 0;
  for (let c = 0; c < 3; c++) {
    const x = p[c] / half[c];
    const y = x / half[c];
    k0 += x * x;
    k1 += y * y;
    out[c] = y;
  }
  k0 = Math.sqrt(k0);
  k1 = Math.sqrt(k1);
  if (k1 < 1e-9) {
    out[0] = out[1] = out[2] = 0;
    return -Math.min(half[0], half[1], half[2]);
  }
  for (let c = 0; c < 3; c++) out[c] /= k1;
  unrotate(out, 0, turn, 0, out, 0);
  rotate(out, 0, pose.rotations, joint * 4, out, 0);
  return (k0 * (k0 - 1)) / k1;
}

/**
 * Writes the unit way, in the world, on which side of a rod's own line a point is, along which hands leave it: across it, wherever along it they are.
 * @returns how far the point is out of the endless rod, metres; below 0 in it
 */
export function sideOf(rod: Volume, pose: Pose, point: Float64Array, at: number, out: Float64Array): number {
  toOwn(rod, pose, point, at);
  out.set(p);
  out[1] = 0;
  const far = normalize(out, 0);
  unrotate(out, 0, rod.turn, 0, out, 0);
  rotate(out, 0, pose.rotations, rod.joint * 4, out, 0);
  return far - rod.half[0];
}

const way = new Float64Array(3);
const grown = new Float64Array(3);

/** How far a point within a volume that is larger all around by some metres has to go along a unit way until it is out of it; 0 outside. */
export function exitAlong(volume: Volume, pose: Pose, point: Float64Array, along: Float64Array, larger: number): number {
  toOwn(volume, pose, point, 0);
  const { joint, turn, half, drawn } = volume;
  unrotate(way, 0, pose.rotations, joint * 4, along, 0);
  rotate(way, 0, turn, 0, way, 0);
  for (let c = 0; c < 3; c++) grown[c] = half[c] + larger;
  const high = p[1];
  p[1] -= within(drawn, high);
  if (squareOf(p) >= 1) return 0;
  if (drawn > 0) {
    // Out of the straight part, or of the round end to which that way leads.
    const [x, z] = [way[0] / grown[0], way[2] / grown[2]];
    const [u, v] = [p[0] / grown[0], p[2] / grown[2]];
    const far = exitOf(x * x + z * z, x * u + z * v, u * u + v * v - 1);
    const there = Number.isFinite(far) ? high + far * way[1] : way[1];
    if (Number.isFinite(far) && Math.abs(there) <= drawn) return far;
    p[1] = high - Math.sign(there) * drawn;
  }
  let b = 0;
  for (let c = 0; c < 3; c++) b += (way[c] * p[c]) / (grown[c] * grown[c]);
  return exitOf(squareOf(way), b, squareOf(p) - 1);
}

const within = (most: number, x: number): number => Math.max(-most, Math.min(most, x));

/** Square of a vector in shares of the grown ellipsoid. */
function squareOf(v: Float64Array): number {
  let sum = 0;
  for (let c = 0; c < 3; c++) sum += (v[c] * v[c]) / (grown[c] * grown[c]);
  return sum;
}

/** The farther root of a t² + 2 b t + c; infinite where a is 0. */
const exitOf = (a: number, b: number, c: number): number => (Math.sqrt(Math.max(0, b * b - a * c)) - b) / a;
