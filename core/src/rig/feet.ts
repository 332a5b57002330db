import { distance } from '../math/vec';
import type { MotionFile } from '../formats';
import { rotate, unrotate } from '../math/quat';
import { percentile } from '../math/filter';
import { type Basis, childrenOf, isBelow, type Pose, type Skeleton } from '../skeleton';
import { SIDES, type RoleMap, type Side } from '../label';

/** One foot: its joints and the probes at heel, ball and toe tip that touch the floor when it stands flat. */
export interface Foot {
  readonly side: Side;
  readonly foot: number;
  /** Joint at the ball of the foot, −1 when the skeleton has none. */
  readonly toes: number;
  /** Probes at heel and ball in the foot joint's frame; toe tip in the toes joint's frame (the foot's without toes). */
  readonly heel: Float64Array;
  readonly ball: Float64Array;
  readonly tip: Float64Array;
  /** The toes joint in the foot joint's frame at rest; zero without toes. */
  readonly bend: Float64Array;
  /** Horizontal direction of the foot at rest, unit, in the world. */
  readonly heading: Float64Array;
  /** Ankle above the sole at rest. */
  readonly ankleHeight: number;
}

/** How far the sole lies below the lowest joint of the feet, and how that is known. */
export interface Sole {
  readonly depth: number;
  readonly known: 'mesh' | 'rest' | 'take' | 'no';
}

/** The pose that feet are measured in, and the file's own, which the mesh stands in; undefined when that is not known. */
export interface Standing {
  readonly rest: Pose;
  readonly filePose: Pose | undefined;
}

/** The points of a foot as joints: ankle, ball and tip positions at rest. */
interface FootPoints {
  readonly ankle: Float64Array;
  readonly ball: Float64Array | undefined;
  readonly tip: Float64Array | undefined;
  readonly foot: number;
  readonly toes: number;
}

function footPoints(skeleton: Skeleton, pose: Pose, roles: RoleMap, side: Side): FootPoints | undefined {
  const foot = roles.get(`${side}.foot`);
  if (foot === undefined) return undefined;
  const toes = roles.get(`${side}.toes`) ?? -1;
  const at = (j: number): Float64Array => pose.positions.slice(j * 3, j * 3 + 3);
  const end = toes >= 0 ? toes : foot;
  let tip: Float64Array | undefined;
  if (Number.isFinite(skeleton.tips[end * 3])) {
    tip = new Float64Array(3);
    rotate(tip, 0, pose.rotations, end * 4, skeleton.tips, end * 3);
    for (let c = 0; c < 3; c++) tip[c] += pose.positions[end * 3 + c];
  } else {
    const children = childrenOf(skeleton)[end];
    const far = children.map(at).sort((a, b) => dist(b, at(end)) - dist(a, at(end)))[0];
    tip = far;
  }
  return { foot, toes, ankle: at(foot), ball: toes >= 0 ? at(toes) : undefined, tip };
}

const dist = (a: Float64Array, b: Float64Array): number => distance(a, 0, b, 0);

/** Height of the lowest joint or tip of both feet in a pose. */
export function lowestFootPoint(skeleton: Skeleton, pose: Pose, roles: RoleMap): number {
  let lowest = Infinity;
  for (const side of SIDES) {
    const points = footPoints(skeleton, pose, roles, side);
    for (const p of points ? [points.ankle, points.ball, points.tip] : []) if (p) lowest = Math.min(lowest, p[1]);
  }
  return lowest;
}

/** Mesh points of one foot in metres with Y up, carried by their joints from the file's rest pose to the given one. */
function footMesh(file: MotionFile, basis: Basis, skeleton: Skeleton, foot: number, { filePose, rest }: Standing): Float64Array[] {
  const { skin } = file;
  if (!skin) return [];
  const below = skeleton.names.map((_, j) => isBelow(skeleton, j, foot));
  const points: Float64Array[] = [];
  for (let i = 0; i < skin.joints.length; i++) {
    if (!below[skin.joints[i]]) continue;
    const p = Float64Array.from(skin.positions.subarray(i * 3, i * 3 + 3), (v) => v * basis.metres);
    rotate(p, 0, basis.turn, 0, p, 0);
    if (filePose !== rest) {
      const j = skin.joints[i];
      for (let c = 0; c < 3; c++) p[c] -= filePose!.positions[j * 3 + c];
      unrotate(p, 0, filePose!.rotations, j * 4, p, 0);
      rotate(p, 0, rest.rotations, j * 4, p, 0);
      for (let c = 0; c < 3; c++) p[c] += rest.positions[j * 3 + c];
    }
    points.push(p);
  }
  return points;
}

/**
 * How deep the sole lies: measured on the mesh; else from a rest pose that stands on a floor at zero; else from the
 * lowest the feet come in the take, when that is a floor at zero; else a fiftieth of the leg.
 */
