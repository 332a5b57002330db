import { applyTurns, limbSegments, unlikeLegs, type Rig } from '../rig';
import { shinEnd, SIDES, type Role } from '../label';
import { angleBetween, cross, dot, length, normalize, vec } from '../math/vec';
import { between, copy, fromAxisAngle, fromFrame, invMul, mul, mulInv, rotate, slerp } from '../math/quat';
import { atan2, DEG } from '../math/trig';
import { forward as forwardKinematics, emptyPose, type Pose } from '../skeleton';
import type { PairingSettings } from '../recipe';
import type { SameBody } from './likeness';

/** How far one limb segment of the character's rest pose was from the performer's, and is after matching. */
export interface Residual {
  readonly role: Role;
  /** Degrees between the two rest poses' segment directions, as the files have them. */
  readonly before: number;
  /** Degrees after matching and turns by hand. */
  readonly after: number;
  /** For people: what the rest of the angle most likely comes from. */
  readonly reason: string;
}

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

/** A bend of less than this says nothing certain about the plane that a limb bends in. */
const CLEAR_BEND = 12 * DEG;

/**
 * Brings the character's rest pose to the performer's.
 *
 * Limb segments are turned by the smallest rotation onto the performer's directions, chain root to tip, then about
 * their own axis where a bend or the palm shows the plane. Differences in the trunk, the head, the clavicles and the
 * pitch of the feet between two unlike bodies in clean rest poses is shape, not pose, so it is kept and only turned to
 * the performer's heading. Between two skeletons of the same body every difference is pose, and all is turned.
 */
