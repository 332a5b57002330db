import { coverCurve, fillCurve, unbroken } from '../../math/leastCurve';
import { fromAxisAngle, rotate } from '../../math/quat';
import { cross, dot, normalize } from '../../math/vec';
import { bendsAlong, type Bends } from '../legs';
import type { FootPath } from '../footPath';
import type { LimbTrack } from '../limbTrack';
import type { SolveSettings } from '../settings';
import type { HandsGiven } from './given';
import { depthAlong, FORE_ARM, gapIn, type BodyRooms } from './rooms';

/** Places of a fore arm that are kept out of the body, in shares of it from the wrist: the hand's own leaves by the hand. */
const PLACES = [1, 0.7, FORE_ARM] as const;
/** An elbow swings by no more than this, radians. */
const MOST = 0.8;
/** How slowly the swing bends, seconds: as a hand's own displacement. */
const SLOW = 0.18;
/** A swing that takes a place out of a part by less than this share of what it moves it does not help. */
const HELPS = 0.3;
/** An elbow nearer to the line from shoulder to hand than this share of the upper arm swings nowhere. */
const STRAIGHT = 0.1;
/** Rounds in which a frame's swing is found; what it is off by then is less than skin gives. */
const ROUNDS = 4;

/**
 * How far each arm turns about the line from shoulder to hand so that its elbow and fore arm are out of the body: on an arm that is longer than the
 * performer's the elbow of a raised hand hangs beside the hip. In each frame what is needed, found step by step; over time the least turn that is nowhere
 * less. What the performer's own fore arm is in is let be.
 * @param paths where the hands go; undefined where they stay as copied
 * @returns radians, one a frame, for each arm; undefined where none swings
 */
export function swingElbows(
  given: HandsGiven,
  rooms: BodyRooms,
  arms: readonly LimbTrack[],
  paths: readonly FootPath[] | undefined,
  settings: Pick<SolveSettings, 'softReach' | 'stretch'>,
): readonly (Float64Array | undefined)[] {
  const { frameTime, past } = given;
  return arms.map((arm, k) => {
    const needs = new Float64Array(arm.frames);
    const bends = bendsAlong(arm, paths?.[k], settings.softReach, settings.stretch);
    for (let f = past?.frames ?? 0; f < arm.frames; f++) needs[f] = needed(rooms, arm, bends, k, f);
    return inTime(needs, frameTime, past && { frames: past.frames, elbow: past.elbows[k] });
  });
}

/** The least turn over time that is nowhere less than is needed, to either side. */
function inTime(
  needs: Float64Array,
  frameTime: number,
  past: { readonly frames: number; readonly elbow: Float64Array | undefined } | undefined,
): Float64Array | undefined {
  const time = unbroken(needs.length, frameTime);
  const final = new Uint8Array(needs.length).fill(1, 0, past?.frames ?? 0);
  let out: Float64Array | undefined;
  if (past?.elbow?.subarray(0, past.frames).some((angle) => angle !== 0)) {
    // What was shown goes on, and dies out.
    out = new Float64Array(needs.length);
    out.set(past.elbow.subarray(0, past.frames));
    fillCurve(out, 1, final, SLOW, time);
  }
  for (const way of [1, -1]) {
    const more = coverCurve(
      needs.map((angle, f) => (way * angle > 0 ? way * (angle - (out?.[f] ?? 0)) : 0)),
      SLOW,
      time,
      final,
    );
    if (!more) continue;
    out ??= new Float64Array(needs.length);
    for (let f = 0; f < needs.length; f++) out[f] += way * more[f];
  }
  return out;
}

const [elbow, hand, shoulder, line, toElbow, swung, place, away, normal, tangent] = Array.from({ length: 10 }, () => new Float64Array(3));
const turn = new Float64Array(4);

/** The turn that a frame needs, radians. */
function needed(
  { parts, isLeg, poseAt, wayOut, thick }: BodyRooms,
  { data, stride, at }: LimbTrack,
  bends: Bends,
  k: number,
  f: number,
): number {
  bends(elbow, hand, f);
  for (let c = 0; c < 3; c++) {
    shoulder[c] = data[f * stride + at.top + c];
    line[c] = hand[c] - shoulder[c];
    toElbow[c] = elbow[c] - shoulder[c];
  }
  if (normalize(line, 0) === 0) return 0;
  const along = dot(toElbow, 0, line, 0);
  const upper = Math.sqrt(dot(toElbow, 0, toElbow, 0));
  const radius = Math.sqrt(Math.max(0, upper * upper - along * along));
  if (radius < STRAIGHT * upper) return 0;
  const { rooms, pose } = poseAt(f);
  let angle = 0;
  for (let round = 0; round < ROUNDS; round++) {
    fromAxisAngle(turn, 0, line[0], line[1], line[2], angle);
    rotate(swung, 0, turn, 0, toElbow, 0);
    cross(tangent, 0, line, 0, swung, 0);
    let most = 0;
    for (let i = 0; i < parts.length; i++) {
      if (!isLeg[i]) continue;
      for (const share of PLACES) {
        for (let c = 0; c < 3; c++) place[c] = hand[c] + share * (shoulder[c] + swung[c] - hand[c]);
        if (gapIn(rooms, i, parts[i].half, place, 0) >= thick) continue;
        const room = wayOut(away, f, k, i, share);
        if (room < 0) continue;
        const depth = depthAlong(parts[i], pose, place, away, Math.min(thick, room), normal);
        const helps = share * dot(tangent, 0, normal, 0);
        if (Math.abs(helps) > HELPS * share * radius && Math.abs(depth / helps) > Math.abs(most)) most = depth / helps;
      }
    }
    if (most === 0) break;
    angle = Math.max(-MOST, Math.min(MOST, angle + most));
  }
  return angle;
}
