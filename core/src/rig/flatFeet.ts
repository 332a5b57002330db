import { ClipReader, type Clip } from '../clip';
import { SIDES, type RoleMap } from '../label';
import { percentile } from '../math/filter';
import { fromAxisAngle, rotate } from '../math/quat';
import { asin, DEG } from '../math/trig';
import { type Pose, type Skeleton, turnBelow } from '../skeleton';

/** Frames looked at, spread over the take. */
const SAMPLES = 800;
/** A foot counts as standing below this speed, leg lengths a second, with its ankle this near to its lowest. */
const SLOW = 0.15;
const LOW = 0.025;
/** Fewer standing frames than this say nothing. */
const ENOUGH = 12;
/** Pitches that differ from rest by less than this are left alone; by more than that, disbelieved. */
const CLEAR = 10 * DEG;
const MOST = 50 * DEG;

/**
 * Makes the feet of a performer's rest pose stand as they stand in the take. Many files draw feet level, or pointing down,
 * in a rest pose that the performer never took; measured from it, a flat foot would look tilted in every frame. The pitch
 * of foot and toes in the frames in which the ankle is low and still is what flat means, and the rest pose is turned to it.
 * @param pose rest pose, upright, metres; changed in place
 * @param clip metres, Y up
 * @param leg leg length, metres
 * @returns degrees by which each foot was turned, toes up positive
 */
export function standFeetFlat(pose: Pose, skeleton: Skeleton, clip: Clip, roles: RoleMap, leg: number): number[] {
  return SIDES.map((side) => {
    const foot = roles.get(`${side}.foot`);
    const toes = roles.get(`${side}.toes`);
    if (foot === undefined || toes === undefined || clip.frames < ENOUGH) return 0;
    const frames = standingFrames(skeleton, clip, foot, leg);
    if (frames.length < ENOUGH) return 0;
    const reader = new ClipReader(skeleton, clip);
    const footPitch = new Float64Array(frames.length);
    const toesPitch = new Float64Array(frames.length);
    frames.forEach((f, i) => {
      const at = reader.at(f);
      footPitch[i] = elevation(at.positions, foot, toes);
      toesPitch[i] = tipElevation(at, skeleton, toes);
    });
    const turn = percentile(footPitch, 0.5) - elevation(pose.positions, foot, toes);
    if (!(Math.abs(turn) > CLEAR) || Math.abs(turn) > MOST) return 0;
    pitch(pose, skeleton, foot, toes, turn);
    const rest = tipElevation(pose, skeleton, toes);
    const more = percentile(toesPitch, 0.5) - rest;
    if (Number.isFinite(more) && Math.abs(more) < MOST) pitchToes(pose, skeleton, foot, toes, more);
    return turn / DEG;
  });
}

/** Frames, of a spread sample, in which an ankle is near its lowest and hardly moves. */
function standingFrames(skeleton: Skeleton, clip: Clip, foot: number, leg: number): number[] {
  const reader = new ClipReader(skeleton, clip);
  const step = Math.max(1, Math.floor(clip.frames / SAMPLES));
  const slow: { frame: number; height: number }[] = [];
  for (let f = 0; f + 1 < clip.frames; f += step) {
    const [x, y, z] = reader.at(f).positions.slice(foot * 3, foot * 3 + 3);
    const next = reader.at(f + 1).positions;
    const moved = Math.sqrt((next[foot * 3] - x) ** 2 + (next[foot * 3 + 1] - y) ** 2 + (next[foot * 3 + 2] - z) ** 2);
    if (moved / clip.frameTime < SLOW * leg) slow.push({ frame: f, height: y });
  }
  if (slow.length === 0) return [];
  const lowest = percentile(
    slow.map((s) => s.height),
    0.1,
  );
  return slow.filter((s) => Math.abs(s.height - lowest) < LOW * leg).map((s) => s.frame);
}

/** How far the way from one joint to another rises, radians. */
function elevation(p: Float64Array, from: number, to: number): number {
  const x = p[to * 3] - p[from * 3];
  const y = p[to * 3 + 1] - p[from * 3 + 1];
  const z = p[to * 3 + 2] - p[from * 3 + 2];
  const n = Math.sqrt(x * x + y * y + z * z);
  return n > 1e-9 ? asin(y / n) : 0;
}

/** How far the toes' bone rises; NaN where they have no tip. */
function tipElevation(pose: Pose, skeleton: Skeleton, toes: number): number {
  const tip = new Float64Array(3);
  rotate(tip, 0, pose.rotations, toes * 4, skeleton.tips, toes * 3);
  const n = Math.sqrt(tip[0] * tip[0] + tip[1] * tip[1] + tip[2] * tip[2]);
  return asin(tip[1] / n);
}

const turn = new Float64Array(4);

/** The turn about the foot's own level axis that raises its toes by an angle. */
function pitchTurn(pose: Pose, foot: number, toes: number, angle: number): void {
  const x = pose.positions[toes * 3] - pose.positions[foot * 3];
  const z = pose.positions[toes * 3 + 2] - pose.positions[foot * 3 + 2];
  const n = Math.sqrt(x * x + z * z) || 1;
  fromAxisAngle(turn, 0, -z / n, 0, x / n, angle);
}

/** Turns a foot, and all that hangs on it, about the ankle. */
function pitch(pose: Pose, skeleton: Skeleton, foot: number, toes: number, angle: number): void {
  pitchTurn(pose, foot, toes, angle);
  turnBelow(pose, skeleton, foot, turn);
}

function pitchToes(pose: Pose, skeleton: Skeleton, foot: number, toes: number, angle: number): void {
  pitchTurn(pose, foot, toes, angle);
  turnBelow(pose, skeleton, toes, turn);
}
