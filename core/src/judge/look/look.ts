import { ClipReader } from '../../clip';
import { FINGERS, mirrorRole, shinEnd, SIDES, type Role } from '../../label';
import { invMul, mulInv, twistAngle } from '../../math/quat';
import { acos, DEG } from '../../math/trig';
import { turnLeft } from '../../math/vec';
import { limbSegments, unlikeLegs, type Rig } from '../../rig';
import { emptyPose, withAncestors, type Pose } from '../../skeleton';
import type { Case } from '../case';
import { bodyFrame, direction, inFrame, relative, spinJerk, stepOf } from './motion';
import { placePoints, sharedPoints, type BodyPoint } from './points';
import { heightOf, lowestOf, type Skin, type SkinPart } from './skin';
import { heightOver, levelled, tiltsOf, type Tilts } from './slope';
import { CopyWatch, type CopiedEnd } from './copied';
import { CrossingWatch } from './crossings';
import { curlOf, lastSpine, sharedFingers, DirectionWatch, type Direction } from './directions';
import { hypot, square } from '../../math/numbers';

/** A joint that both bodies have, and the shared joint above it; −1 for the world. */
interface SharedJoint {
  readonly role: Role;
  readonly mine: number;
  readonly theirs: number;
  readonly mineAbove: number;
  readonly theirsAbove: number;
}

/** Series collected in one pass over all frames; a number a frame. */
export interface Look {
  readonly frames: number;
  readonly points: readonly BodyPoint[];
  /** Places of the points, frames × points × 3. */
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
  readonly roles: readonly Role[];
  /** Turn of each shared joint from the frame before, radians, frames × roles. */
  readonly myTurns: Float32Array;
  readonly theirTurns: Float32Array;
  /** Jerks by kind: bends of knees and elbows, radians; turns of hands and head, radians; way of the hips, metres. */
  readonly jerks: ReadonlyMap<string, { readonly kind: JerkKind; readonly mine: Float64Array; readonly theirs: Float64Array }>;
  /** Lowest of the skin, over a floor that is laid level by the tilts. */
  readonly deepest: Readonly<Record<SkinPart, { height: number; frame: number; joint: number }>>;
  /** Deepest of the performer's own points, and the same over a floor that is laid level. */
  readonly performerDeepest: number;
  readonly performerLowest: number;
  readonly tilts: Tilts | undefined;
  /** Mean angle between like segments over the frames that were compared, radians, by role. */
  readonly angles: ReadonlyMap<Role, number>;
  readonly compared: number;
  /** Directions of both bodies, every frame. */
  readonly directions: readonly Direction[];
  /** Middle of the hip joints, frames × 3; the performer's scaled, on its own path. */
  readonly hips: { readonly mine: Float64Array; readonly theirs: Float64Array };
  /** Mean difference of each finger's bend over the frames that were compared, radians. */
  readonly curls: ReadonlyMap<string, number>;
  /** Ends of the limbs, and where the performer's directions put them. */
  readonly copied: readonly CopiedEnd[];
  readonly crossings: Pick<CrossingWatch, 'found' | 'frames' | 'touching'>;
  /** Frames in which the skin was looked at. */
  readonly skinFrames: number;
  /** Sums of squares between unit directions seen from the body, and between those and the mirror image's. */
  readonly apart: { readonly straight: number; readonly mirrored: number };
  readonly twist: { readonly degrees: number; readonly joint: number; readonly frame: number };
  readonly stretched: { readonly frames: number; readonly first: number; readonly limb: string };
}

export type JerkKind = 'knees' | 'elbows' | 'wrists' | 'neck' | 'hips';

/** A bend below the first while the performer's is above the second locks a limb straight, radians. */
const LOCKED = 1.5 * DEG;
const BENT = 8 * DEG;
/** Frames in which segments are compared, about. */
const COMPARED = 300;
/** Limbs are held against each other so often a second. */
const CROSSINGS = 30;
/** Skin is looked at where it is no higher than this over the lowest of the watched points, metres. */
const NEAR = 0.02;
/** Turns about a bone that exceed the performer's by less than this are its own, degrees. */
const UNSEEN_TWIST = 20;

