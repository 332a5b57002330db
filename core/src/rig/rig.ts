import { clipToBasis, type Clip } from '../clip';
import { fail, type Fault } from '../errors';
import type { MotionFile } from '../formats';
import { bodyJoints, SIDES, type Labels, type RoleMap } from '../label';
import { atan2 } from '../math/trig';
import { DEFAULT_SKELETON, type Reference, type SkeletonChoices } from '../recipe';
import { commonPrefix, lowestAbove, makeBasis, toBasis, type Basis, type Pose, type Skeleton, type UpAxis } from '../skeleton';
import { bulkOf, type Bulk } from './bulk';
import { placeFeet, lowestFootPoint, type Foot, type Sole } from './feet';
import { placeHands, type Hand } from './hands';
import { volumesOf, type Volume } from './volumes';
import { movePoints } from './handPoints';
import { headingOf } from './heading';
import { labelFile } from './labelled';
import { chainLength, legChain } from './legs';
import { measureReference, referencePose } from './reference';
import { CLEAN, scoreRest, type RestChoice } from './restDetector';
import { applyTurns, copyPose } from './turns';
import { hangingOf, type Hanging } from './hanging';
import { thicknessOf } from './thickness';
import type { UnitGuess } from './unit';

/**
 * A performer's or a character's skeleton made ready: labelled, in metres, Y up, with its rest pose and feet known. It belongs to
 * the skeleton, not to a file: every file of the skeleton gives the same one by the same reference.
 */
export interface Rig {
  /** Name for people: the file that it was made of. */
  readonly name: string;
  /** In metres, Y up. */
  readonly skeleton: Skeleton;
  readonly labels: Labels;
  readonly roles: RoleMap;
  /** The joint above everything labelled: what carries the body. */
  readonly carrier: number;
  /** 1 for joints whose place the file can state over time. */
  readonly canMove: Uint8Array;
  readonly reference: Reference;
  readonly unit: UnitGuess;
  readonly up: UpAxis;
  readonly upReason: string;
  readonly basis: Basis;
  readonly prefix: string;
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
  readonly hands: readonly Hand[];
  /** How far knees, seat, back and head reach. */
  readonly bulk: readonly Bulk[];
  /** Half the thickness of the skin about each joint's bone, metres; 0 without a mesh. */
  readonly thickness: Float64Array;
  /** Chains that hang free of the limbs. */
  readonly hanging: readonly Hanging[];
  /** The room that trunk, head and thighs take; none without a mesh. */
  readonly volumes: readonly Volume[];
  readonly warnings: readonly Fault[];
}

/**
 * Makes a file's skeleton ready for transfer.
 * @param clipIndex which of the file's clips is measured where the choices bring no reference; 0 by default
 * @param choices what a person decided in place of the guesses, and the reference that the skeleton is measured by
 * @param labels when they are known already
 * @throws FaultError label/missing when required roles are missing; label/mistake when no joint carries
 * all that is labelled
 */
export function prepareRig(
  file: MotionFile,
  clipIndex = 0,
  choices: SkeletonChoices = DEFAULT_SKELETON,
  labels = labelFile(file, clipIndex, choices),
): Rig {
  const { roles } = labels;
  if (labels.missing.length > 0) {
    fail('label/missing', `no joint was found for: ${labels.missing.join(', ')}. A transfer needs all of them`, { file: file.name });
  }
  const carrier = lowestAbove(file.skeleton, bodyJoints(roles));
  if (carrier < 0) {
    fail('label/mistake', 'the labelled joints hang on different roots, so that no joint carries the body; label the joints of one tree', {
      file: file.name,
      joint: file.skeleton.names[roles.get('hips')!],
    });
  }
  const reference = choices.reference ?? measureReference(file, labels, clipIndex, choices);
  const basis = makeBasis(reference.metres, reference.up);
  const skeleton = toBasis(file.skeleton, basis);
  const basePose = referencePose(skeleton, reference);
  const { left, forward } = headingOf(basePose, roles, choices.facing);
  const edits = Object.keys(choices.turns).length;
  const rest = edits > 0 ? copyPose(basePose) : basePose;
  if (edits > 0) applyTurns(rest, skeleton, roles, choices.turns, { left, forward });
  const { sole } = reference;
  const found = {
    feet: placeFeet(skeleton, rest, roles, sole, reference.feet, forward),
    hands: placeHands(skeleton, rest, roles, file.skin, basis.metres),
  };
  const ankle = found.feet.reduce((sum, foot) => sum + foot.ankleHeight, 0) / Math.max(1, found.feet.length);
  const hips = SIDES.reduce((sum, side) => sum + rest.positions[roles.get(`${side}.upperLeg`)! * 3 + 1], 0) / 2;
  const legs = SIDES.reduce((sum, side) => sum + chainLength(basePose.positions, legChain(roles, side)), 0) / 2;
  const legLength = legs + ankle;
  const bulk = bulkOf(skeleton, roles, file.skin, basis.metres, legLength);
  const { points } = choices;
  const watched = points ? movePoints({ ...found, bulk }, points, rest, { left, forward }) : { ...found, bulk };
  const score = edits > 0 ? scoreRest(rest.positions, roles) : reference.rest.score;
  return {
    name: file.name,
    skeleton,
    labels,
    roles,
    carrier,
    canMove: movable(file),
    reference,
    unit: { unit: reference.unit, metres: reference.metres, reason: reference.unitReason },
    up: reference.up,
    upReason: reference.upReason,
    basis,
    prefix: commonPrefix(file.skeleton.names),
    rest: {
      source: reference.rest.source,
      frame: reference.rest.frame ?? undefined,
      score,
      reason: reference.rest.reason + (edits > 0 ? `; ${edits} turned by hand` : ''),
    },
    isRestClean: score >= CLEAN,
    restPose: rest,
    basePose,
    facing: atan2(forward[0], forward[2]),
    left,
    forward,
    legLength,
    hipHeight: hips - lowestFootPoint(skeleton, rest, roles),
    sole,
    ...watched,
    volumes: volumesOf(basePose, roles, file.skin, basis.metres, { left, forward }),
    hanging: hangingOf(skeleton, roles, carrier, file.skin, basis.metres),
    thickness: thicknessOf(skeleton, basePose, file.skin, basis.metres),
    // A pairing shows the cautions of two files side by side: each says whose it is.
    warnings: [...file.warnings, ...labels.warnings].map((fault) => ({ ...fault, where: { file: file.name, ...fault.where } })),
  };
}

/** Joints that can be given a place over time: any node of a GLB file, joints with three position channels of a BVH file. */
export function movable({ layout, skeleton }: MotionFile): Uint8Array {
  return Uint8Array.from(skeleton.parents, (_, j) =>
    layout.format === 'glb' || layout.channels[j].filter((code) => code < 3).length === 3 ? 1 : 0,
  );
}

/** A clip of a file in the rig's metres, Y up. @throws FaultError clip/none */
export function clipOf(file: MotionFile, { basis }: Pick<Rig, 'basis'>, clipIndex = 0): Clip {
  const clip = file.clips[clipIndex] as Clip | undefined;
  if (clip === undefined || clip.frames === 0) fail('clip/none', 'the file holds no motion', { file: file.name });
  return clipToBasis(file.skeleton, clip, basis);
}
