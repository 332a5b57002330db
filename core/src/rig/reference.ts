import { ClipReader, clipToBasis, type Clip } from '../clip';
import type { MotionFile } from '../formats';
import { SIDES, type Labels, type RoleMap } from '../label';
import { invMul, mul, rotate } from '../math/quat';
import type { Reference, SkeletonChoices } from '../recipe';
import { emptyPose, forward, jointKeys, makeBasis, restPose, toBasis, type Basis, type Pose, type Skeleton } from '../skeleton';
import { measureFeet, findSole, lowestFootPoint, type Standing } from './feet';
import { standFeetFlat } from './flatFeet';
import { headingOf } from './heading';
import { labelFile } from './labelled';
import { chainLength, legChain } from './legs';
import { chooseRest, type RestChoice } from './restDetector';
import { guessUnit, nameUnit } from './unit';
import { guessUp, type UpGuess } from './upAxis';

/**
 * Measures a skeleton on one of its files: unit, up axis, rest pose, soles and feet. All files of the skeleton are then made
 * ready by this one measure, so that two takes of one performer have the same rest and the same scale.
 * @param clipIndex the clip that speaks for rest pose, up axis and standing feet
 * @param choices what a person decided in place of the guesses
 */
export function measureReference(
  file: MotionFile,
  labels: Labels,
  clipIndex: number,
  choices: Pick<SkeletonChoices, 'unit' | 'up' | 'rest' | 'facing'>,
): Reference {
  const { roles } = labels;
  const clip = file.clips[clipIndex] as Clip | undefined;
  const chosen = chooseRest(file.skeleton, clip, roles, choices.rest);
  const { up, reason: upReason } = upOf(file, clipIndex, chosen, roles, choices.up);
  const rawLeg = meanLeg(chosen.pose.positions, roles);
  const unit = choices.unit === null ? guessUnit(rawLeg * 1.1, file.layout.format === 'glb', file.unitHint) : nameUnit(choices.unit);
  const basis = makeBasis(unit.metres, up);
  const skeleton = toBasis(file.skeleton, basis);
  const upright = uprightPose(chosen, basis, choices.up === null ? clip : undefined, file, roles);
  const leg = meanLeg(upright.positions, roles);
  const restIsFile = chosen.source === 'file';
  const take = clip !== undefined && clip.frames > 1 ? clipToBasis(file.skeleton, clip, basis) : undefined;
  const filePose = restIsFile ? upright : undefined;
  // A mesh shows how the feet stand; without one the take does.
  const turned = restIsFile && take !== undefined && file.skin === undefined ? standFeetFlat(upright, skeleton, take, roles, leg) : [];
  const standing: Standing = { rest: upright, filePose };
  const sole = findSole(file, basis, skeleton, standing, roles, leg * 1.1, footHeights(skeleton, take, roles));
  const { forward: ahead } = headingOf(upright, roles, choices.facing);
  return {
    name: file.name,
    unit: unit.unit,
    metres: unit.metres,
    unitReason: unit.reason,
    up,
    upReason,
    rest: {
      ...statePose(skeleton, upright),
      source: chosen.source,
      frame: chosen.frame ?? null,
      score: chosen.score,
      reason: reasonOf(chosen, turned),
    },
    sole,
    feet: measureFeet(file, basis, skeleton, standing, roles, sole, ahead),
  };
}

/**
 * Which axis of the file points up: as a person says, or as the body stands. glTF says +Y, and files stray from it: there the labels that
 * are found count, as a correction of the labels by hand must not lay the file on its side.
 */
function upOf(file: MotionFile, clip: number, { pose }: RestChoice, roles: RoleMap, byHand: SkeletonChoices['up']): UpGuess {
  if (byHand !== null) return { up: byHand, reason: 'set by hand' };
  const take = file.clips[clip] as Clip | undefined;
  if (file.layout.format !== 'glb') return guessUp(file.skeleton, take, pose.positions, roles);
  return guessUp(file.skeleton, take, restPose(file.skeleton).positions, labelFile(file, clip).roles);
}

/** The rest pose of a reference on a skeleton in metres, Y up: joints that it does not name keep the skeleton's own rest. */
export function referencePose(skeleton: Skeleton, { rest }: Reference): Pose {
  const rotations = skeleton.restR.slice();
  const translations = skeleton.restT.slice();
  jointKeys(skeleton).forEach((key, j) => {
    const own = rest.rotations[key] as readonly number[] | undefined;
    if (own) rotations.set(own, j * 4);
    const place = rest.places[key] as readonly number[] | undefined;
    if (place && skeleton.parents[j] < 0) translations.set(place, j * 3);
  });
  const pose = emptyPose(skeleton);
  forward(pose, skeleton.parents, translations, rotations);
  return pose;
}

/** A world pose as local rotations by joint key, and places of the roots. A zero has no sign in a file. */
export function statePose(skeleton: Skeleton, pose: Pose): Pick<Reference['rest'], 'rotations' | 'places'> {
  const rotations: Reference['rest']['rotations'] = {};
  const places: Reference['rest']['places'] = {};
  const q = new Float64Array(4);
  jointKeys(skeleton).forEach((key, j) => {
    const parent = skeleton.parents[j];
    if (parent < 0) {
      q.set(pose.rotations.subarray(j * 4, j * 4 + 4));
      places[key] = [pose.positions[j * 3] + 0, pose.positions[j * 3 + 1] + 0, pose.positions[j * 3 + 2] + 0];
    } else invMul(q, 0, pose.rotations, parent * 4, pose.rotations, j * 4);
    rotations[key] = [q[0] + 0, q[1] + 0, q[2] + 0, q[3] + 0];
  });
  return { rotations, places };
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

function meanLeg(positions: Float64Array, roles: RoleMap): number {
  return SIDES.reduce((sum, side) => sum + chainLength(positions, legChain(roles, side)), 0) / 2;
}

const HEIGHT_SAMPLES = 400;

/** Lowest foot joint in a sample of the take's frames, in metres. */
function footHeights(skeleton: Skeleton, take: Clip | undefined, roles: RoleMap): Float64Array {
  if (take === undefined) return new Float64Array(0);
  const reader = new ClipReader(skeleton, take);
  const step = Math.max(1, Math.floor(take.frames / HEIGHT_SAMPLES));
  return Float64Array.from({ length: Math.ceil(take.frames / step) }, (_, i) => lowestFootPoint(skeleton, reader.at(i * step), roles));
}

/** Why the rest pose is what it is, and that its feet were turned to stand flat where they were. */
function reasonOf(chosen: RestChoice, turned: readonly number[]): string {
  const most = turned.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a), 0);
  return chosen.reason + (most === 0 ? '' : `; its feet, turned by ${most.toFixed(0)}°, stand as in the take`);
}
