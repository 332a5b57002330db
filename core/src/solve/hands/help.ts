import { chain, SIDES } from '../../label';
import { bandOf, BandSystem } from '../../math/band';
import { eased } from '../../math/filter';
import { bendsOf, stiffnessOf } from '../../math/leastCurve';
import { cross, distance, dot, length, outer, sub } from '../../math/vec';
import { wholeLength, type LimbTrack } from '../limbTrack';
import { breaksOf } from '../resolve/breaks';
import { stretchesOf } from '../resolve/stretches';
import { WANTED, weightIn } from '../resolve/wanted';
import type { SolveSettings } from '../settings';
import { Leaning, NOTHING, type Helper, type HelpGiven, type Lean } from './leaning';
import { palmsOf, placeWants } from './plan';
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

/**
 * Turns spine and clavicles so that shoulders come as near to the places of hands that rest or hold something as arms of such a length need it:
 *
 *     0.01 (|v|² + τ⁴ |v″|²)                for the turn v of spine and of each clavicle
 *     |way out · shift of the shoulder − lack|²   for each want, weighed as it is, where the arm is still too short
 *
 * so that a body leans after its hands before it needs them and gives back what it leaned slowly. Head and arms keep their turns in the world.
 * @param arms the arms through the posed and placed body
 */
export function helpReach(
  given: HelpGiven,
  arms: readonly LimbTrack[],
  { clavicleHelp, spineHelp, hands, follow }: Pick<SolveSettings, 'clavicleHelp' | 'spineHelp' | 'hands' | 'follow'>,
): Lean {
  const none = { rotations: given.posed, help: [] };
  const { roles } = given.pairing.character;
  const helpers: Helper[] = [
    { joints: chain(roles, 'spine'), arms: [0, 1], most: SPINE * spineHelp },
    ...SIDES.map((side, k) => ({ joints: [roles.get(`${side}.clavicle`) ?? -1], arms: [k], most: CLAVICLE * clavicleHelp })),
  ].filter(({ joints, most }) => most > 0 && joints.length > 0 && joints[0] >= 0);
  if (helpers.length === 0 || arms.length < 2 || given.pairing.same.same) return none;
  const { hands: own } = given.pairing.character;
  const palms = own.length < 2 ? [] : arms.map((arm, k) => palmsOf(arm, own[k].palm));
  const wants = placeWants(given, arms, palms, false);
  const { past } = given;
  const known = past?.frames ?? 0;
  // A lean that has come back is none.
  const leant = past?.help.some((turns) => turns.some((x) => Math.abs(x) > NOTHING)) ? past.help : [];
  if (wants.length === 0 && leant.length === 0) return none;
  const shares = [hands * follow.leftArm, hands * follow.rightArm];
  const asked = arms.map((arm, k) =>
    askedOf(
      arm,
      wants.filter((want) => want.hand === k),
      shares[k],
      given,
    ),
  );
  const { frames } = arms[0];
  const lacking = new Uint8Array(frames);
  if (leant.length > 0) lacking[known - 1] = 1;
  arms.forEach((arm, k) => {
    for (let f = known; f < frames; f++) if (lackOf(arm, asked[k], f, arm.data, f * arm.stride + arm.at.top) > 0) lacking[f] = 1;
  });
  if (!lacking.includes(1)) return none;
  const body = new Leaning(given, arms, helpers);
  const breaks = breaksOf(arms, given.frameTime);
  // What has been shown stays, and what follows goes on from it.
  leant.forEach((turns, h) => body.help[h].set(turns.subarray(0, known * 3)));
  for (let f = 0; f < known; f++) body.turnAt(f);
  for (const [first, last] of stretchesOf(lacking, Math.ceil((AROUND * SLOW) / given.frameTime), [Math.max(0, known - 1), frames - 1])) {
    const stretch = [Math.max(first, known), last] as const;
    for (let round = 0; round < ROUNDS; round++) lean(body, helpers, stretch, { arms, asked, breaks, frameTime: given.frameTime });
  }
  return body;
}

/** Where a hand shall be, and how much that weighs against other things, one a frame; 0 where nothing is asked for. */
interface Asked {
  /** Metres that are let be. */
  readonly play: number;
  readonly places: Float64Array;
  readonly weights: Float64Array;
}

/** What wants ask of one hand; the place of a rest is the mean of where it would be. @param share how far the hand follows them */
function askedOf(
  { data, stride, at, frames }: LimbTrack,
  wants: readonly HandWant[],
  share: number,
  { pairing, frameTime, past }: HelpGiven,
): Asked {
  const places = new Float64Array(frames * 3);
  const weights = new Float64Array(frames);
  for (const want of wants) {
    const { first, target, how, isHigh } = want;
    // What still rests where frames come one by one will go on to: bodies do not get up from it to be on time.
    const last = past && want.last >= past.known - 1 ? frames - 1 : want.last;
    const mean = [0, 0, 0];
    if (how === 'still') for (let i = 0; i < target.length; i++) if (!isHigh || i % 3 !== 1) mean[i % 3] += (3 * target[i]) / target.length;
    for (let f = first; f <= last; f++) {
      const o = Math.min(f - first, target.length / 3 - 1) * 3;
      if (Number.isNaN(target[o])) continue;
      weights[f] = share * weightIn(f, { first, last }, frameTime);
      for (let c = 0; c < 3; c++) places[f * 3 + c] = data[f * stride + at.end + c] + target[o + c] - mean[c];
    }
  }
  return { places, weights, play: PLAY * pairing.character.legLength };
}

