import { ClipReader, type Clip } from '../clip';
import { chain, shinEnd, SIDES, type RoleMap } from '../label';
import { copy, normalize } from '../math/quat';
import type { SavedRest, SkeletonChoices } from '../recipe';
import { emptyPose, forward, jointKeys, type Pose, restPose, type Skeleton } from '../skeleton';
import { acos, sin } from '../math/trig';

/** Where a skeleton's rest pose comes from and how clean it is. */
export interface RestChoice {
  readonly source: 'file' | 'frame' | 'kept';
  /** Frame of the clip from 0, when the source is a frame. */
  readonly frame: number | undefined;
  /** 0…1; from `CLEAN` up it is a clean rest pose. */
  readonly score: number;
  readonly reason: string;
  /** In file units and axes. */
  readonly pose: Pose;
}

/** Scores from here up count as a clean rest pose. */
export const CLEAN = 0.55;
/** Seconds at the start of a take in which a performer's rest pose is looked for first. */
const EARLY = 3;
const MAX_LOOKED_AT = 600;

const RAD = 180 / Math.PI;

/** The limb segments that make a rest pose, as joint indices. */
interface Frame {
  readonly hips: number;
  readonly top: number;
  readonly legs: readonly (readonly [number, number, number])[];
  readonly arms: readonly (readonly [number, number, number])[];
}

function frameOf(roles: RoleMap): Frame | undefined {
  const hips = roles.get('hips');
  const spine = chain(roles, 'spine');
  const neck = chain(roles, 'neck');
  const top = neck[0] ?? roles.get('head') ?? spine[spine.length - 1];
  const limb = (parts: readonly string[]) => SIDES.map((side) => parts.map((part) => roles.get(`${side}.${part}`)));
  const legs = limb(['upperLeg', 'lowerLeg', 'foot']);
  const arms = limb(['upperArm', 'lowerArm', 'hand']);
  if (hips === undefined || top === undefined || [...legs, ...arms].flat().includes(undefined)) return undefined;
  return { hips, top, legs: legs as [number, number, number][], arms: arms as [number, number, number][] };
}

/**
 * How clean a rest pose is, 0…1, from directions within the body only, so that unit and up axis do not matter:
 * legs straight and along the trunk, arms straight, level or in an A, to the sides and alike left and right.
 */
export function scoreRest(p: Float64Array, roles: RoleMap): number {
  const frame = frameOf(roles);
  if (!frame) return 0;
  const up = direction(p, frame.hips, frame.top);
  const across = direction(p, frame.legs[1][0], frame.legs[0][0]);
  let score = 1;
  const need = (degrees: number, good: number, bad: number): void => {
    score *= degrees <= good ? 1 : Math.max(0.02, 1 - (degrees - good) / (bad - good));
  };
  for (const [hip, knee, ankle] of frame.legs) {
    const thigh = direction(p, hip, knee);
    const shin = direction(p, knee, ankle);
    // A leg of more than two bones bends by nature, at rest too.
    if (shinEnd(roles, 'left') === 'foot') need(angle(thigh, shin), 12, 50);
    need(180 - angle(direction(p, hip, ankle), up), 25, 60);
  }
  const lifts: number[] = [];
  frame.arms.forEach(([shoulder, elbow, wrist], side) => {
    const upper = direction(p, shoulder, elbow);
    need(angle(upper, direction(p, elbow, wrist)), 20, 70);
    const lift = 180 - angle(upper, up);
    lifts.push(lift);
    // Hanging arms are a rest pose of a kind, but one that says least about how the arm is turned.
    if (lift < 20) score *= 0.75;
    need(lift, 105, 140);
    const outward = (side === 0 ? 1 : -1) * dot(upper, across);
    const expected = sin(Math.min(lift, 90) / RAD);
    if (lift > 15) need(acos(Math.min(1, Math.max(-1, outward / Math.max(0.2, expected)))) * RAD, 35, 80);
  });
  need(Math.abs(lifts[0] - lifts[1]), 12, 45);
  return score;
}