const SHARED = /^(hips|head|(left|right)\.(upperArm|lowerArm|hand|upperLeg|lowerLeg|foot|(thumb|index|middle|ring|little)\.\d))$/;

function sharedJoints(performer: Rig, character: Rig): SharedJoint[] {
  const roles = [...character.roles.keys()].filter((role) => SHARED.test(role) && performer.roles.has(role));
  const above = (rig: Rig, role: Role): number => {
    const roleOf = new Map(roles.filter((other) => other !== role).map((other) => [rig.roles.get(other)!, other]));
    // The head turns against the chest: the spine's counts may differ, its end does not.
    const chest = role === 'head' ? lastSpine(rig) : undefined;
    for (let j = rig.skeleton.parents[rig.roles.get(role)!]; j >= 0; j = rig.skeleton.parents[j])
      if (j === chest || roleOf.has(j)) return j;
    return -1;
  };
  return roles.map((role) => ({
    role,
    mine: character.roles.get(role)!,
    theirs: performer.roles.get(role)!,
    mineAbove: above(character, role),
    theirsAbove: above(performer, role),
  }));
}

/** The bend of one limb on one body: three joints. */
type Bend = readonly [top: number, mid: number, end: number];

function bendsOf(performer: Rig, character: Rig): { name: string; kind: JerkKind; mine: Bend; theirs: Bend }[] {
  return SIDES.flatMap((side) => {
    const of = ({ roles }: Rig, parts: readonly string[]): Bend => parts.map((part) => roles.get(`${side}.${part}`)!) as unknown as Bend;
    const leg = (rig: Rig): Bend => of(rig, ['upperLeg', 'lowerLeg', shinEnd(rig.roles, side)]);
    const arm = ['upperArm', 'lowerArm', 'hand'];
    return [
      { name: `${side} knee`, kind: 'knees' as const, mine: leg(character), theirs: leg(performer) },
      { name: `${side} elbow`, kind: 'elbows' as const, mine: of(character, arm), theirs: of(performer, arm) },
    ];
  });
}

function bendAt(p: Float64Array, bend: Bend): number {
  const top = bend[0];
  const mid = bend[1];
  const end = bend[2];
  const ux = p[mid * 3] - p[top * 3];
  const uy = p[mid * 3 + 1] - p[top * 3 + 1];
  const uz = p[mid * 3 + 2] - p[top * 3 + 2];
  const wx = p[end * 3] - p[mid * 3];
  const wy = p[end * 3 + 1] - p[mid * 3 + 1];
  const wz = p[end * 3 + 2] - p[mid * 3 + 2];
  const n = Math.sqrt((ux * ux + uy * uy + uz * uz) * (wx * wx + wy * wy + wz * wz));
  return n < 1e-18 ? 0 : acos((ux * wx + uy * wy + uz * wz) / n);
}

/** A bone whose turn about itself is watched, on one body. */
interface Bone {
  readonly joint: number;
  readonly axis: Float64Array;
  readonly inParent: boolean;
}

/** Limb joints about their own bones, hands and feet about the one before, by role. */
function bonesOf({ roles, skeleton }: Rig): Map<string, Bone> {
  const out = new Map<string, Bone>();
  for (const side of SIDES) {
    for (const [part, next, isEnd] of [
      ['upperArm', 'lowerArm', false],
      ['lowerArm', 'hand', true],
      ['upperLeg', 'lowerLeg', false],
      ['lowerLeg', 'foot', true],
    ] as const) {
      const joint = roles.get(`${side}.${part}`);
      const end = roles.get(`${side}.${next}`);
      if (joint === undefined || end === undefined) continue;
      const axis = skeleton.restT.slice(end * 3, end * 3 + 3);
      const n = hypot(...axis);
      if (n < 1e-6) continue;
      axis.forEach((v, c) => (axis[c] = v / n));
      out.set(`${side}.${part}`, { joint, axis, inParent: false });
      if (isEnd && skeleton.parents[end] === joint) out.set(`${side}.${next}`, { joint: end, axis, inParent: true });
    }
  }
  return out;
}

