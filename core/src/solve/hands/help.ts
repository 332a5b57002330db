import { chain, SIDES } from '../../label';
import type { Pairing } from '../../match';
import { gaussian } from '../../math/filter';
import { fromAxisAngle, invMul, mul, normalize } from '../../math/quat';
import { cross, distance, dot, length, sub } from '../../math/vec';
import { emptyPose, forward, withAncestors, type Pose } from '../../skeleton';
import type { FootPath } from '../footPath';
import type { LimbTurns } from '../legs';
import { wholeLength, type LimbTrack } from '../limbTrack';
import { placeBody } from '../placeBody';
import type { SolveSettings } from '../settings';
import type { HandsGiven } from './given';

/** Most that a clavicle, and the whole spine, turn to help an arm, radians. */
const CLAVICLE = 0.4;
const SPINE = 0.35;
/** Smoothing of the help: standard deviation, seconds. */
const SOFT = 0.1;
/** Help that moves nothing by more than this, radians. */
const NOTHING = 1e-4;

/** A group of joints, from the body outwards, that turns together to bring a shoulder nearer. */
interface Helper {
  readonly joints: readonly number[];
  readonly arms: readonly number[];
  readonly most: number;
  readonly weight: number;
}

/** Share of the farthest that a shoulder comes in its own direction that it comes in any. */
const ANY = 0.5;

/** Metres by which a body's shoulders come after its hands, as far as it is set that they do. */
export function helpOf(
  { roles, restPose: { positions } }: Pairing['character'],
  { clavicleHelp, spineHelp }: Pick<SolveSettings, 'clavicleHelp' | 'spineHelp'>,
): number {
  const away = (from: number | undefined): number => {
    const [a, b] = [from, roles.get('left.upperArm')];
    return a === undefined || b === undefined ? 0 : distance(positions, a * 3, positions, b * 3);
  };
  return ANY * (clavicleHelp * CLAVICLE * away(roles.get('left.clavicle')) + spineHelp * SPINE * away(chain(roles, 'spine').at(0)));
}

/**
 * Turns clavicles and spine towards places that an arm does not reach: by what is missing over the way from the joint to the
 * shoulder, no farther than a body can.
 * @param rotations local rotations of the posed body
 * @returns undefined when nothing has to help
 */
export function helpReach(
  given: HandsGiven,
  rotations: Float32Array,
  arms: readonly LimbTrack[],
  paths: readonly FootPath[],
  { clavicleHelp, spineHelp, softReach }: Pick<SolveSettings, 'clavicleHelp' | 'spineHelp' | 'softReach'>,
): { readonly rotations: Float32Array; readonly turns: readonly LimbTurns[] } | undefined {
  const { pairing, frameTime } = given;
  const { skeleton, roles } = pairing.character;
  const { parents } = skeleton;
  const helpers: Helper[] = [
    { joints: chain(roles, 'spine'), arms: [0, 1], most: SPINE, weight: spineHelp },
    ...SIDES.map((side, k) => ({ joints: [roles.get(`${side}.clavicle`) ?? -1], arms: [k], most: CLAVICLE, weight: clavicleHelp })),
  ].filter(({ joints, weight }) => weight > 0 && joints.length > 0 && joints[0] >= 0);
  if (helpers.length === 0) return undefined;
  const lacks = arms.map((arm, k) => lackOf(arm, paths[k], softReach));
  if (lacks.every((list) => list.every((v) => v === 0))) return undefined;
  const posed = withAncestors(
    parents,
    helpers.flatMap(({ joints }) => joints),
  );
  const body: Body = { given, rotations, posed, pose: emptyPose(skeleton), translations: skeleton.restT.slice() };
  const wanted = wantedTurns(body, arms, lacks, helpers);
  return layHelp(
    body,
    helpers,
    wanted.map((list) => gaussian(list, 3, SOFT / frameTime)),
  );
}

/** The posed body, and room to pose it in. */
interface Body {
  readonly given: HandsGiven;
  /** Local rotations. */
  readonly rotations: Float32Array;
  /** Joints that are posed. */
  readonly posed: Int32Array;
  readonly pose: Pose;
  readonly translations: Float64Array;
}

