import { ClipReader, type Clip } from '../clip/clip';
import { fail, type Fault } from '../errors';
import type { MotionFile } from '../formats/motionFile';
import { assignRoles } from '../label/assign';
import { labelSkeleton, type Labels } from '../label/label';
import { SIDES, type RoleMap } from '../label/roles';
import { cross, distance, normalize, vec } from '../math/vec';
import { atan2, cos, DEG, sin } from '../math/trig';
import { mul, rotate } from '../math/quat';
import { DEFAULT_SKELETON, type SkeletonChoices } from '../recipe/choices';
import { clipToBasis, makeBasis, toBasis, type Basis, type UpAxis } from '../skeleton/basis';
import { restPose, type Pose } from '../skeleton/pose';
import { commonPrefix, type Skeleton } from '../skeleton/skeleton';
import { findFeet, findSole, lowestFootPoint, type Foot, type Sole, type Standing } from './feet';
import { CLEAN, chooseRest, scoreRest, type RestChoice } from './restDetector';
import { standFeetFlat } from './flatFeet';
import { applyTurns, copyPose } from './turns';
import { guessUnit, nameUnit, type UnitGuess } from './unit';
import { guessUp } from './upAxis';

/** A performer or character made ready: labelled, in metres, Y up, with its rest pose and feet known. */
export interface Body {
  readonly file: MotionFile;
  readonly labels: Labels;
  readonly roles: RoleMap;
  readonly unit: UnitGuess;
  readonly up: UpAxis;
  readonly upReason: string;
  readonly basis: Basis;
  readonly prefix: string;
  /** In metres, Y up. */
  readonly skeleton: Skeleton;
  readonly rest: Omit<RestChoice, 'pose'>;
  readonly isRestClean: boolean;
  /** World rest pose in metres, upright. */
  readonly restPose: Pose;
  /** The same before it was turned by hand. */
  readonly basePose: Pose;
  /** Heading of the rest pose: radians from +Z towards +X. */
  readonly facing: number;
  /** Unit vectors of the rest pose: to the body's left, and ahead; both level. */
  readonly left: Float64Array;
  readonly forward: Float64Array;
  /** Hip joint to ankle along the bones plus the ankle's height over the sole, mean of both sides. */
  readonly legLength: number;
  /** Mid of the hip joints above the lowest point of the feet's joints, at rest. */
  readonly hipHeight: number;
  readonly sole: Sole;
  readonly feet: readonly Foot[];
  readonly warnings: readonly Fault[];
}

const POSES = 5;

/**
 * Makes a file's skeleton ready for transfer.
 * @param clipIndex which of the file's clips speaks for rest pose and up axis, 0 by default
 * @param choices what a person decided in place of the guesses
 * @param labels when they are known already
 * @throws FaultError label/not-two-legged; label/missing when required roles are missing
 */
export function prepareBody(
  file: MotionFile,
  clipIndex = 0,
  choices: SkeletonChoices = DEFAULT_SKELETON,
  labels = labelFile(file, clipIndex, choices),
): Body {
  if (labels.missing.length > 0) {
    fail('label/missing', `no joint was found for: ${labels.missing.join(', ')}. A transfer needs all of them`, { file: file.name });
  }
  return bodyFrom(file, labels, file.clips[clipIndex], choices);
}

/**
 * Labels a file's skeleton: as a person decided, as the file's own body map says, or by names and structure, looking at its
 * rest pose and at a few frames of a clip.
 */
export function labelFile(file: MotionFile, clipIndex = 0, { labels }: Pick<SkeletonChoices, 'labels'> = DEFAULT_SKELETON): Labels {
  if (labels) return assignRoles(file.skeleton, labels, 'label');
  if (file.bodyMap) {
    const mapped = assignRoles(file.skeleton, file.bodyMap, 'body map');
    if (mapped.missing.length === 0) return mapped;
  }
  return labelSkeleton(file.skeleton, samplePoses(file, clipIndex));
}

