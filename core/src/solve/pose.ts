import { ClipReader, repeated, type Clip } from '../clip';
import { SIDES } from '../label';
import type { Pairing } from '../match';
import { copy, invMul, mul, normalize, rotate, slerp } from '../math/quat';
import { forwardTurns, withAncestors } from '../skeleton';
import { Drive, type PosePlan } from './plan';
import type { Steady } from './steady';
import { TurnedBack } from './turnedBack';
import { poseWholeLeg } from './wholeLegs';

/** The character's pose over time, before it is placed in the world. */
export interface Posed {
  readonly frames: number;
  readonly frameTime: number;
  /** Local rotations of the character, frames × joints × 4. */
  readonly rotations: Float32Array;
  /** The middle of the performer's hip joints, 3 per frame. */
  readonly middle: Float64Array;
  /** Local translations of joints that slide, 3 per frame. */
  readonly slides: readonly { readonly joint: number; readonly values: Float32Array }[];
}

/** A slide of less than this share of a leg is rounding. */
const STILL = 1e-4;

/**
 * Pose transfer: lays each joint's turn from rest on the matched rest of the joints that it drives.
 * @param take on the performer's skeleton, metres, Y up
 * @param steady how the hips are to be turned back
 */
export function posePerformance({ performer, character }: Pairing, plan: PosePlan, take: Clip, steady: Steady): Posed {
  const { parents } = character.skeleton;
  const joints = parents.length;
  const { frames } = take;
  const { drive, a, b, share, factorA, factorB, turning, rest, wholeLegs, isWhole } = plan;
  const theirs = performer.skeleton.parents;
  const hips = SIDES.map((side) => performer.roles.get(`${side}.upperLeg`)!);
  // Of most joints only the turn is asked.
  const back = new TurnedBack(performer);
  const placed = withAncestors(theirs, [...hips, ...back.joints, ...wholeLegs.flatMap(({ hip, ankle }) => [hip, ankle])]);
  const others = withAncestors(theirs, [...a, ...b]).filter((j) => !placed.includes(j));
  const reader = new ClipReader(performer.skeleton, take, placed);
  const [left, right] = hips.map((hip) => hip * 3);
  const rotations = repeated(rest, frames);
  const middle = new Float64Array(frames * 3);
  const G = new Float64Array(joints * 4);
  const q = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const pose = reader.at(f);
    const { positions, rotations: S } = pose;
    forwardTurns(S, theirs, take.rotations, f * theirs.length * 4, others);
    back.turn(pose, steady, f);
    const row = f * joints * 4;
    for (let c = 0; c < 3; c++) middle[f * 3 + c] = (positions[left + c] + positions[right + c]) / 2;
    for (let i = 0; i < wholeLegs.length; i++) poseWholeLeg(G, wholeLegs[i], pose);
    for (let i = 0; i < turning.length; i++) {
      const j = turning[i];
      const parent = parents[j];
      const o = j * 4;
      if (isWhole[j] === 1) {
        invMul(rotations, row + o, G, parent * 4, G, o);
        continue;
      }
      if (drive[j] === Drive.Rest) {
        if (parent < 0) copy(G, o, rest, o);
        else mul(G, o, G, parent * 4, rest, o);
        continue;
      }
      mul(G, o, S, a[j] * 4, factorA, o);
      if (drive[j] === Drive.Blend) {
        mul(q, 0, S, b[j] * 4, factorB, o);
        slerp(G, o, G, o, q, 0, share[j]);
        normalize(G, o);
      }
      if (parent < 0) copy(rotations, row + o, G, o);
      else invMul(rotations, row + o, G, parent * 4, G, o);
    }
  }
  return {
    frames,
    frameTime: take.frameTime,
    rotations,
    middle,
    slides: slidesOf(performer.legLength, performer.skeleton.restT, plan, take),
  };
}

/** Translations of the take's joints that do not stand at their rest place, on a character of the same body. */
function slidesOf(leg: number, restT: Float64Array, { slides, mover }: PosePlan, take: Clip): Posed['slides'] {
  const v = new Float64Array(3);
  return slides.flatMap(({ joint, source, turn, ratio }) => {
    const track = take.moves.find((move) => move.joint === source);
    if (!track || joint === mover || !slidesAway(track.values, restT, source, leg)) return [];
    const values = new Float32Array(track.values.length);
    for (let i = 0; i < values.length; i += 3) {
      for (let c = 0; c < 3; c++) v[c] = track.values[i + c] * ratio;
      rotate(values, i, turn, 0, v, 0);
    }
    return [{ joint, values }];
  });
}

/** True when a joint's translations leave its rest place by more than rounding. */
export function slidesAway(values: Float32Array, restT: Float64Array, joint: number, leg: number): boolean {
  for (let i = 0; i < values.length; i++) if (Math.abs(values[i] - restT[joint * 3 + (i % 3)]) > STILL * leg) return true;
  return false;
}
