import { OUT, partsFor, type BodyPartBone } from '../../contact';
import { SIDES } from '../../label';
import { mulInv, rotate } from '../../math/quat';
import { gapTo, type Volume } from '../../rig';
import { emptyPose, forward, pointInWorld, withAncestors, type Pose } from '../../skeleton';
import { nearHeld } from '../held';
import { distance } from '../../math/vec';
import type { LimbTrack } from '../limbTrack';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';
import { targetOf, type HandWant } from './wants';
import { square } from '../../math/numbers';

/** Where the skin is looked for along a way out, shares of a leg: from far outside inwards, in so many steps. */
const OUTSIDE = 0.6;
const STEPS = 10;
/** A hand goes no farther for the own body than these shares of a leg: a hat's brim is no forehead, a coat no chest. */
const FARTHEST = { thigh: 0.3, other: 0.08 } as const;
/** A hand on the body turns along with its arm by so much, and so many seconds before and after. */
const ALONG = 0.6;
const ALONG_AROUND = 0.6;
/** Share of its length that an arm can be counted on for, and how closely the farthest place that it reaches is found. */
const FULL = 0.97;
const HALVINGS = 12;
/** Nearer to the joint than this share of the bone it is another part of the body. */
const NEAREST = 0.3;
/** Half the thickness of a hand, share of a leg. */
const HAND = 0.012;

/** A part of the character with the room that its mesh takes: limbs are capsules, trunk and head are fuller. */
interface Part extends BodyPartBone {
  readonly volumes: readonly Volume[];
  readonly radius: number;
  /** The hand that touches it. */
  readonly k: number;
}

/**
 * Hands that touch the own body come to the same place of this body: as far along the bone, the same way out of it, on its own skin.
 * @param palms of the posed character, 3 per frame
 */