export function findSole(
  file: MotionFile,
  basis: Basis,
  skeleton: Skeleton,
  standing: Standing,
  roles: RoleMap,
  leg: number,
  takeHeights: Float64Array,
): Sole {
  const { rest } = standing;
  const lowest = lowestFootPoint(skeleton, rest, roles);
  if (standing.filePose) {
    const depths: number[] = [];
    for (const side of SIDES) {
      const foot = roles.get(`${side}.foot`);
      const mesh = foot === undefined ? [] : footMesh(file, basis, skeleton, foot, standing);
      if (mesh.length >= 8) depths.push(lowest - Math.min(...mesh.map((p) => p[1])));
    }
    if (depths.length === 2) {
      const depth = Math.max(...depths);
      if (depth > -0.02 * leg && depth < 0.3 * leg) return { depth: Math.max(0, depth), known: 'mesh' };
    }
  }
  if (lowest >= -0.005 * leg && lowest <= 0.13 * leg) return { depth: Math.max(0, lowest), known: 'rest' };
  if (takeHeights.length > 0) {
    const low = percentile(takeHeights, 0.03);
    if (low >= -0.02 * leg && low <= 0.13 * leg) return { depth: Math.max(0, low), known: 'take' };
  }
  return { depth: 0.02 * leg, known: 'no' };
}

/** How far heel, ball and toe tip lie from under the ankle, along the foot, metres. */
export interface FootMeasure {
  readonly side: Side;
  readonly heelBack: number;
  readonly ballAhead: number;
  readonly tipAhead: number;
}

/**
 * Measures both feet of a rest pose. Heel and toe tip come from the mesh where there is one; else the heel lies a quarter of the
 * ankle–ball distance behind the ankle.
 */
export function measureFeet(
  file: MotionFile,
  basis: Basis,
  skeleton: Skeleton,
  standing: Standing,
  roles: RoleMap,
  sole: Sole,
  forward: Float64Array,
): FootMeasure[] {
  const out: FootMeasure[] = [];
  for (const side of SIDES) {
    const points = footPoints(skeleton, standing.rest, roles, side);
    if (!points) continue;
    const { ankle } = points;
    const { floor, ankleHeight, hx, hz, length } = layOut(points, sole, forward);
    let heelBack = 0.25 * length;
    // Without a joint at the ball the foot rolls off over its tip.
    let ballAhead = length;
    let tipAhead = points.tip ? (points.tip[0] - ankle[0]) * hx + (points.tip[2] - ankle[2]) * hz : ballAhead + 0.35 * length;
    const mesh = standing.filePose ? footMesh(file, basis, skeleton, points.foot, standing) : [];
    if (mesh.length >= 8) {
      const low = mesh.filter((p) => p[1] < floor + 0.35 * ankleHeight + 1e-6);
      const along = low.map((p) => (p[0] - ankle[0]) * hx + (p[2] - ankle[2]) * hz);
      if (along.length > 3) {
        heelBack = Math.max(0, -Math.min(...along));
        tipAhead = Math.max(...along);
        if (!points.ball) ballAhead = tipAhead;
      }
    }
    out.push({ side, heelBack, ballAhead, tipAhead: Math.max(tipAhead, ballAhead) });
  }
  return out;
}

/** How a foot lies at rest: its floor, its heading over it, and its length from ankle to ball (or tip). */
function layOut({ ankle, ball, tip }: FootPoints, sole: Sole, forward: Float64Array) {
  // Each foot's own sole: one of them may be lifted at rest.
  const floor = Math.min(ankle[1], ball?.[1] ?? Infinity, tip?.[1] ?? Infinity) - sole.depth;
  const ankleHeight = ankle[1] - floor;
  const end = ball ?? tip;
  const hx = end ? end[0] - ankle[0] : 0;
  const hz = end ? end[2] - ankle[2] : 0;
  const length = Math.sqrt(hx * hx + hz * hz);
  if (length < 0.25 * Math.max(ankleHeight, 1e-6)) {
    // The foot shows no direction of its own: it points where the body faces.
    return { floor, ankleHeight, hx: forward[0], hz: forward[2], length: ball ? 0.6 * ankleHeight : 1.2 * ankleHeight };
  }
  return { floor, ankleHeight, hx: hx / length, hz: hz / length, length };
}

/** The two feet with their probes, placed on the sole's plane under a rest pose. */
export function placeFeet(
  skeleton: Skeleton,
  rest: Pose,
  roles: RoleMap,
  sole: Sole,
  measures: readonly FootMeasure[],
  forward: Float64Array,
): Foot[] {
  const inFrame = (point: Float64Array, joint: number): Float64Array => {
    const p = point.slice();
    for (let c = 0; c < 3; c++) p[c] -= rest.positions[joint * 3 + c];
    unrotate(p, 0, rest.rotations, joint * 4, p, 0);
    return p;
  };
  const feet: Foot[] = [];
  for (const { side, heelBack, ballAhead, tipAhead } of measures) {
    const points = footPoints(skeleton, rest, roles, side);
    if (!points) continue;
    const { foot, toes, ankle } = points;
    const { floor, ankleHeight, hx, hz } = layOut(points, sole, forward);
    const probe = (ahead: number, joint: number): Float64Array =>
      inFrame(Float64Array.of(ankle[0] + hx * ahead, floor, ankle[2] + hz * ahead), joint);
    feet.push({
      side,
      foot,
      toes,
      heel: probe(-heelBack, foot),
      ball: probe(ballAhead, foot),
      tip: probe(tipAhead, toes >= 0 ? toes : foot),
      bend: toes >= 0 ? inFrame(points.ball!, foot) : new Float64Array(3),
      heading: Float64Array.of(hx, 0, hz),
      ankleHeight,
    });
  }
  return feet;
}
