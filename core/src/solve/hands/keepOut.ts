import { square } from '../../math/numbers';
import { copy, rotate } from '../../math/quat';
import { length } from '../../math/vec';
import { exitAlong, gapTo, leanVolumes, type Volume } from '../../rig';
import { emptyPose, forward, withAncestors, type Pose } from '../../skeleton';
import type { LimbTrack } from '../limbTrack';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';
import { waysOut } from './wayOut';

/** Half the thickness of a hand, as a share of a leg: the give of skin is taken off it. */
const THICK = 0.014;
/** Hands no farther from the skin than this share of a leg are told of too. */
const BESIDE = 0.05;
/** From the wrist, which is 0, over the palm, which is 1, to the fingers. */
const FINGERS = 2;
/** Trunk, head and thighs. */
const PARTS = /^(hips|spine\.|head|(left|right)\.upperLeg)/;
/** A way out that is steeper than this to the one away from the middle is taken instead of it. */
const ASIDE = 0.2;

/** Called for a hand that is in the body, or next to it: the way out, unit, and how far it has to go along it, metres; below 0 where it is out. */
export type Inside = (frame: number, hand: number, x: number, y: number, z: number, depth: number) => void;

/**
 * The room that the character's own trunk, head and thighs take, as its mesh tells, or about lean bones: finds the place that is deepest, or
 * nearest, of wrist, palm and fingers of each hand, as it is displaced by `shifts`, 3 per frame.
 */
export type BodyRoom = (shifts: readonly Float64Array[], inside: Inside) => void;

/**
 * Makes the room ready in which no hand shall be.
 * @param met 1 in frames in which both hands meet: they go out together
 * @returns undefined for a body of which nothing is known
 */
export function roomOf(given: HandsGiven, arms: readonly LimbTrack[], met: Uint8Array): BodyRoom | undefined {
  const { character } = given.pairing;
  const { hands, volumes, legLength } = character;
  const found = volumes.length > 0 ? volumes.filter(({ role }) => PARTS.test(role)) : leanVolumes(character);
  if (found.length === 0) return undefined;
  const poseAt = poserOf(given, found);
  const parts = found.map((part, i) => ({ ...part, joint: i }));
  const reach = parts.map(({ half }) => Math.max(...half) + BESIDE * legLength);
  const thick = THICK * legLength;
  const at = new Float64Array(3);
  const out = new Float64Array(3);
  const arm = new Float64Array(3);
  const place = new Float64Array(3);
  const wayOut = waysOut(given, found, poseAt);
  const both = [0, 1];
  const single = [[0], [1]];

  /** Whether a hand is near any part; each part's place stands under its own number. */
  const isNear = (k: number, f: number, shift: Float64Array): boolean => {
    const { data, stride, at: where } = arms[k];
    const { positions } = poseAt(f);
    const fingers = FINGERS * length(hands[k].palm, 0);
    for (let i = 0; i < parts.length; i++) {
      let size = 0;
      for (let c = 0; c < 3; c++) size += square(data[f * stride + where.end + c] + shift[f * 3 + c] - positions[i * 3 + c]);
      const most = reach[i] + length(parts[i].middle, 0) + fingers;
      if (size < most * most) return true;
    }
    return false;
  };
  const look = (f: number, ks: readonly number[], shifts: readonly Float64Array[], inside: Inside): void => {
    const pose = poseAt(f);
    let deepest = -BESIDE * legLength;
    let [x, y, z] = [0, 0, 0];
    let part = 0;
    let [mx, my, mz] = [0, 0, 0];
    for (const k of ks) {
      const { data, stride, at: where } = arms[k];
      const o = f * stride;
      rotate(arm, 0, data, o + where.endQ, hands[k].palm, 0);
      for (let share = 0; share <= FINGERS; share++) {
        for (let c = 0; c < 3; c++) at[c] = data[o + where.end + c] + share * arm[c] + shifts[k][f * 3 + c];
        for (let i = 0; i < parts.length; i++) {
          const depth = thick - gapTo(parts[i], pose, at, 0, out);
          if (depth <= deepest) continue;
          deepest = depth;
          part = parts[i].joint;
          [x, y, z] = out;
          place.set(at);
        }
      }
      mx += (at[0] - pose.positions[part * 3]) / ks.length;
      my += (at[1] - pose.positions[part * 3 + 1]) / ks.length;
      mz += (at[2] - pose.positions[part * 3 + 2]) / ks.length;
    }
    if (deepest === -BESIDE * legLength) return;
    if (ks.length > 1) {
      // On both sides of a head there is no way out but away from it.
      const size = Math.sqrt(mx * mx + my * my + mz * mz) || 1;
      const [dx, dy, dz] = [x + mx / size, y + my / size, z + mz / size];
      const along = dx * x + dy * y + dz * z;
      if (along > ASIDE) {
        const whole = Math.sqrt(dx * dx + dy * dy + dz * dz);
        [x, y, z] = [dx / whole, dy / whole, dz / whole];
        deepest *= whole / along;
      }
    } else if (wayOut(out, f, ks[0], part)) {
      // It goes out where the performer's hand is.
      const along = Math.max(ASIDE, x * out[0] + y * out[1] + z * out[2]);
      deepest = deepest > 0 ? exitAlong(parts[part], pose, place, out, thick) : deepest / along;
      [x, y, z] = out;
    }
    for (const k of ks) inside(f, k, x, y, z, deepest);
  };
  return (shifts, inside) => {
    for (let f = 0; f < met.length; f++) {
      const left = isNear(0, f, shifts[0]);
      const right = isNear(1, f, shifts[1]);
      if (met[f] && (left || right)) look(f, both, shifts, inside);
      else {
        if (left) look(f, single[0], shifts, inside);
        if (right) look(f, single[1], shifts, inside);
      }
    }
  };
}

/** Poses some volumes, whose joints stand in each pose under the volumes' own numbers; a frame is posed once. */
function poserOf(given: HandsGiven, parts: readonly Volume[]): (frame: number) => Pose {
  const { skeleton } = given.pairing.character;
  const { parents } = skeleton;
  const chain = withAncestors(
    parents,
    parts.map(({ joint }) => joint),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const posed: Pose[] = [];
  return (f) => {
    if (posed[f] !== undefined) return posed[f];
    placeBody(translations, given, f);
    forward(pose, parents, translations, given.rotations, f * parents.length * 4, chain);
    const own = { positions: new Float64Array(parts.length * 3), rotations: new Float64Array(parts.length * 4) };
    parts.forEach(({ joint }, i) => {
      for (let c = 0; c < 3; c++) own.positions[i * 3 + c] = pose.positions[joint * 3 + c];
      copy(own.rotations, i * 4, pose.rotations, joint * 4);
    });
    return (posed[f] = own);
  };
}