/** Turn about a bone, degrees, without sign; 0 below a right angle, which wrings nothing. */
function turnAbout({ joint, axis, inParent }: Bone, { skeleton }: Rig, rotations: Float32Array, f: number, q: Float64Array): number {
  const o = (f * skeleton.parents.length + joint) * 4;
  if (inParent) mulInv(q, 0, rotations, o, skeleton.restR, joint * 4);
  else invMul(q, 0, skeleton.restR, joint * 4, rotations, o);
  const along = q[0] * axis[0] + q[1] * axis[1] + q[2] * axis[2];
  // tan(45°) = 1.
  if (Math.abs(along) < Math.abs(q[3])) return 0;
  return Math.abs(twistAngle(q, 0, axis[0], axis[1], axis[2])) / DEG;
}

/** Goes over all frames once, with one pose of each body a frame. */
export function look(given: Case, skin: Skin): Look {
  const { performer, character, take, result, scale, heading } = given;
  const { frames } = result;
  const shared = sharedJoints(performer, character);
  const count = shared.length;
  const points = sharedPoints(performer, character);
  const n = points.character.length;
  const mine = new Float64Array(frames * n * 3);
  const theirs = new Float64Array(frames * n * 3);
  const myTurns = new Float32Array(frames * count);
  const theirTurns = new Float32Array(frames * count);
  const now = { mine: new Float64Array(count * 4), theirs: new Float64Array(count * 4) };
  const before = { mine: new Float64Array(count * 4), theirs: new Float64Array(count * 4) };
  const jerks = new Map<string, { kind: JerkKind; mine: Float64Array; theirs: Float64Array }>();
  const series = (name: string, kind: JerkKind) => {
    const made = { kind, mine: new Float64Array(frames), theirs: new Float64Array(frames) };
    jerks.set(name, made);
    return made;
  };
  const bends = bendsOf(performer, character).map((bend) => ({ ...bend, jerk: series(bend.name, bend.kind), past: new Float64Array(4) }));
  const spins = shared.flatMap(({ role }, i) => {
    const kind = role === 'head' ? ('neck' as const) : role.endsWith('.hand') ? ('wrists' as const) : undefined;
    return kind ? [{ i, jerk: series(kind === 'neck' ? 'head' : role.replace('.', ' '), kind), past: new Float64Array(6) }] : [];
  });
  const hips = series('hips', 'hips');
  const places = { mine: new Float64Array(frames * 3), theirs: new Float64Array(frames * 3) };
  const directions = new DirectionWatch(performer, character, frames, heading);
  const crossings = new CrossingWatch(given);
  const copies = new CopyWatch(given);
  const fingers = sharedFingers(performer, character).map((finger) => ({ ...finger, sum: 0 }));
  const hipJoints = [character, performer].map(({ roles }) => SIDES.map((side) => roles.get(`${side}.upperLeg`)! * 3));
  const hipPast = new Float64Array(12);
  const factor = [scale.stride, scale.lift, scale.stride];

  const legsAreWholes = unlikeLegs(performer, character);
  const theirSegments = new Map(limbSegments(performer, legsAreWholes).map((segment) => [segment.role, segment]));
  const segments = limbSegments(character, legsAreWholes).flatMap((segment) => {
    const same = theirSegments.get(segment.role);
    const other = theirSegments.get(mirrorRole(segment.role));
    if (!same || !other || FINGERS.some((finger) => segment.role.includes(finger))) return [];
    return [{ role: segment.role, mine: segment, theirs: same, other, sum: 0 }];
  });
  const bones = [...bonesOf(character)].map(([role, bone]) => ({ bone, theirs: bonesOf(performer).get(role) }));

  const deepest: Record<SkinPart, { height: number; frame: number; joint: number }> = {
    feet: { height: Infinity, frame: 0, joint: -1 },
    hands: { height: Infinity, frame: 0, joint: -1 },
    body: { height: Infinity, frame: 0, joint: -1 },
  };
  let performerDeepest = Infinity;
  let performerLowest = Infinity;
  const tilts = tiltsOf(given);
  const level = emptyPose(character.skeleton);
  // A mean over every few frames is the mean.
  const every = Math.max(1, Math.floor(frames / COMPARED));
  let compared = 0;
  // Skin and twist do not change their depth within a sixtieth of a second; knees may.
  const rarely = Math.max(1, Math.round(1 / 60 / result.frameTime));
  const seldom = Math.max(1, Math.round(1 / CROSSINGS / result.frameTime));
  let straight = 0;
  let mirrored = 0;
  let twist = { degrees: 0, joint: -1, frame: 0 };
  let locked = { frames: 0, first: -1, limb: '' };
  // Joints without a part in the body are posed only where the skin is looked at.
  const source = new ClipReader(performer.skeleton, take, withAncestors(performer.skeleton.parents, performer.roles.values()));
  const reader = new ClipReader(character.skeleton, result, withAncestors(character.skeleton.parents, character.roles.values()));
  const whole = new ClipReader(character.skeleton, result);
  const q = new Float64Array(4);
  const frameM = new Float64Array(9);
  const frameP = new Float64Array(9);
  const a = new Float64Array(3);
  const b = new Float64Array(3);
  const m = new Float64Array(3);

  for (let f = 0; f < frames; f++) {
    const P = source.at(f);
    const C = f % rarely === 0 ? whole.at(f) : reader.at(f);
    placePoints(theirs, f * n * 3, points.performer, P.positions, P.rotations);
    placePoints(mine, f * n * 3, points.character, C.positions, C.rotations);
    for (let i = 0; i < n; i++) performerDeepest = Math.min(performerDeepest, theirs[(f * n + i) * 3 + 1]);
    for (let i = 0; i < count; i++) {
      const joint = shared[i];
      relative(now.mine, i * 4, C.rotations, joint.mine, joint.mineAbove);
      relative(now.theirs, i * 4, P.rotations, joint.theirs, joint.theirsAbove);
      if (f === 0) continue;
      myTurns[f * count + i] = stepOf(before.mine, now.mine, i * 4);
      theirTurns[f * count + i] = stepOf(before.theirs, now.theirs, i * 4);
    }
    for (const { i, jerk, past } of spins) {
      if (f > 0) {
        jerk.mine[f] = spinJerk(before.mine, now.mine, i * 4, past, 0);
        jerk.theirs[f] = spinJerk(before.theirs, now.theirs, i * 4, past, 3);
      }
    }
    for (let i = 0; i < count * 4; i++) {
      before.mine[i] = now.mine[i];
      before.theirs[i] = now.theirs[i];
    }

    let isLocked = '';
    for (let k = 0; k < bends.length; k++) {
      const bend = bends[k];
      const x = bendAt(C.positions, bend.mine);
      const y = bendAt(P.positions, bend.theirs);
      if (x < LOCKED && y > BENT) isLocked = bend.name;
      const { past, jerk } = bend;
      if (f > 1) {
        jerk.mine[f] = Math.abs(x - 2 * past[0] + past[1]);
        jerk.theirs[f] = Math.abs(y - 2 * past[2] + past[3]);
      }
      past[1] = past[0];
      past[0] = x;
      past[3] = past[2];
      past[2] = y;
    }
    if (isLocked !== '') locked = { frames: locked.frames + 1, first: locked.first < 0 ? f : locked.first, limb: locked.limb || isLocked };

    let myJerk = 0;
    let theirJerk = 0;
    for (let c = 0; c < 3; c++) {
      const x = (C.positions[hipJoints[0][0] + c] + C.positions[hipJoints[0][1] + c]) / 2;
      const y = ((P.positions[hipJoints[1][0] + c] + P.positions[hipJoints[1][1] + c]) / 2) * factor[c];
      myJerk += square(x - 2 * hipPast[c] + hipPast[3 + c]);
      theirJerk += square(y - 2 * hipPast[6 + c] + hipPast[9 + c]);
      hipPast[3 + c] = hipPast[c];
      hipPast[c] = x;
      hipPast[9 + c] = hipPast[6 + c];
      hipPast[6 + c] = y;
      places.mine[f * 3 + c] = x;
      places.theirs[f * 3 + c] = y;
    }
    if (f > 1) {
      hips.mine[f] = Math.sqrt(myJerk);
      hips.theirs[f] = Math.sqrt(theirJerk);
    }

    if (f % every === 0) {
      bodyFrame(frameM, C.positions, hipJoints[0]);
      bodyFrame(frameP, P.positions, hipJoints[1]);
      compared++;
      for (const finger of fingers) finger.sum += Math.abs(curlOf(C, finger.mine) - curlOf(P, finger.theirs));
    }
    for (let k = 0; f % every === 0 && k < segments.length; k++) {
      const segment = segments[k];
      direction(a, C.positions, segment.mine.joint, segment.mine.end);
      direction(b, P.positions, segment.theirs.joint, segment.theirs.end);
      if (heading) turnLeft(b, 0, heading[f]);
      segment.sum += acos(a[0] * b[0] + a[1] * b[1] + a[2] * b[2]);
      direction(m, P.positions, segment.other.joint, segment.other.end);
      inFrame(a, frameM);
      if (heading) turnLeft(b, 0, -heading[f]);
      inFrame(b, frameP);
      inFrame(m, frameP);
      straight += square(a[0] - b[0]) + square(a[1] - b[1]) + square(a[2] - b[2]);
      mirrored += square(a[0] + m[0]) + square(a[1] - m[1]) + square(a[2] - m[2]);
    }

    directions.see(f, C, P);
    copies.see(f, C, P);
    if (f % seldom === 0) crossings.see(f, C, P);
    if (f % rarely !== 0) continue;
    for (let k = 0; k < bones.length; k++) {
      const { bone, theirs: theirBone } = bones[k];
      const turned = turnAbout(bone, character, result.rotations, f, q);
      if (turned > twist.degrees && turned - (theirBone ? turnAbout(theirBone, performer, take.rotations, f, q) : 0) > UNSEEN_TWIST)
        twist = { degrees: turned, joint: bone.joint, frame: f };
    }
    let lowest = Infinity;
    for (let i = 0; i < n; i++) {
      const o = (f * n + i) * 3;
      lowest = Math.min(lowest, tilts ? heightOver(mine, o, tilts.mine) : mine[o + 1]);
      if (tilts) performerLowest = Math.min(performerLowest, heightOver(theirs, o, tilts.theirs));
    }
    lookAtSkin(skin, tilts ? levelled(level, C, tilts.mine) : C, f, lowest + NEAR, deepest);
  }
  return {
    frames,
    points: points.character,
    mine,
    theirs,
    roles: shared.map(({ role }) => role),
    myTurns,
    theirTurns,
    jerks,
    deepest,
    performerDeepest,
    performerLowest: tilts ? performerLowest : performerDeepest,
    tilts,
    angles: new Map(segments.map(({ role, sum }) => [role, sum / Math.max(1, compared)])),
    compared,
    directions: directions.directions,
    hips: places,
    curls: new Map(fingers.map(({ name, sum }) => [name, sum / Math.max(1, compared)])),
    crossings,
    copied: copies.ends,
    skinFrames: Math.ceil(frames / rarely),
    apart: { straight, mirrored },
    twist,
    stretched: locked,
  };
}

/**
 * Keeps the deepest point of feet, hands and the rest; joints that cannot be deeper are passed over.
 * @param near skin higher than this cannot be below what the body rests on
 */
function lookAtSkin(skin: Skin, pose: Pose, f: number, near: number, deepest: Look['deepest']): void {
  for (let g = 0; g < skin.groups.length; g++) {
    const group = skin.groups[g];
    const { joint, part, points } = group;
    const worst = deepest[part];
    if (lowestOf(group, pose) >= Math.min(worst.height, near)) continue;
    for (let k = 0; k < points.length; k++) {
      const height = heightOf(skin, points[k], pose);
      if (height < worst.height) {
        worst.height = height;
        worst.frame = f;
        worst.joint = joint;
      }
    }
  }
}
