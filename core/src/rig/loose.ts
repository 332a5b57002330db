import type { MotionFile } from '../formats';
import { invMul } from '../math/quat';
import { extraRole, type Labels, type Role } from '../label';
import { DEFAULT_SKELETON, type SkeletonChoices } from '../recipe';
import { commonPrefix, jointKeys, makeBasis, restPose, toBasis, type Skeleton } from '../skeleton';
import { extent } from './bare';
import { labelFile } from './labelled';
import { referencePose, statePose } from './reference';
import { CLEAN, chooseRest } from './restDetector';
import { movable, prepareRig, type Rig } from './rig';
import { applyTurns, copyPose } from './turns';
import { UNIT_METRES, nameUnit, type UnitGuess } from './unit';

/** True for a rig that is a labelled body; a crane, a cart or a puppet on strings is none. */
export const isBody = ({ roles }: Pick<Rig, 'roles'>): boolean => roles.has('hips');

/** Makes a file's skeleton ready whether it is a body or not: labelled where all that a body needs is found, else as it stands. */
export function prepareAny(file: MotionFile, clipIndex = 0, choices: SkeletonChoices = DEFAULT_SKELETON): Rig {
  const labels = labelFile(file, clipIndex, choices);
  return labels.missing.length === 0 ? prepareRig(file, clipIndex, choices, labels) : looseRig(file, choices);
}

/**
 * A rig that is no body: it has its rest, its unit and its axes, and nothing that only a body has. Each of its joints stands under a
 * name of its own, so that it can be turned by hand and laid over.
 */
export function looseRig(file: MotionFile, choices: SkeletonChoices = DEFAULT_SKELETON): Rig {
  const roles = rolesByJoint(file.skeleton);
  const chosen = chooseRest(file.skeleton, undefined, roles, typeof choices.rest === 'string' ? 'file' : choices.rest);
  const isGlb = file.layout.format === 'glb';
  const up = choices.up ?? (isGlb ? '+Y' : standsAlong(chosen.pose.positions));
  const unit = choices.unit === null ? sizeUnit(file, isGlb, chosen.pose.positions, 'XYZ'.indexOf(up[1])) : nameUnit(choices.unit);
  const basis = makeBasis(unit.metres, up);
  const skeleton = toBasis(file.skeleton, basis);
  const kept = chosen.source === 'kept' ? toBasis({ ...file.skeleton, restR: localsOf(file.skeleton, chosen.pose) }, basis) : skeleton;
  const stated = statePose(skeleton, restPose(kept));
  const rest = { ...stated, source: chosen.source, frame: null, score: 1, reason: chosen.reason };
  const reference = {
    name: file.name,
    unit: unit.unit,
    metres: unit.metres,
    unitReason: unit.reason,
    up,
    upReason: choices.up === null ? (isGlb ? 'glTF has +Y up' : `it stands on its root along ${up}`) : 'set by hand',
    rest,
    sole: { depth: 0, known: 'no' as const },
    feet: [],
  };
  const basePose = referencePose(skeleton, reference);
  const heading = { left: Float64Array.of(1, 0, 0), forward: Float64Array.of(0, 0, 1) };
  const pose = copyPose(basePose);
  applyTurns(pose, skeleton, roles, choices.turns, heading);
  const height = Math.max(extent(pose.positions, 1), extent(pose.positions, 0), 1e-3);
  const labels: Labels = { roles, confidence: new Map(), missing: [], warnings: [] };
  return {
    name: file.name,
    skeleton,
    labels,
    roles,
    carrier: 0,
    canMove: movable(file),
    reference,
    unit,
    up,
    upReason: reference.upReason,
    basis,
    prefix: commonPrefix(file.skeleton.names),
    rest: {
      source: chosen.source,
      frame: undefined,
      score: CLEAN,
      reason: chosen.source === 'file' ? 'the rest that the file states' : chosen.reason,
    },
    isRestClean: true,
    restPose: pose,
    basePose,
    facing: 0,
    ...heading,
    // What lengths are compared with where a body has its legs.
    legLength: height / 2,
    hipHeight: height / 2,
    sole: reference.sole,
    feet: [],
    hands: [],
    bulk: [],
    thickness: new Float64Array(skeleton.names.length),
    hanging: [],
    volumes: [],
    warnings: file.warnings.map((fault) => ({ ...fault, where: { file: file.name, ...fault.where } })),
  };
}

/** A role of its own for each joint, by its key. */
function rolesByJoint(skeleton: Skeleton): Map<Role, number> {
  const roles = new Map<Role, number>();
  jointKeys(skeleton).forEach((key, j) => {
    const name =
      key
        .replace(/[^\p{L}\p{N} '-]+/gu, ' ')
        .trim()
        .slice(0, 60) || 'joint';
    let number = 1;
    while (roles.has(extraRole(name, number))) number++;
    roles.set(extraRole(name, number), j);
  });
  return roles;
}

function localsOf(skeleton: Skeleton, { rotations }: { readonly rotations: Float64Array }): Float64Array {
  const out = rotations.slice();
  skeleton.parents.forEach((parent, j) => {
    if (parent >= 0) invMul(out, j * 4, rotations, parent * 4, rotations, j * 4);
  });
  return out;
}

/** +Z where more of the thing is above its root along it than along +Y, what is below counted against it; else +Y. */
function standsAlong(p: Float64Array): '+Y' | '+Z' {
  const rises = (axis: number): number => {
    let [over, under] = [0, 0];
    for (let i = axis; i < p.length; i += 3) {
      over = Math.max(over, p[i] - p[axis]);
      under = Math.max(under, p[axis] - p[i]);
    }
    return over - 2 * under;
  };
  return rises(2) > rises(1) ? '+Z' : '+Y';
}

/** Heights that a thing on a stage may have, metres: from a hand puppet to a harbour crane. */
const STAGE_HEIGHT = [0.2, 80] as const;

/** The unit of a thing whose size nobody knows: metres where it has a height that a stage may hold, else the next that gives one. */
function sizeUnit(file: MotionFile, isGlb: boolean, positions: Float64Array, axis: number): UnitGuess {
  const reach = Math.max(extent(positions, axis), 1e-9);
  if (isGlb) return { unit: 'm', metres: 1, reason: `the format is in metres; it is ${reach.toFixed(2)} m high` };
  if (file.unitHint) return { ...nameUnit(file.unitHint.metres), reason: file.unitHint.reason };
  for (const unit of ['m', 'cm', 'mm'] as const) {
    const metres = UNIT_METRES[unit];
    const size = reach * metres;
    if (size >= STAGE_HEIGHT[0] && size <= STAGE_HEIGHT[1])
      return { unit, metres, reason: `it is ${reach.toFixed(2)} ${unit} high, ${size.toFixed(2)} m` };
  }
  return { unit: 'unknown', metres: 1, reason: 'its size fits no usual unit; metres are taken' };
}
