import { ClipReader, type Clip } from '../clip';
import { SIDES, type RoleMap, type Side } from '../label';
import { percentile } from '../math/filter';
import { fromAxisAngle, rotate } from '../math/quat';
import { planeThrough } from '../math/plane';
import { asin, atan2, DEG } from '../math/trig';
import { distance } from '../math/vec';
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
/** A pitch this near to how the floor rises under the foot's stances is the floor's. */
const FLOORS = 4 * DEG;
/** How far off along the floor a stance may be, and how far a sloping floor goes up at least, in leg lengths. */
const UNSURE = 0.03;
const RISES = 0.15;

/**
 * Makes the feet of a performer's rest pose stand as they stand in the take. Many files draw feet level, or pointing down,
 * in a rest pose that the performer never took; measured from it, a flat foot would look tilted in every frame. The pitch
 * of foot and toes in the frames in which the ankle is low and still is what flat means, and the rest pose is turned to it. A foot
 * that is pitched as the floor rises under it stands flat on a slope, and is left.
 * @param pose rest pose, upright, metres; changed in place
 * @param clip metres, Y up
 * @param leg leg length, metres
 * @returns degrees by which each foot was turned, toes up positive
 */
export function standFeetFlat(pose: Pose, skeleton: Skeleton, clip: Clip, roles: RoleMap, leg: number): number[] {
  const feet = SIDES.map((side) => pitchOf(pose, skeleton, clip, roles, side, leg));
  const seen = feet.filter((foot) => foot !== undefined);
  // How a file draws its feet it draws both; one that stands on its ball alone is how the performer stood.
  const isDrawn = seen.every(({ turn }) => Math.abs(turn) > CLEAR && Math.sign(turn) === Math.sign(seen[0].turn));
  return feet.map((one) => {
    if (one === undefined || !isDrawn || one.isSloped) return 0;
    const { foot, toes, turn, toesPitch } = one;
    pitch(pose, skeleton, foot, toes, turn);
    const rest = tipElevation(pose, skeleton, toes);
    const more = toesPitch - rest;
    if (Number.isFinite(more) && Math.abs(more) < MOST) pitchToes(pose, skeleton, foot, toes, more);
    return turn / DEG;
  });
}

interface FootPitch {
  readonly foot: number;
  readonly toes: number;
  /** By how much the foot stands otherwise than at rest, radians, toes up positive. */
  readonly turn: number;
  /** How far the toes rise where it stands, radians. */
  readonly toesPitch: number;
  /** It is pitched as the floor rises. */
  readonly isSloped: boolean;
}

/** How a foot stands in the take; undefined where it hardly does, or not as any foot would. */
function pitchOf(pose: Pose, skeleton: Skeleton, clip: Clip, roles: RoleMap, side: Side, leg: number): FootPitch | undefined {
  const foot = roles.get(`${side}.foot`);
  const toes = roles.get(`${side}.toes`);
  if (foot === undefined || toes === undefined || clip.frames < ENOUGH) return undefined;
  const slow = slowFrames(skeleton, clip, foot, leg);
  const frames = lowestOf(slow, leg);
  if (frames.length < ENOUGH) return undefined;
  const reader = new ClipReader(skeleton, clip);
  const footPitch = new Float64Array(frames.length);
  const toesPitch = new Float64Array(frames.length);
  frames.forEach((f, i) => {
    const at = reader.at(f);
    footPitch[i] = elevation(at.positions, foot, toes);
    toesPitch[i] = tipElevation(at, skeleton, toes);
  });
  const turn = percentile(footPitch, 0.5) - elevation(pose.positions, foot, toes);
  if (!(Math.abs(turn) <= MOST)) return undefined;
  const isSloped = Math.abs(turn - riseUnder(slow, reader, foot, toes, leg)) < FLOORS;
  return { foot, toes, turn, toesPitch: percentile(toesPitch, 0.5), isSloped };
}

/** A frame in which an ankle hardly moves, and where it is. */
interface Slow {
  readonly frame: number;
  readonly place: Float64Array;
}

/** Frames, of a spread sample, in which an ankle hardly moves. */
function slowFrames(skeleton: Skeleton, clip: Clip, foot: number, leg: number): Slow[] {
  const reader = new ClipReader(skeleton, clip);
  const step = Math.max(1, Math.floor(clip.frames / SAMPLES));
  const slow: Slow[] = [];
  for (let f = 0; f + 1 < clip.frames; f += step) {
    const place = reader.at(f).positions.slice(foot * 3, foot * 3 + 3);
    if (distance(place, 0, reader.at(f + 1).positions, foot * 3) / clip.frameTime < SLOW * leg) slow.push({ frame: f, place });
  }
  return slow;
}

/** Those in which the ankle is near its lowest. */
function lowestOf(slow: readonly Slow[], leg: number): number[] {
  const lowest = percentile(
    slow.map(({ place }) => place[1]),
    0.1,
  );
  return slow.filter(({ place }) => Math.abs(place[1] - lowest) < LOW * leg).map(({ frame }) => frame);
}

/** How far the floor rises along a foot, radians, by the places that its ankle stands at; 0 for what is not known to slope. */
function riseUnder(slow: readonly Slow[], reader: ClipReader, foot: number, toes: number, leg: number): number {
  const heights = slow.map(({ place }) => place[1]);
  if (Math.max(...heights) - Math.min(...heights) < RISES * leg) return 0;
  const { x, z } = planeThrough(
    slow.map(({ place }) => place),
    UNSURE * leg,
  );
  const rises = slow.map(({ frame }) => {
    const p = reader.at(frame).positions;
    const dx = p[toes * 3] - p[foot * 3];
    const dz = p[toes * 3 + 2] - p[foot * 3 + 2];
    const way = Math.sqrt(dx * dx + dz * dz) || 1;
    return atan2((x * dx + z * dz) / way, 1);
  });
  return percentile(rises, 0.5);
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
