import { copy, mulInv, rotate } from '../../math/quat';
import { dot, normalize } from '../../math/vec';
import { exitAlong, gapTo, leanVolumes, type Volume } from '../../rig';
import { emptyPose, forward, withAncestors, type Pose } from '../../skeleton';
import { wholeLength, type LimbTrack } from '../limbTrack';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';
import { waysOut, type WayOut } from './wayOut';

/** Half the thickness of a hand, or of a fore arm, with the give of skin taken off it: of a body with a mesh as a share of a leg. */
const THICK = 0.014;
/** Of a lean body as a share of an arm: its parts are rather too thin, and hands of long arms are large. */
const LEAN = 0.025;
/** Trunk, head and thighs. */
const PARTS = /^(hips|spine\.|head|(left|right)\.upperLeg)/;
const LEG = /Leg$/;
/** The place of a fore arm that is kept out of legs with its hand, as a share of it from the wrist. */
export const FORE_ARM = 0.4;

/** The room that the parts of a character's own body take, in which neither its hands nor its fore arms shall be. */
export interface BodyRooms {
  /** Their joints are their own numbers. */
  readonly parts: readonly Volume[];
  /** Which of them are a leg's: elbows lie against the others, and fore arms are kept out of these only. */
  readonly isLeg: readonly boolean[];
  /** A frame is posed once. */
  readonly poseAt: (frame: number) => Placed;
  /** On which side of them the performer's arms are. */
  readonly wayOut: WayOut;
  /** Whether the body's mesh tells of them. */
  readonly isSkin: boolean;
  /** Half the thickness of what is kept out of them, metres. */
  readonly thick: number;
}

/**
 * The room of trunk, head and thighs, as the character's mesh tells, or about lean bones, shins too.
 * @returns undefined for a body of which nothing is known
 */
export function bodyRooms(given: HandsGiven, arms: readonly LimbTrack[]): BodyRooms | undefined {
  const { character } = given.pairing;
  const { volumes } = character;
  const isSkin = volumes.length > 0;
  const found = isSkin ? volumes.filter(({ role }) => PARTS.test(role)) : leanVolumes(character);
  if (found.length === 0 || arms.length === 0) return undefined;
  const poseAt = poserOf(given, found);
  const parts = found.map((part, i) => ({ ...part, joint: i }));
  return {
    parts,
    isLeg: parts.map(({ role }) => LEG.test(role)),
    poseAt,
    wayOut: waysOut(given, found, poseAt),
    isSkin,
    thick: isSkin ? THICK * character.legLength : LEAN * wholeLength(arms[0], 0),
  };
}

/** Cosine of how far a place may leave a part beside the way out: a hand does not leave it on both sides. */
export const SIDE = 0.5;

const exit = new Float64Array(3);

/**
 * How far a place in a part is under the plane that touches the part where the place comes out along a way: beyond that plane it is out, and near the
 * part's edge little is missing, however far it is along the way. A plane that is too steep to that way is turned to it.
 * @param larger metres by which the part is larger all around
 * @param normal of that plane, away from the part; written
 */
export function depthAlong(
  part: Volume,
  pose: Pose,
  place: Float64Array,
  away: Float64Array,
  larger: number,
  normal: Float64Array,
): number {
  const far = exitAlong(part, pose, place, away, larger);
  for (let c = 0; c < 3; c++) exit[c] = place[c] + far * away[c];
  gapTo(part, pose, exit, 0, normal);
  const along = dot(away, 0, normal, 0);
  if (along >= SIDE) return far * along;
  for (let c = 0; c < 3; c++) normal[c] -= along * away[c];
  normalize(normal, 0);
  for (let c = 0; c < 3; c++) normal[c] = SIDE * away[c] + Math.sqrt(1 - SIDE * SIDE) * normal[c];
  return far * SIDE;
}

/** Numbers of a volume that is placed. */
export const ROOM = 13;

/** Where the volumes are in a frame. */
export interface Placed {
  /** Of each its middle, the matrix that makes it the unit ball, row by row, and how far that is drawn out. */
  readonly rooms: Float64Array;
  /** Their joints, under the volumes' own numbers. */
  readonly pose: Pose;
}

const q = new Float64Array(4);
const middle = new Float64Array(3);
const row = new Float64Array(3);

/** Poses some volumes; a frame is posed once. */
function poserOf(given: HandsGiven, parts: readonly Volume[]): (frame: number) => Placed {
  const { skeleton } = given.pairing.character;
  const { parents } = skeleton;
  const chain = withAncestors(
    parents,
    parts.map(({ joint }) => joint),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const posed: Placed[] = [];
  return (f) => {
    if (posed[f] !== undefined) return posed[f];
    placeBody(translations, given, f);
    forward(pose, parents, translations, given.rotations, f * parents.length * 4, chain);
    const own = { positions: new Float64Array(parts.length * 3), rotations: new Float64Array(parts.length * 4) };
    const rooms = new Float64Array(parts.length * ROOM);
    parts.forEach((part, i) => {
      for (let c = 0; c < 3; c++) own.positions[i * 3 + c] = pose.positions[part.joint * 3 + c];
      copy(own.rotations, i * 4, pose.rotations, part.joint * 4);
      rotate(middle, 0, own.rotations, i * 4, part.middle, 0);
      for (let c = 0; c < 3; c++) rooms[i * ROOM + c] = own.positions[i * 3 + c] + middle[c];
      // The ellipsoid's own axes in the world are the rows.
      mulInv(q, 0, own.rotations, i * 4, part.turn, 0);
      rooms[i * ROOM + 12] = part.drawn / part.half[1];
      for (let r = 0; r < 3; r++) {
        row.fill(0);
        row[r] = 1 / part.half[r];
        rotate(rooms, i * ROOM + 3 + r * 3, q, 0, row, 0);
      }
    });
    return (posed[f] = { rooms, pose: own });
  };
}

/** Square of how many times outside of a volume that is placed a place is. */
export function sizeIn(rooms: Float64Array, i: number, places: Float64Array, at: number): number {
  const o = i * ROOM;
  const x = places[at] - rooms[o];
  const y = places[at + 1] - rooms[o + 1];
  const z = places[at + 2] - rooms[o + 2];
  let size = 0;
  for (let m = o + 3; m < o + 12; m += 3) {
    let u = rooms[m] * x + rooms[m + 1] * y + rooms[m + 2] * z;
    if (m === o + 6) u -= Math.max(-rooms[o + 12], Math.min(rooms[o + 12], u));
    size += u * u;
  }
  return size;
}

/** How far a place is from the surface of a volume that is placed, as `gapTo` says it. */
export function gapIn(rooms: Float64Array, i: number, half: Float64Array, places: Float64Array, at: number): number {
  const o = i * ROOM;
  const x = places[at] - rooms[o];
  const y = places[at + 1] - rooms[o + 1];
  const z = places[at + 2] - rooms[o + 2];
  let size = 0;
  let steep = 0;
  for (let r = 0, m = o + 3; r < 3; r++, m += 3) {
    let u = rooms[m] * x + rooms[m + 1] * y + rooms[m + 2] * z;
    if (r === 1) u -= Math.max(-rooms[o + 12], Math.min(rooms[o + 12], u));
    size += u * u;
    steep += (u * u) / (half[r] * half[r]);
  }
  const times = Math.sqrt(size);
  return steep < 1e-18 ? -Math.min(half[0], half[1], half[2]) : (times * (times - 1)) / Math.sqrt(steep);
}