export function matchRest(performer: Rig, character: Rig, same: SameBody, settings: RestMatchSettings): RestMatch {
  const { skeleton } = character;
  const count = skeleton.names.length;
  const own = character.restPose;
  const pose = emptyPose(skeleton);
  const rotations = skeleton.restR.slice();
  const method = same.same ? 'same body' : performer.isRestClean && character.isRestClean ? 'own trunk' : 'directions';
  const turn = new Float64Array(4);
  const yaw = performer.facing - character.facing;
  fromAxisAngle(turn, 0, 0, 1, 0, yaw);
  const roleOf = new Map<number, Role>();
  for (const [role, joint] of character.roles) roleOf.set(joint, role);

  const wholeLegs = unlikeLegs(performer, character);
  const ends = segmentEnds(character, wholeLegs);
  const performerEnds = segmentEnds(performer, wholeLegs);
  const q = new Float64Array(4);
  const matched = new Float64Array(4);
  const a = vec();
  const b = vec();

  for (let j = 0; j < count; j++) {
    const role = roleOf.get(j);
    const parent = skeleton.parents[j];
    // As the parent carries it.
    if (parent < 0) mul(pose.rotations, j * 4, turn, 0, own.rotations, j * 4);
    else {
      invMul(q, 0, own.rotations, parent * 4, own.rotations, j * 4);
      mul(pose.rotations, j * 4, pose.rotations, parent * 4, q, 0);
    }
    if (role === undefined || !performer.roles.has(role)) continue;
    const isTrunk = /^(hips|spine|neck)/.test(role);
    const weight = weightOf(role);
    if ((isTrunk && method === 'own trunk') || weight === 0) {
      keepOwn(j, role);
      continue;
    }
    if (method !== 'same body' && role.endsWith('.foot')) {
      turnFootHeading(role);
      continue;
    }
    if (method !== 'same body' && role.endsWith('.toes')) continue;
    // A leg that is like only as a whole keeps the bends of its own.
    if (wholeLegs && /\.(lowerLeg|hock|fetlock)$/.test(role)) continue;
    turnToPerformer(j, role);
    if (weight === 1) continue;
    // Between both: the way from its own to the performer's in part.
    copy(matched, 0, pose.rotations, j * 4);
    keepOwn(j, role);
    slerp(pose.rotations, j * 4, pose.rotations, j * 4, matched, 0, weight);
  }
  localRotations(rotations, pose, skeleton.parents);
  // Root position: as the file has it, turned with the body.
  const translations = skeleton.restT.slice();
  forwardKinematics(pose, skeleton.parents, translations, rotations);
  const isTurned = Object.keys(settings.turns).length > 0;
  if (isTurned) {
    applyTurns(pose, skeleton, character.roles, settings.turns, performer);
    localRotations(rotations, pose, skeleton.parents);
  }

  const undriven = rotations.slice();
  for (const [role, j] of character.roles) {
    // A turn that the match added is for the performer to drive; without a link the joint keeps its rest.
    if (!performer.roles.has(role) || role in settings.turns || skeleton.parents[j] < 0) continue;
    invMul(undriven, j * 4, own.rotations, skeleton.parents[j] * 4, own.rotations, j * 4);
  }

  const theirSegments = limbSegments(performer, wholeLegs);
  const residuals = limbSegments(character, wholeLegs)
    .filter(({ role }) => performer.roles.has(role))
    .flatMap(({ role, joint, end }): Residual[] => {
      const seg = theirSegments.find((s) => s.role === role);
      if (!seg) return [];
      const p = between3(performer.restPose, seg.joint, seg.end);
      const before = between3(own, joint, end);
      rotate(before, 0, turn, 0, before, 0);
      const after = between3(pose, joint, end);
      return [
        { role, before: angleBetween(p, 0, before, 0) / DEG, after: angleBetween(p, 0, after, 0) / DEG, reason: residualReason(role) },
      ];
    });
  return { pose, rotations, undriven, residuals, method };

  /** How far a role is turned to the performer's rest, 0 to 1. */
  function weightOf(role: Role): number {
    if (method === 'same body') return 1;
    const share = (choice: PairingSettings['head']): number => (choice === 'keep' ? 0 : choice === 'match' ? 1 : choice);
    if (role === 'head') return share(settings.head);
    if (role.endsWith('clavicle')) return share(settings.clavicles);
    return PALM.test(role) ? settings.palms : THUMB.test(role) ? settings.thumbs : 1;
  }

  /** Its own rest: of trunk, head and clavicles in the world, of palms and thumbs on what carries them. */
  function keepOwn(j: number, role: Role): void {
    if (!PALM.test(role) && !THUMB.test(role)) {
      mul(pose.rotations, j * 4, turn, 0, own.rotations, j * 4);
      return;
    }
    const parent = skeleton.parents[j];
    invMul(q, 0, own.rotations, parent * 4, own.rotations, j * 4);
    mul(pose.rotations, j * 4, pose.rotations, parent * 4, q, 0);
  }

  function residualReason(role: Role): string {
    for (let j = character.roles.get(role) ?? -1; j >= 0; j = skeleton.parents[j]) {
      const own = roleOf.get(j);
      if (own !== undefined && own in settings.turns) return own === role ? 'it was turned by hand' : `${own} above it was turned by hand`;
    }
    if (method !== 'same body' && role.endsWith('clavicle') && weightOf(role) < 1) return 'clavicles keep their own rest by a setting';
    if (performer.roles.get(role) === undefined) return 'the performer has no such joint';
    if (!performer.isRestClean) return "the performer's rest pose is not clean; choose another frame for it";
    if (!character.isRestClean) return "the character's rest pose is not clean; choose another one for it";
    return 'look at its label and at that of the next joint: one of them may be on a wrong joint';
  }

  /** A foot keeps its own relation to the floor and turns in heading only. */
  function turnFootHeading(role: Role): void {
    const side = role.split('.')[0];
    const c = character.feet.find((f) => f.side === side);
    const p = performer.feet.find((f) => f.side === side);
    if (!c || !p) return;
    const angle = atan2(p.heading[0], p.heading[2]) - atan2(c.heading[0], c.heading[2]);
    fromAxisAngle(q, 0, 0, 1, 0, angle);
    mul(pose.rotations, c.foot * 4, q, 0, own.rotations, c.foot * 4);
  }

  /** Turns joint j, standing as its parent carries it, so that what hangs on it points as on the performer. */
  function turnToPerformer(j: number, role: Role): void {
    const pj = performer.roles.get(role)!;
    const mine = ends.get(role) ?? [];
    const theirs = performerEnds.get(role) ?? [];
    const shared = mine.filter((end) => theirs.some((t) => t.role === end.role));
    const dirs = shared
      .map((end) => {
        const c = localDirection(character, j, end);
        rotate(c, 0, pose.rotations, j * 4, c, 0);
        const p = localDirection(
          performer,
          pj,
          theirs.find((t) => t.role === end.role)!,
        );
        rotate(p, 0, performer.restPose.rotations, pj * 4, p, 0);
        return { c, p };
      })
      .filter(({ c, p }) => length(c, 0) > 1e-5 && length(p, 0) > 1e-5);
    if (dirs.length === 0) return;
    const main = dirs[0];
    // A second direction well away from the first fixes the turn about it.
    let second: { c: Float64Array; p: Float64Array } | undefined;
    // Bones of the same body agree exactly, so that even a narrow fan fixes it; others only by a wide one.
    let widest = method === 'same body' ? 0.02 : 0.2;
    for (const d of dirs.slice(1)) {
      const spread = Math.min(sinBetween(main.c, d.c), sinBetween(main.p, d.p));
      if (spread > widest) {
        widest = spread;
        second = d;
      }
    }
    if (second && fromFrame(a4, 0, main.c, 0, second.c, 0) && fromFrame(b4, 0, main.p, 0, second.p, 0)) {
      mulInv(q, 0, b4, 0, a4, 0);
    } else {
      between(q, 0, main.c, 0, main.p, 0);
      mul(pose.rotations, j * 4, q, 0, pose.rotations, j * 4);
      twistByBend(j, role, main.p);
      return;
    }
    mul(pose.rotations, j * 4, q, 0, pose.rotations, j * 4);
  }

  /** Where both limbs are clearly bent at rest, turns the first segment about its axis so that the planes agree. */
  function twistByBend(j: number, role: Role, axis: Float64Array): void {
    const [side, part] = role.split('.');
    const chain =
      part === 'upperArm'
        ? ['upperArm', 'lowerArm', 'hand']
        : part === 'upperLeg'
          ? ['upperLeg', 'lowerLeg', shinEnd(character.roles, side)]
          : undefined;
    if (!chain) return;
    const normal = (body: Rig): Float64Array | undefined => {
      const [top, mid, end] = chain.map((name) => body.roles.get(`${side}.${name}`));
      if (top === undefined || mid === undefined || end === undefined) return undefined;
      const u = between3(body.restPose, top, mid);
      const w = between3(body.restPose, mid, end);
      if (angleBetween(u, 0, w, 0) < CLEAR_BEND) return undefined;
      const n = vec();
      cross(n, 0, u, 0, w, 0);
      return n;
    };
    const pn = normal(performer);
    const cn = normal(character);
    if (!pn || !cn) return;
    // The character's normal, carried by the joint from its own rest to where it stands now.
    mulInv(q, 0, pose.rotations, j * 4, own.rotations, j * 4);
    rotate(cn, 0, q, 0, cn, 0);
    const n = length(axis, 0);
    for (const v of [pn, cn]) {
      const along = dot(v, 0, axis, 0) / (n * n);
      for (let c = 0; c < 3; c++) v[c] -= along * axis[c];
    }
    cross(a, 0, cn, 0, pn, 0);
    const angle = atan2(dot(a, 0, axis, 0) / n, dot(cn, 0, pn, 0));
    for (let c = 0; c < 3; c++) b[c] = axis[c];
    normalize(b, 0);
    fromAxisAngle(q, 0, b[0], b[1], b[2], angle);
    mul(pose.rotations, j * 4, q, 0, pose.rotations, j * 4);
  }
}