/** World positions of the rest pose and of a few frames of a clip: what labels are told from. */
export function samplePoses(file: MotionFile, clipIndex = 0): Float64Array[] {
  const clip = file.clips[clipIndex] as Clip | undefined;
  const poses = [restPose(file.skeleton).positions];
  if (clip !== undefined && clip.frames > 0) {
    const reader = new ClipReader(file.skeleton, clip);
    for (let i = 0; i < POSES; i++) {
      poses.push(reader.at(Math.floor((i * (clip.frames - 1)) / (POSES - 1))).positions.slice());
    }
  }
  return poses;
}

function bodyFrom(file: MotionFile, labels: Labels, clip: Clip | undefined, choices: SkeletonChoices): Body {
  const { roles } = labels;
  const role = (name: string): number => roles.get(name)!;
  const chosen = chooseRest(file.skeleton, clip, roles, choices.rest);
  const guessed = guessUp(file.skeleton, clip, chosen.pose.positions, roles);
  const { up, reason: upReason } = choices.up === null ? guessed : { up: choices.up, reason: 'set by hand' };
  const p = chosen.pose.positions;
  const legs = SIDES.map((side) => legChain(roles, side));
  const rawLeg = legs.reduce((sum, joints) => sum + chainLength(p, joints), 0) / 2;
  const unit = choices.unit === null ? guessUnit(rawLeg * 1.1, file.layout.format === 'glb', file.unitHint) : nameUnit(choices.unit);
  const basis = makeBasis(unit.metres, up);
  const skeleton = toBasis(file.skeleton, basis);
  const pose = uprightPose(chosen, basis, choices.up === null ? clip : undefined, file, roles);

  const { left, forward } = headingOf(pose, roles, choices.facing);
  const legJoints = legs.reduce((sum, joints) => sum + chainLength(pose.positions, joints), 0) / 2;
  const restIsFile = chosen.source === 'file';
  const take = clip !== undefined && clip.frames > 1 ? clipToBasis(file.skeleton, clip, basis) : undefined;
  const filePose = restIsFile ? pose : undefined;
  // A mesh shows how the feet stand; without one the take does.
  const turned = restIsFile && take !== undefined && file.skin === undefined ? standFeetFlat(pose, skeleton, take, roles, legJoints) : [];
  const rest = Object.keys(choices.turns).length > 0 ? copyPose(pose) : pose;
  if (rest !== pose) applyTurns(rest, skeleton, roles, choices.turns, { left, forward });
  const standing: Standing = { rest, filePose };
  const sole = findSole(file, basis, skeleton, standing, roles, legJoints * 1.1, footHeights(skeleton, take, roles));
  const feet = findFeet(file, basis, skeleton, standing, roles, sole, forward);
  const ankle = feet.reduce((sum, foot) => sum + foot.ankleHeight, 0) / Math.max(1, feet.length);
  const hips = (rest.positions[role('left.upperLeg') * 3 + 1] + rest.positions[role('right.upperLeg') * 3 + 1]) / 2;
  const edits = Object.keys(choices.turns).length;
  return {
    file,
    labels,
    roles,
    unit,
    up,
    upReason,
    basis,
    skeleton,
    prefix: commonPrefix(file.skeleton.names),
    rest: {
      source: chosen.source,
      frame: chosen.frame,
      score: edits > 0 ? scoreRest(rest.positions, roles) : chosen.score,
      reason: chosen.reason + feetReason(turned) + (edits > 0 ? `; ${edits} turned by hand` : ''),
    },
    isRestClean: (edits > 0 ? scoreRest(rest.positions, roles) : chosen.score) >= CLEAN,
    restPose: rest,
    basePose: pose,
    facing: atan2(forward[0], forward[2]),
    left,
    forward,
    legLength: legJoints + ankle,
    hipHeight: hips - lowestFootPoint(skeleton, rest, roles),
    sole,
    feet,
    // A pairing shows the cautions of two files side by side: each says whose it is.
    warnings: [...file.warnings, ...labels.warnings].map((fault) => ({ ...fault, where: { file: file.name, ...fault.where } })),
  };
}

