import { ClipReader, clipToBasis, type Clip } from '../clip';
import type { MotionFile } from '../formats';
import { DEFAULT_SKELETON, type SkeletonChoices } from '../recipe';
import { makeBasis, type Pose, restPose, type Skeleton, toBasis, UP_AXES, type UpAxis, upVector } from '../skeleton';
import { applyTurns } from './turns';

/** A skeleton that is not labelled yet, laid out so that it can be looked at and labelled. */
export interface BareBody {
  readonly skeleton: Skeleton;
  readonly restPose: Pose;
  readonly clip: Clip | undefined;
  /** Largest reach from foot to top at rest. */
  readonly height: number;
}

/** Height that a body of unknown unit is shown at, metres. */
const SHOWN_HEIGHT = 1.7;

/**
 * Lays an unlabelled skeleton out: the axis along which it reaches farthest is taken for up, and its size for a person's,
 * unless a person has said otherwise. Only for looking at: a transfer needs labels.
 */
export function bareBody(file: MotionFile, clipIndex = 0, choices: SkeletonChoices = DEFAULT_SKELETON): BareBody {
  const own = file.clips[clipIndex] as Clip | undefined;
  const moving = own !== undefined && own.frames > 0 ? new ClipReader(file.skeleton, own).at(0).positions : undefined;
  const at = moving ?? restPose(file.skeleton).positions;
  const up = choices.up ?? farthest(at);
  const reach = extent(at, 'XYZ'.indexOf(up[1]));
  const metres = choices.unit ?? (reach > 1e-9 ? SHOWN_HEIGHT / reach : 1);
  const basis = makeBasis(metres, up);
  const skeleton = toBasis(file.skeleton, basis);
  const pose = restPose(skeleton);
  applyTurns(pose, skeleton, new Map(), choices.turns, { left: Float64Array.of(1, 0, 0), forward: Float64Array.of(0, 0, 1) });
  return {
    skeleton,
    restPose: pose,
    clip: own && own.frames > 0 ? clipToBasis(file.skeleton, own, basis) : undefined,
    height: Math.max(extent(pose.positions, 1), 1e-3),
  };
}

/** How far points reach along an axis. */
export function extent(p: ArrayLike<number>, axis: number): number {
  let low = Infinity;
  let high = -Infinity;
  for (let i = axis; i < p.length; i += 3) {
    low = Math.min(low, p[i]);
    high = Math.max(high, p[i]);
  }
  return high - low;
}

/** The axis of the largest reach, pointing from where the root is not: bodies have their root below the middle. */
function farthest(p: ArrayLike<number>): UpAxis {
  const ways = [0, 1, 2].map((axis) => extent(p, axis));
  // Arms held out reach as far as a body is high: the level axis of a spread body is X in most files.
  const axis = ways[1] >= 0.7 * Math.max(...ways) ? 1 : ways[2] > ways[0] * 0.7 ? 2 : 0;
  return UP_AXES.find((up) => upVector(up)[axis] === 1) ?? '+Y';
}
