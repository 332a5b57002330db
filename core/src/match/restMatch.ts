import type { Role } from '../label';
import { copy, fromAxisAngle, invMul } from '../math/quat';
import type { PairingSettings } from '../recipe';
import { applyTurns, unlikeLegs, type Rig } from '../rig';
import { emptyPose, forward, type Pose } from '../skeleton';
import type { SameBody } from './likeness';
import { residualsOf, type Residual } from './residuals';
import { segmentEnds } from './segments';
import { carryByParent, keepInWorld, turnFootHeading, turnToPerformer, type Turning } from './toPerformer';

/** The character's rest pose turned so that it stands as the performer's does. */
export interface RestMatch {
  /** World pose of the character in the matched rest. */
  readonly pose: Pose;
  /** Local rotations of it. */
  readonly rotations: Float64Array;
  /** Local rotations of joints that nothing drives: their own rest, with what was turned by hand. */
  readonly undriven: Float64Array;
  readonly residuals: readonly Residual[];
  /** For people: how trunk, head, clavicles and feet were treated. */
  readonly method: 'same body' | 'own trunk' | 'directions' | 'joint by joint';
}

export type RestMatchSettings = Pick<PairingSettings, 'clavicles' | 'head' | 'palms' | 'thumbs' | 'turns'>;

const PALM = /\.hand$/;
const THUMB = /\.thumb\.\d$/;

/**
 * Brings the character's rest pose to the performer's.
 *
 * Limb segments are turned by the smallest rotation onto the performer's directions, chain root to tip, then about
 * their own axis where a bend or the palm shows the plane. Differences in the trunk, the head, the clavicles and the
 * pitch of the feet between two unlike bodies in clean rest poses is shape, not pose, so it is kept and only turned to
 * the performer's heading. Between two skeletons of the same body every difference is pose, and all is turned.
 */
export function matchRest(performer: Rig, character: Rig, same: SameBody, settings: RestMatchSettings): RestMatch {
  const { skeleton, roles, restPose } = character;
  const method = same.same ? 'same body' : performer.isRestClean && character.isRestClean ? 'own trunk' : 'directions';
  const wholeLegs = unlikeLegs(performer, character);
  const heading = new Float64Array(4);
  fromAxisAngle(heading, 0, 0, 1, 0, performer.facing - character.facing);
  const turning: Turning = {
    performer,
    character,
    pose: emptyPose(skeleton),
    heading,
    isSame: same.same,
    ends: segmentEnds(character, wholeLegs),
    performerEnds: segmentEnds(performer, wholeLegs),
  };
  const { pose } = turning;
  const weightOf = (role: Role): number => (same.same ? 1 : shareOf(role, settings));
  const roleOf = new Map([...roles].map(([role, joint]) => [joint, role]));
  for (let j = 0; j < skeleton.names.length; j++) {
    carryByParent(turning, j);
    const role = roleOf.get(j);
    if (role === undefined || !performer.roles.has(role)) continue;
    turnJoint(turning, j, role, { weight: weightOf(role), keepsTrunk: method === 'own trunk', wholeLegs });
  }
  const rotations = skeleton.restR.slice();
  localRotations(rotations, pose, skeleton.parents);
  // The root's place: as the file has it, turned with the body.
  forward(pose, skeleton.parents, skeleton.restT.slice(), rotations);
  if (Object.keys(settings.turns).length > 0) {
    applyTurns(pose, skeleton, roles, settings.turns, performer);
    localRotations(rotations, pose, skeleton.parents);
  }

  const undriven = rotations.slice();
  for (const [role, j] of roles) {
    // A turn that the match added is for the performer to drive; without a link the joint keeps its rest.
    if (!performer.roles.has(role) || role in settings.turns || skeleton.parents[j] < 0) continue;
    invMul(undriven, j * 4, restPose.rotations, skeleton.parents[j] * 4, restPose.rotations, j * 4);
  }
  const residuals = residualsOf(turning, wholeLegs, settings.turns, (role) => weightOf(role) < 1);
  return { pose, rotations, undriven, residuals, method };
}

/** How a joint of an unlike body is brought to the performer's. */
interface Way {
  /** How far it is turned, 0 to 1. */
  readonly weight: number;
  /** The trunk keeps its own shape. */
  readonly keepsTrunk: boolean;
  readonly wholeLegs: boolean;
}

/** Turns a joint, standing as its parent carries it, to the performer's rest as far as it is to go there. */
function turnJoint(turning: Turning, joint: number, role: Role, { weight, keepsTrunk, wholeLegs }: Way): void {
  // Palms and thumbs keep their rest on what carries them, all else in the world.
  const keep = (): void => (PALM.test(role) || THUMB.test(role) ? carryByParent(turning, joint) : keepInWorld(turning, joint));
  if ((keepsTrunk && /^(hips|spine|neck)/.test(role)) || weight === 0) keep();
  else if (!turning.isSame && role.endsWith('.foot')) turnFootHeading(turning, role);
  // Toes go along with the foot, and a leg that is like only as a whole keeps the bends of its own.
  else if (!turning.isSame && role.endsWith('.toes')) return;
  else if (!(wholeLegs && /\.(lowerLeg|hock|fetlock)$/.test(role))) turnToPerformer(turning, joint, role, weight, keep);
}

/** How far a role of an unlike body is turned to the performer's rest, 0 to 1. */
function shareOf(role: Role, { head, clavicles, palms, thumbs }: RestMatchSettings): number {
  const share = (choice: PairingSettings['head']): number => (choice === 'keep' ? 0 : choice === 'match' ? 1 : choice);
  if (role === 'head') return share(head);
  if (role.endsWith('clavicle')) return share(clavicles);
  return PALM.test(role) ? palms : THUMB.test(role) ? thumbs : 1;
}

/** Local rotations of a world pose. */
function localRotations(out: Float64Array, pose: Pose, parents: Int32Array): void {
  for (let j = 0; j < parents.length; j++) {
    if (parents[j] < 0) copy(out, j * 4, pose.rotations, j * 4);
    else invMul(out, j * 4, pose.rotations, parents[j] * 4, pose.rotations, j * 4);
  }
}