/** The body's left and the way ahead, both level, from its hip joints or as set by hand (degrees from +Z towards +X). */
function headingOf(pose: Pose, roles: RoleMap, facing: number | null): { left: Float64Array; forward: Float64Array } {
  const left = vec();
  if (facing === null) {
    const [l, r] = SIDES.map((side) => roles.get(`${side}.upperLeg`)! * 3);
    for (let c = 0; c < 3; c++) left[c] = pose.positions[l + c] - pose.positions[r + c];
    left[1] = 0;
    if (normalize(left, 0) < 1e-9) left[0] = 1;
  } else {
    left[0] = cos(facing * DEG);
    left[2] = -sin(facing * DEG);
  }
  const forward = vec();
  cross(forward, 0, left, 0, vec(0, 1, 0), 0);
  return { left, forward };
}

/** Joints of a leg from hip to ankle. */
export function legChain(roles: RoleMap, side: string): number[] {
  return ['upperLeg', 'lowerLeg', 'hock', 'foot'].map((part) => roles.get(`${side}.${part}`)).filter((j) => j !== undefined);
}

function chainLength(p: Float64Array, joints: readonly number[]): number {
  let sum = 0;
  for (let i = 1; i < joints.length; i++) sum += distance(p, joints[i - 1] * 3, p, joints[i] * 3);
  return sum;
}

/** The chosen rest pose in metres, standing upright: a file whose rest lies along another axis than its motion is turned. */
function uprightPose(chosen: RestChoice, basis: Basis, clip: Clip | undefined, file: MotionFile, roles: RoleMap): Pose {
  let { turn } = basis;
  if (chosen.source === 'file' && clip !== undefined) {
    const own = guessUp(file.skeleton, undefined, chosen.pose.positions, roles);
    if (own.up !== basis.up && !own.reason.includes('no clear')) turn = makeBasis(1, own.up).turn;
  }
  const positions = chosen.pose.positions.slice();
  const rotations = chosen.pose.rotations.slice();
  for (let j = 0; j < positions.length / 3; j++) {
    for (let c = 0; c < 3; c++) positions[j * 3 + c] *= basis.metres;
    rotate(positions, j * 3, turn, 0, positions, j * 3);
    mul(rotations, j * 4, turn, 0, rotations, j * 4);
  }
  return { positions, rotations };
}

const HEIGHT_SAMPLES = 400;

/** Lowest foot joint in a sample of the take's frames, in metres. */
function footHeights(skeleton: Skeleton, take: Clip | undefined, roles: RoleMap): Float64Array {
  if (take === undefined) return new Float64Array(0);
  const reader = new ClipReader(skeleton, take);
  const step = Math.max(1, Math.floor(take.frames / HEIGHT_SAMPLES));
  return Float64Array.from({ length: Math.ceil(take.frames / step) }, (_, i) => lowestFootPoint(skeleton, reader.at(i * step), roles));
}

/** Says that the feet of a rest pose were turned to stand flat; '' when they were not. */
function feetReason(turned: readonly number[]): string {
  const most = turned.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a), 0);
  return most === 0 ? '' : `; its feet, turned by ${most.toFixed(0)}°, stand as in the take`;
}

/** A clip of the body's file in metres, Y up. */
export function clipOf(body: Body, clipIndex = 0): Clip {
  const clip = body.file.clips[clipIndex] as Clip | undefined;
  if (clip === undefined || clip.frames === 0) fail('clip/none', 'the file holds no motion', { file: body.file.name });
  return clipToBasis(body.file.skeleton, clip, body.basis);
}