/** A kept rest pose on this skeleton: local rotations by joint name; joints it does not name keep the file's. */
function keptPose(skeleton: Skeleton, kept: SavedRest): Pose {
  const rotations = skeleton.restR.slice();
  jointKeys(skeleton).forEach((name, j) => {
    const own = kept.rotations[name];
    if (!own) return;
    copy(rotations, j * 4, own, 0);
    normalize(rotations, j * 4);
  });
  const pose = emptyPose(skeleton);
  forward(pose, skeleton.parents, skeleton.restT, rotations);
  return pose;
}

/** A pose given by local rotations as a rest pose that can be kept; numbers rounded to what a file needs. */
export function keepPose(skeleton: Skeleton, name: string, rotations: ArrayLike<number>, offset = 0): SavedRest {
  const out: SavedRest['rotations'] = {};
  const digits = (j: number, c: number): number => Math.round(rotations[offset + j * 4 + c] * 1e7) / 1e7;
  jointKeys(skeleton).forEach((joint, j) => (out[joint] = [digits(j, 0), digits(j, 1), digits(j, 2), digits(j, 3)]));
  return { name, rotations: out };
}

/**
 * Chooses the rest pose: the file's own where it is clean, else the best early frame of the take, else the best frame
 * anywhere in it, else the file's own again with a low score.
 * @param choice `auto` for that; `file` for the file's own however it is; or a pose that was kept
 */
export function chooseRest(
  skeleton: Skeleton,
  clip: Clip | undefined,
  roles: RoleMap,
  choice: SkeletonChoices['rest'] = 'auto',
): RestChoice {
  if (typeof choice === 'object') {
    const pose = keptPose(skeleton, choice);
    return { source: 'kept', frame: undefined, score: scoreRest(pose.positions, roles), reason: `the rest pose "${choice.name}"`, pose };
  }
  const own = restPose(skeleton);
  const ownScore = scoreRest(own.positions, roles);
  const file: RestChoice = {
    source: 'file',
    frame: undefined,
    score: ownScore,
    reason: ownScore >= CLEAN ? "the file's own rest pose is clean" : "the file's own rest pose is not clean",
    pose: own,
  };
  if (choice === 'file' || ownScore >= CLEAN || clip === undefined || clip.frames === 0) return file;
  const early = Math.min(clip.frames, Math.max(1, Math.ceil(EARLY / clip.frameTime)));
  let best = bestFrame(skeleton, clip, roles, 0, early);
  if (best.score < CLEAN && early < clip.frames) {
    const later = bestFrame(skeleton, clip, roles, early, clip.frames);
    if (later.score > best.score) best = later;
  }
  if (best.score <= ownScore) return file;
  const pose = new ClipReader(skeleton, clip).at(best.frame);
  return {
    source: 'frame',
    frame: best.frame,
    score: best.score,
    reason:
      best.score >= CLEAN
        ? `the file's own rest pose is not clean; frame ${best.frame + 1} of the take is`
        : `neither the file nor any frame has a clean rest pose; frame ${best.frame + 1} comes nearest`,
    pose,
  };
}

function bestFrame(skeleton: Skeleton, clip: Clip, roles: RoleMap, from: number, to: number): { frame: number; score: number } {
  const reader = new ClipReader(skeleton, clip);
  const step = Math.max(1, Math.floor((to - from) / MAX_LOOKED_AT));
  let best = { frame: from, score: -1 };
  for (let f = from; f < to; f += step) {
    const score = scoreRest(reader.at(f).positions, roles);
    // An earlier frame is kept unless a later one is clearly better: rest poses stand at the start.
    if (score > best.score + 0.02) best = { frame: f, score };
  }
  return best;
}

type V = readonly [number, number, number];

function direction(p: Float64Array, from: number, to: number): V {
  const x = p[to * 3] - p[from * 3];
  const y = p[to * 3 + 1] - p[from * 3 + 1];
  const z = p[to * 3 + 2] - p[from * 3 + 2];
  const n = Math.sqrt(x * x + y * y + z * z) || 1;
  return [x / n, y / n, z / n];
}

function dot(a: V, b: V): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

function angle(a: V, b: V): number {
  return acos(Math.min(1, Math.max(-1, dot(a, b)))) * RAD;
}