/** Where an arm points, from its root to where its hand shall be; unit. */
const way = new Float64Array(3);

/** The distance an arm is too short by with its root where it is said, below zero where it is long enough, metres. Writes `way`. */
function lackOf(arm: LimbTrack, { places, weights, play }: Asked, f: number, tops: Float64Array, top: number): number {
  if (weights[f] === 0) return 0;
  const { data, stride, at } = arm;
  const o = f * stride;
  sub(way, 0, places, f * 3, tops, top);
  const far = length(way, 0) || 1e-9;
  for (let c = 0; c < 3; c++) way[c] /= far;
  return far - Math.max(REACH * wholeLength(arm, f), distance(data, o + at.top, data, o + at.end)) - play;
}

const lever = new Float64Array(3);
const [block, pushes] = [new Float64Array(9), new Float64Array(9)];

/** What is asked of the trunk. */
interface Asking {
  readonly arms: readonly LimbTrack[];
  readonly asked: readonly Asked[];
  readonly breaks: Uint8Array;
  readonly frameTime: number;
}

/** One round: finds the turns of a stretch of frames anew, those before it as they are, and turns the body by them. */
function lean(body: Leaning, helpers: readonly Helper[], [first, last]: readonly [number, number], asking: Asking): void {
  const { arms, asked, breaks, frameTime } = asking;
  const { help } = body;
  const count = helpers.length;
  const system = new BandSystem(bandOf((last - first + 1) * count, 2 * count, count));
  const before = Math.max(0, first - 2);
  const bends = bendsOf(last - before + 1, breaks.subarray(before, last + 1));
  const stiffness = stiffnessOf(SLOW, frameTime);
  for (let f = before; f <= last; f++) {
    for (let h = 0; h < count; h++) {
      const at = (f - first) * count + h;
      for (let d = 0; d < 3 && f + d <= last; d++) {
        if (f + d < first) continue;
        const cost = LEAN * WANTED * ((d === 0 ? 1 : 0) + stiffness * bends[(f - before) * 3 + d]);
        if (f < first) for (let c = 0; c < 3; c++) system.push(at + d * count, c, -cost * help[h][f * 3 + c]);
        else {
          block.fill(0);
          for (let c = 0; c < 3; c++) block[c * 4] = cost;
          system.couple(at, at + d * count, block, 1);
        }
      }
    }
    if (f < first) continue;
    if (asked.every(({ weights }) => weights[f] === 0)) continue;
    body.poseAt(f);
    for (let k = 0; k < arms.length; k++) bring(system, (f - first) * count, f, k, { body, helpers, arm: arms[k], asked: asked[k] });
  }
  const found = system.solve();
  for (let f = first; f <= last; f++) {
    for (let h = 0; h < count; h++) {
      const at = ((f - first) * count + h) * 3;
      const size = length(found, at);
      const kept = size > 0 ? eased(size, helpers[h].most) / size : 0;
      for (let c = 0; c < 3; c++) help[h][f * 3 + c] = kept * found[at + c];
    }
    body.turnAt(f);
  }
}

/** One arm and what can bring it nearer. */
interface Bringing {
  readonly body: Leaning;
  readonly helpers: readonly Helper[];
  readonly arm: LimbTrack;
  readonly asked: Asked;
}

/** Charges the turns of a frame for what an arm is too short by as the body leans now. @param at the frame's first unknown */
function bring(system: BandSystem, at: number, f: number, k: number, { body: { help, pose }, helpers, arm, asked }: Bringing): void {
  const top = arm.plan.joints[0] * 3;
  const lack = lackOf(arm, asked, f, pose.positions, top);
  if (lack <= 0) return;
  const weight = asked.weights[f];
  let wanted = lack;
  for (let h = 0; h < helpers.length; h++) {
    pushes.fill(0, h * 3, h * 3 + 3);
    if (!helpers[h].arms.includes(k)) continue;
    sub(lever, 0, pose.positions, top, pose.positions, helpers[h].joints[0] * 3);
    cross(pushes, h * 3, lever, 0, way, 0);
    wanted += dot(pushes, h * 3, help[h], f * 3);
  }
  for (let h = 0; h < helpers.length; h++) {
    for (let c = 0; c < 3; c++) system.push(at + h, c, weight * wanted * pushes[h * 3 + c]);
    for (let i = h; i < helpers.length; i++) {
      outer(block, pushes, h * 3, pushes, i * 3, weight);
      system.couple(at + h, at + i, block, 1);
    }
  }
}
