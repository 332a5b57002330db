import { chain, SIDES } from '../../label';
import { eased } from '../../math/filter';
import { copy, fromAxisAngle, identity, invMul, mul, normalize } from '../../math/quat';
import { cross, distance, dot, length, outer, sub } from '../../math/vec';
import { bandOf, BandSystem } from '../../math/band';
import { bendsOf, stiffnessOf } from '../../math/leastCurve';
import { emptyPose, forward, withAncestors, type Pose } from '../../skeleton';
import type { LimbTurns } from '../legs';
import { wholeLength, type LimbTrack } from '../limbTrack';
import { placeBody } from '../placeBody';
import { breaksOf } from '../resolve/breaks';
import { stretchesOf } from '../resolve/stretches';
import { weightIn } from '../resolve/wanted';
import type { SolveSettings } from '../settings';
import type { HandsGiven } from './given';
import { placeWants } from './plan';
import { PLAY, REACH } from './rests';
import type { HandWant } from './wants';

/** Most that a clavicle, and the whole spine, turn to help an arm, radians. */
const CLAVICLE = 0.4;
const SPINE = 0.5;
/** How slowly the help bends, seconds, and so many of them around what needs it nothing of it is left. */
const SLOW = 0.25;
const AROUND = 8;
/** Square of a radian beside the square of a metre by which a hand is missed, in what a want weighs: so much lean a body takes on for its hand. */
const LEAN = 0.01;
/** Rounds in which it is found which arms are too short where the trunk has come along. */
const ROUNDS = 6;
/** Help that moves nothing by more than this, radians. */
const NOTHING = 1e-4;

/** What of a body its trunk's help is told from. */
interface HelpGiven extends Omit<HandsGiven, 'rotations'> {
  /** Local rotations of the posed body. */
  readonly posed: Float32Array;
}

/** A group of joints, from the body outwards, that turns together to bring a shoulder nearer. */
interface Helper {
  readonly joints: readonly number[];
  readonly arms: readonly number[];
  /** Most that it turns, radians. */
  readonly most: number;
}

/**
 * Turns spine and clavicles so that shoulders come as near to the places of hands that rest or hold something as arms of such a length need it:
 *
 *     0.01 (|v|² + τ⁴ |v″|²)                for the turn v of spine and of each clavicle
 *     |way out · shift of the shoulder − lack|²   for each want, weighed as it is, where the arm is still too short
 *
 * so that a body leans after its hands before it needs them and gives back what it leaned slowly. Head and arms keep their turns in the world.
 * @param arms the arms through the posed and placed body
 * @returns undefined when nothing has to help
 */
export function helpReach(
  given: HelpGiven,
  arms: readonly LimbTrack[],
  { clavicleHelp, spineHelp }: Pick<SolveSettings, 'clavicleHelp' | 'spineHelp'>,
): { readonly rotations: Float32Array; readonly turns: LimbTurns } | undefined {
  const { roles } = given.pairing.character;
  const helpers: Helper[] = [
    { joints: chain(roles, 'spine'), arms: [0, 1], most: SPINE * spineHelp },
    ...SIDES.map((side, k) => ({ joints: [roles.get(`${side}.clavicle`) ?? -1], arms: [k], most: CLAVICLE * clavicleHelp })),
  ].filter(({ joints, most }) => most > 0 && joints.length > 0 && joints[0] >= 0);
  // Frames that are final have their trunk as it was shown, which nothing here knows: as they come, bodies lean after nothing.
  if (helpers.length === 0 || given.past || given.pairing.same.same) return undefined;
  const wants = placeWants(given, arms, false);
  if (wants.length === 0) return undefined;
  const asked = arms.map((arm, k) => askedOf(arm, k, wants, given));
  const { frames } = arms[0];
  const lacking = new Uint8Array(frames);
  arms.forEach((arm, k) => {
    for (let f = 0; f < frames; f++) if (lackOf(way, arm, asked[k], f, arm.data, f * arm.stride + arm.at.top) > 0) lacking[f] = 1;
  });
  if (!lacking.includes(1)) return undefined;
  const body = bodyOf(given, arms, helpers);
  const breaks = breaksOf(arms, given.frameTime);
  for (const stretch of stretchesOf(lacking, Math.ceil((AROUND * SLOW) / given.frameTime), [0, frames - 1])) {
    for (let round = 0; round < ROUNDS; round++) lean(body, stretch, { arms, asked, breaks, frameTime: given.frameTime });
  }
  return laid(body);
}

/** Where a hand shall be, and how much that weighs against other things, one a frame; 0 where nothing is asked for. */
interface Asked {
  /** Metres that are let be. */
  readonly play: number;
  readonly places: Float64Array;
  readonly weights: Float64Array;
}

