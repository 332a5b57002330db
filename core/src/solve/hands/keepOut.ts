import { rotate } from '../../math/quat';
import { OUT } from '../../contact';
import { distance, dot, length, normalize } from '../../math/vec';
import { gapTo, type Volume } from '../../rig';
import type { LimbTrack } from '../limbTrack';
import type { HandsGiven } from './given';
import { depthAlong, FORE_ARM, gapIn, ROOM, SIDE, sizeIn, type BodyRooms } from './rooms';

/** Hands no farther from the skin than this share of a leg are told of too. */
const BESIDE = 0.05;
/** From the wrist, which is 0, over the palm, which is 1, to the fingers; and how many places of it are looked at. */
const FINGERS = 2;
const POINTS = 5;
/** Share of a displacement of the hand that the place of its fore arm goes, as the elbow comes along by half of it. */
const COMES = 1 - FORE_ARM / 2;
/** A way out that is steeper than this to the one away from the middle is taken instead of it. */
const ASIDE = 0.2;

/** A hand, or a place of its fore arm, that is in a part of the body, or next to it. */
export interface InPart {
  readonly frame: number;
  readonly hand: number;
  readonly part: number;
  readonly isForeArm: boolean;
  /** How far it has to go along the way out, metres; below 0 where it is out. */
  readonly depth: number;
}

/**
 * The room that the character's own trunk, head and thighs take, as its mesh tells, or about lean bones: finds for each part the place that is
 * deepest, or nearest, of wrist, palm and fingers of each hand, and for legs one of each fore arm, as they are displaced by `shifts`, 3 per frame, in
 * frames that are asked for with 1.
 * @param inside is told of each, and of the unit way out, which is overwritten
 */
export type BodyRoom = (shifts: readonly Float64Array[], asked: Uint8Array, inside: (found: InPart, way: Float64Array) => void) => void;

/**
 * Makes the room ready in which no hand shall be.
 * @param met 1 in frames in which both hands meet: they go out together
 */