/** Rotation vectors in the world by which each helper would have to turn, no farther than it can; 3 per frame. @param lacks by which each arm is too short */
function wantedTurns(
  { given, rotations, posed, pose, translations }: Body,
  arms: readonly LimbTrack[],
  lacks: readonly Float64Array[],
  helpers: readonly Helper[],
): Float64Array[] {
  const { parents } = given.pairing.character.skeleton;
  const { frames } = arms[0];
  const arm = new Float64Array(3);
  const turn = new Float64Array(3);
  const wanted = helpers.map(() => new Float64Array(frames * 3));
  for (let f = 0; f < frames; f++) {
    if (lacks.every((list) => list[f * 3] === 0 && list[f * 3 + 1] === 0 && list[f * 3 + 2] === 0)) continue;
    placeBody(translations, given, f);
    forward(pose, parents, translations, rotations, f * parents.length * 4, posed);
    for (let h = 0; h < helpers.length; h++) {
      const { joints, arms: reaching, most, weight } = helpers[h];
      const out = wanted[h];
      for (const k of reaching) {
        const { data, stride, at } = arms[k];
        sub(arm, 0, data, f * stride + at.top, pose.positions, joints[0] * 3);
        const size = dot(arm, 0, arm, 0);
        if (size < 1e-9) continue;
        cross(turn, 0, arm, 0, lacks[k], f * 3);
        for (let c = 0; c < 3; c++) out[f * 3 + c] += (weight * turn[c]) / size;
      }
      const angle = length(out, f * 3);
      if (angle > most) for (let c = 0; c < 3; c++) out[f * 3 + c] *= most / angle;
    }
  }
  return wanted;
}

/** Turns each helper's joints, by like parts, as it is wanted. */
function layHelp(
  { given, rotations, posed, pose, translations }: Body,
  helpers: readonly Helper[],
  wanted: readonly Float64Array[],
): { readonly rotations: Float32Array; readonly turns: readonly LimbTurns[] } {
  const { parents } = given.pairing.character.skeleton;
  const count = parents.length;
  const frames = wanted[0].length / 3;
  const out = rotations.slice();
  const all = helpers.flatMap(({ joints }) => joints);
  const q = new Float64Array(4);
  const idle = new Uint8Array(frames).fill(1);
  for (let f = 0; f < frames; f++) {
    const row = f * count * 4;
    for (let h = 0; h < helpers.length; h++) {
      const { joints } = helpers[h];
      const v = wanted[h];
      const o = f * 3;
      const angle = length(v, o);
      if (angle < NOTHING) continue;
      idle[f] = 0;
      fromAxisAngle(q, 0, v[o] / angle, v[o + 1] / angle, v[o + 2] / angle, angle / joints.length);
      placeBody(translations, given, f);
      for (const joint of joints) {
        // Turned in the world, as all that is above it has been turned already.
        forward(pose, parents, translations, out, row, posed);
        mul(pose.rotations, joint * 4, q, 0, pose.rotations, joint * 4);
        const parent = parents[joint];
        if (parent < 0) for (let c = 0; c < 4; c++) out[row + joint * 4 + c] = pose.rotations[joint * 4 + c];
        else invMul(out, row + joint * 4, pose.rotations, parent * 4, pose.rotations, joint * 4);
        normalize(out, row + joint * 4);
      }
    }
  }
  const turns = new Float32Array(frames * all.length * 4);
  for (let f = 0; f < frames; f++) {
    all.forEach((joint, i) => {
      for (let c = 0; c < 4; c++) turns[(f * all.length + i) * 4 + c] = out[(f * count + joint) * 4 + c];
    });
  }
  return { rotations: out, turns: [{ joints: all, rotations: turns, idle, miss: { distance: 0, frame: 0 } }] };
}

/** The distance an arm is too short by, towards its hand's place; 3 per frame. */
function lackOf(arm: LimbTrack, { ankle, idle }: FootPath, softReach: number): Float64Array {
  const { data, stride, at, frames } = arm;
  const out = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    if (idle?.[f]) continue;
    const o = f * stride;
    const whole = wholeLength(arm, f);
    const reach = Math.max(softReach * whole, distance(data, o + at.top, data, o + at.end));
    const d = distance(ankle, f * 3, data, o + at.top);
    if (d <= reach) continue;
    for (let c = 0; c < 3; c++) out[f * 3 + c] = ((ankle[f * 3 + c] - data[o + at.top + c]) * (d - reach)) / d;
  }
  return out;
}