/** Wants of one hand that have a place: that of a rest is the mean of where it would be. */
function askedOf({ data, stride, at, frames }: LimbTrack, k: number, wants: readonly HandWant[], { pairing, frameTime }: HelpGiven): Asked {
  const places = new Float64Array(frames * 3);
  const weights = new Float64Array(frames);
  for (const want of wants) {
    if (want.hand !== k || want.how === 'towards') continue;
    const { first, last, target, how, isHigh } = want;
    const mean = [0, 0, 0];
    if (how === 'still') for (let i = 0; i < target.length; i++) if (!isHigh || i % 3 !== 1) mean[i % 3] += (3 * target[i]) / target.length;
    for (let f = first; f <= last; f++) {
      const o = (f - first) * 3;
      if (Number.isNaN(target[o])) continue;
      weights[f] = weightIn(f, want, frameTime);
      for (let c = 0; c < 3; c++) places[f * 3 + c] = data[f * stride + at.end + c] + target[o + c] - mean[c];
    }
  }
  return { places, weights, play: PLAY * pairing.character.legLength };
}

/**
 * The distance an arm is too short by with its root where it is said, below zero where it is long enough, metres.
 * @param out written: the direction from the root to the hand's place
 */
function lackOf(out: Float64Array, arm: LimbTrack, { places, weights, play }: Asked, f: number, tops: Float64Array, top: number): number {
  if (weights[f] === 0) return 0;
  const { data, stride, at } = arm;
  const o = f * stride;
  sub(out, 0, places, f * 3, tops, top);
  const far = length(out, 0) || 1e-9;
  for (let c = 0; c < 3; c++) out[c] /= far;
  return far - Math.max(REACH * wholeLength(arm, f), distance(data, o + at.top, data, o + at.end)) - play;
}

/** A joint that is turned in the world by all helpers that it hangs on, by so much of each. */
interface Turned {
  readonly joint: number;
  /** Place among those that are turned, of the one above it; −1 for none. */
  readonly above: number;
  readonly helper: number;
  /** Share of its helper's turn. */
  readonly share: number;
  /** It keeps its turn in the world. */
  readonly stays: boolean;
}

/** The posed body, what turns in it, and room to pose it in. */
interface Body {
  readonly given: HelpGiven;
  readonly helpers: readonly Helper[];
  readonly turned: readonly Turned[];
  /** Local rotations with the help. */
  readonly rotations: Float32Array;
  /** Turns of the helpers, rotation vectors in the world, 3 per frame. */
  readonly help: readonly Float64Array[];
  readonly joints: Int32Array;
  readonly pose: Pose;
  readonly translations: Float64Array;
}

function bodyOf(given: HelpGiven, arms: readonly LimbTrack[], helpers: readonly Helper[]): Body {
  const { posed } = given;
  const { skeleton, roles } = given.pairing.character;
  const { parents } = skeleton;
  const turned: Turned[] = [];
  /** The nearest of those that are turned over a joint. */
  const aboveOf = (joint: number): number => {
    for (let up = parents[joint]; up >= 0; up = parents[up]) {
      const at = turned.findIndex((one) => one.joint === up);
      if (at >= 0) return at;
    }
    return -1;
  };
  helpers.forEach(({ joints }, helper) => {
    for (const joint of joints) turned.push({ joint, above: aboveOf(joint), helper, share: 1 / joints.length, stays: false });
  });
  const head = chain(roles, 'neck').at(0) ?? roles.get('head');
  for (const joint of [head, ...arms.map(({ plan }) => plan.joints[0])]) {
    const above = joint === undefined ? -1 : aboveOf(joint);
    if (joint !== undefined && above >= 0) turned.push({ joint, above, helper: -1, share: 0, stays: true });
  }
  return {
    given,
    helpers,
    turned,
    rotations: posed.slice(),
    help: helpers.map(() => new Float64Array((posed.length / parents.length / 4) * 3)),
    joints: withAncestors(
      parents,
      turned.map(({ joint }) => joint),
    ),
    pose: emptyPose(skeleton),
    translations: skeleton.restT.slice(),
  };
}

const [way, lever] = Array.from({ length: 2 }, () => new Float64Array(3));
const [block, pushes] = [new Float64Array(9), new Float64Array(9)];

/** What is asked of the trunk. */
interface Asking {
  readonly arms: readonly LimbTrack[];
  readonly asked: readonly Asked[];
  readonly breaks: Uint8Array;
  readonly frameTime: number;
}