export function roomOf(
  given: HandsGiven,
  { parts, isLeg, poseAt, wayOut, isSkin, thick }: BodyRooms,
  arms: readonly LimbTrack[],
  met: Uint8Array,
): BodyRoom {
  const { character } = given.pairing;
  const { hands, legLength } = character;
  const beside = BESIDE * legLength;
  /** A place is no nearer to a part than this where it is so many times outside of it. */
  const outside = parts.map(({ half }) => 1 + (beside + thick) / Math.min(...half));
  const at = new Float64Array(3);
  const out = new Float64Array(3);
  const arm = new Float64Array(3);
  const away = new Float64Array(3);
  /** How far the points of each hand are from its wrist at most. */
  const spans = arms.map(({ data, at: where }, k) =>
    Math.max(FINGERS * length(hands[k].palm, 0), FORE_ARM * distance(data, where.mid, data, where.end)),
  );
  const least = parts.map(({ half }) => Math.min(...half));
  const resting = isSkin ? restingOn(given, parts, met.length) : undefined;
  const both = [0, 1];
  const single = [[0], [1]];
  /** Wrist, palm and fingers of each hand that is looked at; behind them a place on each fore arm. */
  const points = new Float64Array((POINTS + 1) * 3 * both.length);

  /** Writes where a hand's wrist is. */
  const traceWrist = (f: number, k: number, row: number, shift: Float64Array): void => {
    const { data, stride, at: where } = arms[k];
    for (let c = 0, p = row * POINTS * 3; c < 3; c++, p++) points[p] = data[f * stride + where.end + c] + shift[f * 3 + c];
  };
  /** Writes where its other places are, and that of its fore arm. */
  const traceRest = (f: number, k: number, row: number, rows: number, shift: Float64Array): void => {
    const { data, stride, at: where } = arms[k];
    const o = f * stride;
    rotate(arm, 0, data, o + where.endQ, hands[k].palm, 0);
    const wrist = row * POINTS * 3;
    for (let n = 1, p = wrist + 3; n < POINTS; n++) {
      const share = (n * FINGERS) / (POINTS - 1);
      for (let c = 0; c < 3; c++, p++) points[p] = points[wrist + c] + share * arm[c];
    }
    for (let c = 0, p = (rows * POINTS + row) * 3; c < 3; c++, p++) {
      const copied = data[o + where.end + c];
      points[p] = copied + FORE_ARM * (data[o + where.mid + c] - copied) + COMES * shift[f * 3 + c];
    }
  };
  const look = (f: number, ks: readonly number[], shifts: readonly Float64Array[], inside: Parameters<BodyRoom>[2]): void => {
    const { rooms } = poseAt(f);
    for (let row = 0; row < ks.length; row++) traceWrist(f, ks[row], row, shifts[ks[row]]);
    let isTraced = false;
    for (let i = 0; i < parts.length; i++) {
      if (!comesNear(rooms, i, ks) || (resting && ks.every((k) => resting[k][i]?.[f] === 1))) continue;
      if (!isTraced) for (let row = 0; row < ks.length; row++) traceRest(f, ks[row], row, ks.length, shifts[ks[row]]);
      isTraced = true;
      tell(f, ks, i, false, inside);
      // Its way out is another than that of the hand: both go theirs.
      if (isLeg[i]) tell(f, ks, i, true, inside);
    }
  };
  /** Tells of the place in a part, or next to it, that is deepest: of hands, or of fore arms. */
  const tell = (f: number, ks: readonly number[], i: number, isForeArm: boolean, inside: Parameters<BodyRoom>[2]): void => {
    const { rooms, pose } = poseAt(f);
    const count = ks.length * POINTS;
    const first = isForeArm ? count : 0;
    const last = isForeArm ? count + ks.length : count;
    let depth = -beside;
    let worst = -1;
    for (let n = first; n < last; n++) {
      const now = thick - gapIn(rooms, i, parts[i].half, points, n * 3);
      if (now <= depth) continue;
      depth = now;
      worst = n;
    }
    if (worst < 0) return;
    for (let c = 0; c < 3; c++) at[c] = points[worst * 3 + c];
    gapTo(parts[i], pose, at, 0, out);
    if (ks.length > 1) depth *= together(rooms.subarray(i * ROOM, i * ROOM + 3), points, count, out);
    else if (!isSkin) {
      // It goes out where the performer's hand, or fore arm, is; what a mesh tells is worth more.
      if (wayOut(away, f, ks[0], i, isForeArm ? FORE_ARM : undefined) >= 0) {
        if (depth > 0) depth = depthAlong(parts[i], pose, at, away, thick, out);
        // Elsewhere than on that side it is not held.
        else if (dot(away, 0, out, 0) < SIDE) return;
      } else if (isForeArm) return;
    }
    if (isForeArm) depth /= COMES;
    for (const hand of ks) inside({ frame: f, hand, part: i, isForeArm, depth }, out);
  };
  /** Square of how far a wrist is from a part's middle that may be near it. */
  const around = parts.map(({ half, drawn }) => {
    const far = Math.max(...half) + drawn + beside + thick + Math.max(...spans);
    return far * far;
  });
  /** False for a part that no point of some hands can be near, as their wrists are too far. */
  const comesNear = (rooms: Float64Array, i: number, ks: readonly number[]): boolean => {
    const o = i * ROOM;
    for (let row = 0, p = 0; row < ks.length; row++, p += POINTS * 3) {
      const [x, y, z] = [points[p] - rooms[o], points[p + 1] - rooms[o + 1], points[p + 2] - rooms[o + 2]];
      if (x * x + y * y + z * z > around[i]) continue;
      const farthest = outside[i] + spans[ks[row]] / least[i];
      if (sizeIn(rooms, i, points, p) < farthest * farthest) return true;
    }
    return false;
  };
  return (shifts, asked, inside) => {
    for (let f = 0; f < met.length; f++) {
      if (asked[f] === 0) continue;
      if (met[f]) look(f, both, shifts, inside);
      else for (const one of single) look(f, one, shifts, inside);
    }
  };
}

const between = new Float64Array(3);

/**
 * Turns the way out of a part away from its middle for hands on both sides of it.
 * @param points so many places of both hands, three numbers each
 * @param out the unit way out of the one that is deepest; it is turned
 * @returns how much farther it is that way
 */
function together(middle: Float64Array, points: Float64Array, count: number, out: Float64Array): number {
  for (let c = 0; c < 3; c++) {
    between[c] = -middle[c];
    for (let n = 0; n < count; n++) between[c] += points[n * 3 + c] / count;
  }
  normalize(between, 0);
  for (let c = 0; c < 3; c++) between[c] += out[c];
  const along = dot(between, 0, out, 0);
  const whole = length(between, 0);
  if (along <= ASIDE) return 1;
  for (let c = 0; c < 3; c++) out[c] = between[c] / whole;
  return whole / along;
}

/** A performer's palm nearer to its thigh than this share of a leg rests there. */
const ON_THIGH = 0.05;

/** Frames in which a hand rests on a thigh, with 1, by hand and part: it is brought to the skin there, of which a volume tells less. */
function restingOn(
  { contacts, pairing: { performer, character } }: HandsGiven,
  parts: readonly Volume[],
  frames: number,
): (Uint8Array | undefined)[][] {
  return character.hands.map(({ side }) =>
    parts.map(({ role }) => {
      const near = role.endsWith('upperLeg') && contacts.hands?.near?.find((one) => one.side === side && one.part === role);
      if (!near) return undefined;
      // What is farther away is not a number.
      return Uint8Array.from({ length: frames }, (_, f) => (near.out[f * OUT.stride + OUT.gap] < ON_THIGH * performer.legLength ? 1 : 0));
    }),
  );
}