/** Local rotations of a world pose. */
function localRotations(out: Float64Array, pose: Pose, parents: Int32Array): void {
  for (let j = 0; j < parents.length; j++) {
    if (parents[j] < 0) copy(out, j * 4, pose.rotations, j * 4);
    else invMul(out, j * 4, pose.rotations, parents[j] * 4, pose.rotations, j * 4);
  }
}

const a4 = new Float64Array(4);
const b4 = new Float64Array(4);

interface SegmentEnd {
  /** The role at the far end, or `tip`. */
  readonly role: Role;
  readonly joint: number;
}

/** For each labelled joint the labelled joints next below it, the one that its bone points at first; leaves have a tip. */
function segmentEnds(body: Rig, wholeLegs: boolean): Map<Role, SegmentEnd[]> {
  const { skeleton } = body;
  const roleOf = new Map<number, Role>();
  for (const [role, joint] of body.roles) if (!role.includes('twist') && role !== 'ground') roleOf.set(joint, role);
  const out = new Map<Role, SegmentEnd[]>();
  for (const [joint, role] of roleOf) {
    let up = skeleton.parents[joint];
    while (up >= 0 && !roleOf.has(up)) up = skeleton.parents[up];
    if (up < 0) continue;
    const above = roleOf.get(up)!;
    const list = out.get(above) ?? [];
    list.push({ role, joint });
    out.set(above, list);
  }
  if (wholeLegs) {
    for (const side of SIDES) {
      const foot = body.roles.get(`${side}.foot`);
      if (foot !== undefined && body.roles.has(`${side}.upperLeg`)) out.set(`${side}.upperLeg`, [{ role: `${side}.foot`, joint: foot }]);
    }
  }
  const rank = (role: Role): number => {
    if (/^(spine|neck|head)/.test(role)) return 0;
    if (/middle/.test(role)) return 0;
    if (/index/.test(role)) return 1;
    if (/thumb/.test(role)) return 9;
    return 2;
  };
  for (const list of out.values()) list.sort((x, y) => rank(x.role) - rank(y.role));
  for (const [joint, role] of roleOf) {
    if (!out.has(role) && Number.isFinite(skeleton.tips[joint * 3])) out.set(role, [{ role: 'tip', joint: -1 }]);
  }
  return out;
}

/** The direction to a segment's end in the joint's own frame at rest. */
function localDirection(body: Rig, joint: number, end: SegmentEnd): Float64Array {
  const d = vec();
  if (end.joint < 0) {
    for (let c = 0; c < 3; c++) d[c] = body.skeleton.tips[joint * 3 + c];
    return d;
  }
  const p = body.restPose.positions;
  for (let c = 0; c < 3; c++) d[c] = p[end.joint * 3 + c] - p[joint * 3 + c];
  const inverse = Float64Array.of(
    -body.restPose.rotations[joint * 4],
    -body.restPose.rotations[joint * 4 + 1],
    -body.restPose.rotations[joint * 4 + 2],
    body.restPose.rotations[joint * 4 + 3],
  );
  rotate(d, 0, inverse, 0, d, 0);
  return d;
}

function between3(pose: Pose, from: number, to: number): Float64Array {
  const p = pose.positions;
  return Float64Array.of(p[to * 3] - p[from * 3], p[to * 3 + 1] - p[from * 3 + 1], p[to * 3 + 2] - p[from * 3 + 2]);
}

function sinBetween(a: Float64Array, b: Float64Array): number {
  const c = vec();
  cross(c, 0, a, 0, b, 0);
  return length(c, 0) / (length(a, 0) * length(b, 0));
}