/** One round: finds the turns of a stretch of frames anew, and turns the body by them. */
function lean(body: Body, [first, last]: readonly [number, number], { arms, asked, breaks, frameTime }: Asking): void {
  const { helpers, help, pose } = body;
  const count = helpers.length;
  const system = new BandSystem(bandOf((last - first + 1) * count, 2 * count, count));
  const bends = bendsOf(last - first + 1, breaks.subarray(first, last + 1));
  const stiffness = stiffnessOf(SLOW, frameTime);
  const weight = weightIn(0, { first: -1e9, last: 1e9 }, frameTime);
  for (let f = first; f <= last; f++) {
    for (let h = 0; h < count; h++) {
      const at = (f - first) * count + h;
      for (let d = 0; d < 3 && f + d <= last; d++) {
        const cost = LEAN * weight * ((d === 0 ? 1 : 0) + stiffness * bends[(f - first) * 3 + d]);
        for (let c = 0; c < 3; c++) block[c * 4] = cost;
        block[1] = block[2] = block[3] = block[5] = block[6] = block[7] = 0;
        system.couple(at, at + d * count, block, 1);
      }
    }
    if (asked.every(({ weights }) => weights[f] === 0)) continue;
    poseAt(body, f);
    for (let k = 0; k < arms.length; k++) {
      const top = arms[k].plan.joints[0] * 3;
      const lack = lackOf(way, arms[k], asked[k], f, pose.positions, top);
      if (lack <= 0) continue;
      let wanted = lack;
      for (let h = 0; h < count; h++) {
        if (!helpers[h].arms.includes(k)) continue;
        sub(lever, 0, pose.positions, top, pose.positions, helpers[h].joints[0] * 3);
        cross(pushes, h * 3, lever, 0, way, 0);
        wanted += dot(pushes, h * 3, help[h], f * 3);
      }
      for (let h = 0; h < count; h++) {
        if (!helpers[h].arms.includes(k)) continue;
        const at = (f - first) * count;
        for (let c = 0; c < 3; c++) system.push(at + h, c, asked[k].weights[f] * wanted * pushes[h * 3 + c]);
        for (let i = h; i < count; i++) {
          if (!helpers[i].arms.includes(k)) continue;
          outer(block, pushes, h * 3, pushes, i * 3, asked[k].weights[f]);
          system.couple(at + h, at + i, block, 1);
        }
      }
    }
  }
  const found = system.solve();
  for (let f = first; f <= last; f++) {
    for (let h = 0; h < count; h++) {
      const at = ((f - first) * count + h) * 3;
      const size = length(found, at);
      const kept = size > NOTHING ? eased(size, helpers[h].most) / size : 0;
      for (let c = 0; c < 3; c++) help[h][f * 3 + c] = kept * found[at + c];
    }
    turnAt(body, f);
  }
}

/** Poses the body as it is with the help, in a frame. */
function poseAt({ given, rotations, joints, pose, translations }: Body, f: number): void {
  const { parents } = given.pairing.character.skeleton;
  placeBody(translations, given, f);
  forward(pose, parents, translations, rotations, f * parents.length * 4, joints);
}

/** Writes the local rotations of a frame with the help. */
function turnAt(body: Body, f: number): void {
  const { given, turned, rotations, help, joints, pose, translations } = body;
  const { parents } = given.pairing.character.skeleton;
  const row = f * parents.length * 4;
  placeBody(translations, given, f);
  forward(pose, parents, translations, given.posed, row, joints);
  const all = new Float64Array(turned.length * 4);
  const q = new Float64Array(8);
  turned.forEach(({ joint, above, helper, share, stays }, i) => {
    if (above >= 0) copy(q, 4, all, above * 4);
    else identity(q, 4);
    identity(all, i * 4);
    if (!stays) {
      const angle = length(help[helper], f * 3);
      if (angle > NOTHING) {
        const v = help[helper];
        fromAxisAngle(q, 0, v[f * 3] / angle, v[f * 3 + 1] / angle, v[f * 3 + 2] / angle, angle * share);
        mul(all, i * 4, q, 0, q, 4);
      } else copy(all, i * 4, q, 4);
    }
    // World turns of the one above and of the joint itself, both with the help.
    const up = parents[joint];
    mul(q, 0, all, i * 4, pose.rotations, joint * 4);
    if (up < 0) copy(rotations, row + joint * 4, q, 0);
    else {
      mul(q, 4, q, 4, pose.rotations, up * 4);
      invMul(rotations, row + joint * 4, q, 4, q, 0);
    }
    normalize(rotations, row + joint * 4);
  });
}

/** The joints that were turned, and in which frames. */
function laid({ given, turned, rotations, help }: Body): { readonly rotations: Float32Array; readonly turns: LimbTurns } {
  const count = given.pairing.character.skeleton.parents.length;
  const frames = help[0].length / 3;
  const joints = turned.map(({ joint }) => joint);
  const out = new Float32Array(frames * joints.length * 4);
  const idle = new Uint8Array(frames);
  for (let f = 0; f < frames; f++) {
    idle[f] = help.every((v) => v[f * 3] === 0 && v[f * 3 + 1] === 0 && v[f * 3 + 2] === 0) ? 1 : 0;
    joints.forEach((joint, i) => copy(out, (f * joints.length + i) * 4, rotations, (f * count + joint) * 4));
  }
  return { rotations, turns: { joints, rotations: out, idle, miss: { distance: 0, frame: 0 } } };
}
