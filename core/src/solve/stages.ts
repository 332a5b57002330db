import { makeContinuous } from '../clip';
import { carryingHands, findContacts } from '../contact';
import type { Pairing } from '../match';
import { laidOn, type LaidTouchUps } from '../touchup';
import { keepApart } from './apart';
import { holdProps, layOver, leanAfterHands, solveArms } from './arms';
import { balance } from './balance';
import { layBody } from './body';
import { planFeet } from './feet';
import { solveLimb } from './legs';
import { traceLimbs } from './limbTrack';
import { planPose } from './plan';
import { posePerformance, type Posed } from './pose';
import { finish } from './finish';
import { placeProps } from './props';
import { placeRoot, shifted, wayBetween } from './root';
import type { Parts } from './parts';
import type { SolveSettings } from './settings';
import { steadyHips } from './steady';
import { steerContacts, steerPose } from './steer';
import { asPosed, trail } from './tails';
import { shareTwist } from './twist';
import { relieveRoots, relieveWrists } from './wrists';

export type StageId = Exclude<keyof Parts, 'pairing' | 'take' | 'below' | 'above' | 'rise' | 'steer' | 'steps' | 'past'>;

/** One stage: what it needs, which settings it reads, and a pure function of both. */
export interface Stage {
  readonly id: StageId;
  readonly name: string;
  readonly what: string;
  readonly needs: readonly (keyof Parts)[];
  readonly settings: readonly (keyof SolveSettings)[];
  readonly run: (parts: Parts, settings: SolveSettings) => Parts[StageId];
  /** What stands for the stage in a plain transfer; undefined where it runs there too. */
  readonly plain?: (parts: Parts) => Parts[StageId];
}

/** A stage whose functions can read only what it declares. */
function stage<Id extends StageId, Need extends keyof Parts, Setting extends keyof SolveSettings = never>(declared: {
  readonly id: Id;
  readonly name: string;
  readonly what: string;
  readonly needs: readonly Need[];
  readonly settings: readonly Setting[];
  readonly run: (parts: Pick<Parts, Need>, settings: Pick<SolveSettings, Setting>) => Parts[Id];
  readonly plain?: (parts: Pick<Parts, Need>) => Parts[Id];
}): Stage {
  return declared;
}

/**
 * The stages of a solve, in order. The page, the report, the bench and the documents are made from this list. No stage changes
 * what another has given: results are kept by what they depend on, and a changed setting runs only what follows from it.
 */