export function bodyWants(given: HandsGiven, arms: readonly LimbTrack[], palms: readonly Float64Array[]): HandWant[] {
  const { pairing, contacts } = given;
  const { character, match, scale } = pairing;
  const touches = contacts.hands?.touches.filter(({ on }) => on === 'body') ?? [];
  if (touches.length === 0) return [];
  const { skeleton, volumes, thickness, legLength } = character;
  const parts = SIDES.map((side) => partsFor(character, side).map((bone) => withRoom(bone, volumes, thickness, legLength)));
  const chain = withAncestors(
    skeleton.parents,
    parts.flatMap((list) => list.flatMap(({ joint, end, volumes }) => [joint, ...(end >= 0 ? [end] : []), ...volumes.map((v) => v.joint)])),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const turn = new Float64Array(4);
  const from = new Float64Array(3);
  const end = new Float64Array(3);
  const out = new Float64Array(3);
  let part!: Part;
  let gap = 0;
  /** Sets the place within the part, so far along its bone. @returns how far out of it the palm lies */
  const place = (along: number): number => {
    for (let c = 0; c < 3; c++) {
      const p = pose.positions[part.joint * 3 + c];
      from[c] = p + along * (end[c] - p);
    }
    return skinAlong(part, pose, from, out, legLength) + gap;
  };
  const reaches = ({ data, stride, at: where }: LimbTrack, f: number, along: number): boolean => {
    const reach = place(along);
    const o = f * stride;
    let d = 0;
    let palm = 0;
    for (let c = 0; c < 3; c++) {
      d += square(from[c] + out[c] * reach - data[o + where.top + c]);
      palm += square(palms[part.k][f * 3 + c] - data[o + where.end + c]);
    }
    const arm = distance(data, o + where.top, data, o + where.mid) + distance(data, o + where.mid, data, o + where.end);
    return Math.sqrt(d) <= FULL * arm + 0.5 * Math.sqrt(palm);
  };
  return touches.flatMap(({ side, part: role, first, last }): HandWant[] => {
    const k = SIDES.indexOf(side);
    const found = parts[k].find((one) => one.role === role);
    const near = contacts.hands?.near?.find((one) => one.side === side && one.part === role);
    if (!found || !near) return [];
    part = { ...found, k };
    const most = (part.role.endsWith('upperLeg') ? FARTHEST.thigh : FARTHEST.other) * legLength;
    const target = targetOf(first, last, (f, error, i) => {
      const o = f * OUT.stride;
      if (Number.isNaN(near.out[o + OUT.gap])) {
        error.fill(NaN, i, i + 3);
        return;
      }
      placeBody(translations, given, f);
      forward(pose, skeleton.parents, translations, given.rotations, f * skeleton.parents.length * 4, chain);
      endOf(end, part, pose);
      for (let c = 0; c < 3; c++) out[c] = near.out[o + OUT.direction + c];
      mulInv(turn, 0, pose.rotations, part.joint * 4, match.pose.rotations, part.joint * 4);
      rotate(out, 0, turn, 0, out, 0);
      gap = HAND * legLength + Math.max(0, near.out[o + OUT.gap]) * scale.lift;
      // Where it is out of reach the hand comes down nearer to the joint: a short arm rests higher on the thigh.
      let along: number = near.out[o + OUT.along];
      if (!reaches(arms[k], f, along)) {
        let [low, high] = [Math.min(along, NEAREST), along];
        for (let step = 0; step < HALVINGS; step++) {
          along = (low + high) / 2;
          if (reaches(arms[k], f, along)) low = along;
          else high = along;
        }
      }
      const reach = place(along);
      for (let c = 0; c < 3; c++) error[i + c] = from[c] + out[c] * reach - palms[k][f * 3 + c];
      keepWithin(error, i, most);
    });
    return [{ how: 'at', hand: k, first, last, target }];
  });
}

/** How far each hand turns along with its arm, frame by frame: those on the own body, and just before and after. */
export function alongOf(wants: readonly HandWant[], hands: number, frames: number, frameTime: number): Float64Array[] {
  return Array.from({ length: hands }, (_, k) => {
    const on = new Uint8Array(frames);
    for (const { hand, first, last } of wants) if (hand === k) on.fill(1, first, last + 1);
    return nearHeld(on, ALONG_AROUND / frameTime).map((near) => ALONG * near);
  });
}

/** No hand goes farther than some way, without a corner: arms would not be the performer's any more. */
function keepWithin(v: Float64Array, i: number, most: number): void {
  const x = (v[i] * v[i] + v[i + 1] * v[i + 1] + v[i + 2] * v[i + 2]) / (most * most);
  const kept = 1 / Math.sqrt(Math.sqrt(1 + x * x));
  for (let c = 0; c < 3; c++) v[i + c] *= kept;
}

function withRoom(bone: BodyPartBone, volumes: readonly Volume[], thickness: Float64Array, leg: number): Part {
  const near = volumes.filter(({ role }) =>
    bone.role === 'hips' ? role === 'hips' || role.startsWith('spine.') : bone.role === 'head' && role === 'head',
  );
  return { ...bone, volumes: near, radius: thickness[bone.joint] > 0 ? thickness[bone.joint] : bone.thick * leg, k: 0 };
}

function endOf(out: Float64Array, { joint, end, tip }: BodyPartBone, pose: Pose): void {
  if (tip) pointInWorld(out, 0, pose, joint, tip, 0);
  else for (let c = 0; c < 3; c++) out[c] = pose.positions[end * 3 + c];
}

const at = new Float64Array(3);
const away = new Float64Array(3);

/** How far from a place within a part its skin lies along a way out: sphere tracing from outside. */
function skinAlong({ volumes, radius }: Part, pose: Pose, from: Float64Array, out: Float64Array, leg: number): number {
  if (volumes.length === 0) return radius;
  let far = OUTSIDE * leg;
  for (let step = 0; step < STEPS; step++) {
    for (let c = 0; c < 3; c++) at[c] = from[c] + far * out[c];
    let gap = Infinity;
    for (let i = 0; i < volumes.length; i++) gap = Math.min(gap, gapTo(volumes[i], pose, at, 0, away));
    far -= gap;
    if (far <= 0) return radius;
  }
  return far;
}