export const STAGES: readonly Stage[] = [
  stage({
    id: 'contacts',
    name: 'Plants',
    what: 'finds where heels and balls of the performer stay on the floor',
    needs: ['pairing', 'take'],
    settings: [],
    run: ({ pairing, take }) => findContacts(pairing.performer, take),
  }),
  stage({
    id: 'plan',
    name: 'Plan',
    what: 'says for each joint what drives it, from links and matched rest poses',
    needs: ['pairing'],
    settings: [],
    run: ({ pairing }) => planPose(pairing),
  }),
  stage({
    id: 'steady',
    name: 'Steady hips',
    what: 'finds single frames in which the performer’s hips are turned elsewhere than before and behind, as markers that jump have it',
    needs: ['pairing', 'take'],
    settings: [],
    run: ({ pairing, take }) => steadyHips(pairing, take),
  }),
  stage({
    id: 'pose',
    name: 'Pose transfer',
    what: 'carries each joint turn from rest over to the matched rest of the linked joint',
    needs: ['pairing', 'take', 'plan', 'steady'],
    settings: [],
    run: ({ pairing, plan, take, steady }) => posePerformance(pairing, plan, take, steady),
  }),
  stage({
    id: 'bearing',
    name: 'Touch-ups below',
    what: 'lays touch-ups of hips and legs, and of the way over the floor, on the pose, before anything is held',
    needs: ['pairing', 'plan', 'pose', 'below', 'steer'],
    settings: [],
    run: ({ pairing, plan, pose, below, steer }) => {
      const laid = withTouchUps(pairing, pose, below);
      return steer ? steerPose(pairing, plan, laid, steer) : laid;
    },
  }),
  stage({
    id: 'rests',
    name: 'Rests',
    what: 'takes what the performer touches along where the body is steered to',
    needs: ['contacts', 'pose', 'bearing', 'steer'],
    settings: [],
    run: ({ contacts, pose, bearing, steer }) => (steer ? steerContacts(contacts, pose.middle, bearing.middle, steer) : contacts),
    plain: ({ contacts }) => contacts,
  }),
  stage({
    id: 'touched',
    name: 'Touch-ups above',
    what: 'lays touch-ups of trunk, arms, hands and head on the pose',
    needs: ['pairing', 'bearing', 'above'],
    settings: [],
    run: ({ pairing, bearing, above }) => laidOn(above, pairing.character.skeleton, bearing.rotations),
  }),
  stage({
    id: 'root',
    name: 'Root',
    what: 'places the hips on the scaled path',
    needs: ['pairing', 'plan', 'bearing'],
    settings: [],
    run: ({ pairing, plan, bearing }) => placeRoot(pairing, plan, bearing),
  }),
  stage({
    id: 'balance',
    name: 'Balance',
    what: 'moves the hips so that the weight stays over the feet',
    needs: ['pairing', 'take', 'plan', 'bearing', 'root', 'steer'],
    settings: ['balance'],
    run: ({ pairing, take, plan, bearing, root, steer }, settings) =>
      balance({ pairing, plan, bearing, take, root }, settings.balance, steer?.heading),
    plain: ({ root }) => root,
  }),
  stage({
    id: 'body',
    name: 'Body',
    what: 'lays knees, seat, back and head on the floor where they rest, and keeps them out of it',
    needs: ['pairing', 'rests', 'plan', 'bearing', 'balance', 'below', 'steer'],
    settings: [],
    run: ({ pairing, rests, plan, bearing, balance: root, below, steer }) =>
      // The performer's own body lies as the take has it.
      pairing.same.same && below.length === 0 && !steer ? root : layBody({ pairing, plan, bearing, root, rests }),
    plain: ({ balance: root }) => root,
  }),
  stage({
    id: 'limbs',
    name: 'Limbs',
    what: 'follows each leg through the posed body, and parts legs that would be in each other',
    needs: ['pairing', 'take', 'plan', 'bearing', 'body'],
    settings: ['apart'],
    run: ({ pairing, take, plan, bearing, body }, { apart }) => {
      const legs = traceLimbs(
        pairing,
        plan,
        bearing,
        body,
        plan.limbs.filter(({ kind }) => kind === 'leg'),
      );
      // The performer's own legs are where the take has them.
      return apart && !pairing.same.same ? keepApart(pairing.character, legs, take.frameTime) : legs;
    },
    plain: () => [],
  }),
  stage({
    id: 'feet',
    name: 'Feet',
    what: 'gives every planted foot one place and turn, and finds the least displacement of feet and hips that holds it and that knees do not feel',
    needs: ['pairing', 'rests', 'limbs', 'take', 'steps', 'rise', 'body', 'past'],
    settings: ['softReach', 'follow', 'stretch'],
    run: ({ pairing, rests, limbs, take, steps, rise, body, past }, { softReach, follow, stretch }) =>
      planFeet({
        character: pairing.character,
        legs: limbs,
        contacts: rests,
        carrying: carryingHands(rests, pairing.performer.legLength),
        floor: rests.floor * pairing.scale.lift,
        frameTime: take.frameTime,
        softReach,
        scale: pairing.scale,
        isOwn: pairing.same.same,
        follow: [follow.leftLeg, follow.rightLeg],
        steps,
        stretch,
        rise,
        past: past && { ...past, hips: wayBetween(body, { ...body, moves: past.moves }) },
      }),
    plain: ({ take, rise }) => ({ plans: [], paths: [], hips: risen(take.frames, rise), landed: [0, 0], moved: [] }),
  }),
  stage({
    id: 'pelvis',
    name: 'Pelvis',
    what: 'moves the hips as they were found with the feet',
    needs: ['feet'],
    settings: [],
    run: ({ feet }) => feet.hips,
  }),
  stage({
    id: 'legs',
    name: 'Legs',
    what: 'bends the legs to their feet in closed form',
    needs: ['limbs', 'feet', 'pelvis'],
    settings: ['softReach', 'stretch'],
    run: ({ limbs, feet, pelvis }, { softReach, stretch }) =>
      limbs.map((leg, i) => solveLimb(leg, feet.paths[i], pelvis, softReach, stretch)),
  }),
  stage({
    id: 'props',
    name: 'Props',
    what: 'puts what the performer holds where the hands have it, and leaves it where it rests',
    needs: ['pairing', 'take', 'rests', 'plan', 'bearing', 'touched', 'body', 'pelvis'],
    settings: [],
    run: (parts) => holdProps(parts),
    plain: ({ pairing, take, rests }) => placeProps(pairing, rests, [], take.frameTime),
  }),
  stage({
    id: 'lean',
    name: 'Lean',
    what: 'turns spine and clavicles after hands that rest, or hold something, where arms are too short',
    needs: ['pairing', 'take', 'rests', 'plan', 'bearing', 'touched', 'body', 'pelvis', 'props', 'past'],
    settings: ['hands', 'follow', 'clavicleHelp', 'spineHelp'],
    run: (parts, settings) => leanAfterHands(parts, settings),
    plain: ({ touched }) => ({ rotations: touched, help: [], arms: [] }),
  }),
  stage({
    id: 'arms',
    name: 'Arms',
    what: 'keeps hands that rest in their place, hands that meet together, and both out of the floor',
    needs: ['pairing', 'take', 'rests', 'plan', 'lean', 'body', 'pelvis', 'legs', 'props', 'past'],
    settings: ['softReach', 'hands', 'keepOut', 'follow', 'stretch'],
    run: (parts, settings) => solveArms(parts, settings),
    plain: () => [],
  }),
  stage({
    id: 'twist',
    name: 'Twist',
    what: 'shares turns about a bone among its twist joints, or passes them on to the bone',
    needs: ['pairing', 'take', 'plan', 'lean', 'legs', 'arms'],
    settings: [],
    run: ({ pairing, take, plan, lean, legs, arms }) => {
      const { character } = pairing;
      const joints = character.skeleton.parents.length;
      const rotations = lean.rotations.slice();
      for (const turns of [...legs, ...arms]) layOver(rotations, joints, turns);
      relieveRoots(pairing, take, rotations);
      relieveWrists(pairing, take, rotations);
      shareTwist(character, plan.rest, plan.drive, rotations);
      makeContinuous(rotations, joints);
      return rotations;
    },
  }),
  stage({
    id: 'tails',
    name: 'Tails',
    what: 'lays tails and other extra chains on the floor, and lets them swing after the body',
    needs: ['pairing', 'take', 'contacts', 'plan', 'body', 'pelvis', 'twist', 'past'],
    settings: ['tails'],
    run: ({ pairing, take, contacts, plan, body, pelvis, twist, past }, { tails }) =>
      trail({
        pairing,
        plan,
        root: shifted(body, pelvis),
        rotations: twist,
        frameTime: take.frameTime,
        floor: contacts.floor * pairing.scale.lift,
        loose: tails,
        past,
      }),
    plain: ({ twist }) => asPosed(twist),
  }),
  stage({
    id: 'finish',
    name: 'Finish',
    what: 'puts the motion together: on its floor, travelling or in place',
    needs: ['pairing', 'take', 'contacts', 'plan', 'pose', 'body', 'pelvis', 'legs', 'props', 'arms', 'tails'],
    settings: ['floor', 'inPlace'],
    run: (parts, settings) => finish(parts, settings),
  }),
];

/** A pose with touch-ups laid on; the pose itself where there are none. */
function withTouchUps({ character }: Pairing, pose: Posed, list: LaidTouchUps['below']): Posed {
  return list.length === 0 ? pose : { ...pose, rotations: laidOn(list, character.skeleton, pose.rotations) };
}

/** The hips' way of a plain transfer: only what a person asked for. */
function risen(frames: number, rise: Parts['rise']): Float64Array {
  const out = new Float64Array(frames * 3);
  rise?.forEach((height, f) => (out[f * 3 + 1] = height));
  return out;
}
