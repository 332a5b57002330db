import { makeContinuous } from '../clip';
import { carryingHands, findContacts } from '../contact';
import type { Pairing } from '../match';
import { laidOn, type LaidTouchUps } from '../touchup';
import { keepApart } from './apart';
import { layOver, leanAfterHands, solveArms } from './arms';
import { balance } from './balance';
import { layBody } from './body';
import { planFeet } from './feet';
import { solveLimb } from './legs';
import { traceLimbs } from './limbTrack';
import { planPose } from './plan';
import { posePerformance, type Posed } from './pose';
import { palmsOf } from './hands/plan';
import { placeProps, propMoves } from './props';
import { placeRoot, shifted, wayBetween, withoutTravel, type RootPath } from './root';
import type { Finished, Parts } from './parts';
import type { SolveSettings } from './settings';
import { steadyHips } from './steady';
import { steerContacts, steerPose } from './steer';
import { trail } from './tails';
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
  /** Part of a plain transfer too. */
  readonly inPlain: boolean;
  /** Needed parts that a plain transfer does not have are undefined. */
  readonly run: (parts: Parts, settings: SolveSettings) => Parts[StageId];
}

/**
 * The stages of a solve, in order. The page, the report, the bench and the documents are made from this list. No stage changes
 * what another has given: results are kept by what they depend on, and a changed setting runs only what follows from it.
 */
export const STAGES: readonly Stage[] = [
  {
    id: 'contacts',
    name: 'Plants',
    what: 'finds where heels and balls of the performer stay on the floor',
    needs: ['pairing', 'take'],
    settings: [],
    inPlain: true,
    run: ({ pairing, take }) => findContacts(pairing.performer, take),
  },
  {
    id: 'plan',
    name: 'Plan',
    what: 'says for each joint what drives it, from links and matched rest poses',
    needs: ['pairing'],
    settings: [],
    inPlain: true,
    run: ({ pairing }) => planPose(pairing),
  },
  {
    id: 'steady',
    name: 'Steady hips',
    what: 'finds single frames in which the performer’s hips are turned elsewhere than before and behind, as markers that jump have it',
    needs: ['pairing', 'take'],
    settings: [],
    inPlain: true,
    run: ({ pairing, take }) => steadyHips(pairing, take),
  },
  {
    id: 'pose',
    name: 'Pose transfer',
    what: 'carries each joint turn from rest over to the matched rest of the linked joint',
    needs: ['pairing', 'take', 'plan', 'steady'],
    settings: [],
    inPlain: true,
    run: ({ pairing, plan, take, steady }) => posePerformance(pairing, plan, take, steady),
  },
  {
    id: 'bearing',
    name: 'Touch-ups below',
    what: 'lays touch-ups of hips and legs, and of the way over the floor, on the pose, before anything is held',
    needs: ['pairing', 'plan', 'pose', 'below', 'steer'],
    settings: [],
    inPlain: true,
    run: ({ pairing, plan, pose, below, steer }) => {
      const laid = withTouchUps(pairing, pose, below);
      return steer ? steerPose(pairing, plan, laid, steer) : laid;
    },
  },
  {
    id: 'rests',
    name: 'Rests',
    what: 'takes what the performer touches along where the body is steered to',
    needs: ['contacts', 'pose', 'bearing', 'steer'],
    settings: [],
    inPlain: false,
    run: ({ contacts, pose, bearing, steer }) => (steer ? steerContacts(contacts, pose.middle, bearing.middle, steer) : contacts),
  },
  {
    id: 'touched',
    name: 'Touch-ups above',
    what: 'lays touch-ups of trunk, arms, hands and head on the pose',
    needs: ['pairing', 'bearing', 'above'],
    settings: [],
    inPlain: true,
    run: ({ pairing, bearing, above }) => laidOn(above, pairing.character.skeleton, bearing.rotations),
  },
  {
    id: 'root',
    name: 'Root',
    what: 'places the hips on the scaled path',
    needs: ['pairing', 'plan', 'bearing'],
    settings: [],
    inPlain: true,
    run: ({ pairing, plan, bearing }) => placeRoot(pairing, plan, bearing),
  },
  {
    id: 'balance',
    name: 'Balance',
    what: 'moves the hips so that the weight stays over the feet',
    needs: ['pairing', 'take', 'plan', 'bearing', 'root', 'steer'],
    settings: ['balance'],
    inPlain: false,
    run: ({ pairing, take, plan, bearing, root, steer }, settings) =>
      balance({ pairing, plan, bearing, take, root }, settings.balance, steer?.heading),
  },
  {
    id: 'body',
    name: 'Body',
    what: 'lays knees, seat, back and head on the floor where they rest, and keeps them out of it',
    needs: ['pairing', 'rests', 'plan', 'bearing', 'balance', 'below', 'steer'],
    settings: [],
    inPlain: false,
    run: ({ pairing, rests, plan, bearing, balance: root, below, steer }) =>
      // The performer's own body lies as the take has it.
      pairing.same.same && below.length === 0 && !steer ? root : layBody({ pairing, plan, bearing, root, rests }),
  },
  {
    id: 'limbs',
    name: 'Limbs',
    what: 'follows each leg through the posed body, and parts legs that would be in each other',
    needs: ['pairing', 'take', 'plan', 'bearing', 'body'],
    settings: ['apart'],
    inPlain: false,
    run: ({ pairing, take, plan, bearing, body }, { apart }) => {
      const legs = traceLimbs(
        pairing,
        plan,
        bearing,
        body,
        plan.limbs.filter(({ kind }) => kind === 'leg'),
      );
      return apart ? keepApart(pairing.character, legs, take.frameTime) : legs;
    },
  },
  {
    id: 'feet',
    name: 'Feet',
    what: 'gives every planted foot one place and turn, and finds the least displacement of feet and hips that holds it and that knees do not feel',
    needs: ['pairing', 'rests', 'limbs', 'take', 'steps', 'rise', 'body', 'past'],
    settings: ['softReach', 'follow', 'stretch'],
    inPlain: false,
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
  },
  {
    id: 'pelvis',
    name: 'Pelvis',
    what: 'moves the hips as they were found with the feet',
    needs: ['feet'],
    settings: [],
    inPlain: false,
    run: ({ feet }) => feet.hips,
  },
  {
    id: 'legs',
    name: 'Legs',
    what: 'bends the legs to their feet in closed form',
    needs: ['limbs', 'feet', 'pelvis'],
    settings: ['softReach', 'stretch'],
    inPlain: false,
    run: ({ limbs, feet, pelvis }, { softReach, stretch }) =>
      limbs.map((leg, i) => solveLimb(leg, feet.paths[i], pelvis, softReach, stretch)),
  },
  {
    id: 'props',
    name: 'Props',
    what: 'puts what the performer holds where the hands have it, and leaves it where it rests',
    needs: ['pairing', 'take', 'contacts', 'rests', 'plan', 'bearing', 'touched', 'body', 'pelvis'],
    settings: [],
    inPlain: true,
    run: (parts) => propsBeside(parts),
  },
  {
    id: 'lean',
    name: 'Lean',
    what: 'turns spine and clavicles after hands that rest, or hold something, where arms are too short',
    needs: ['pairing', 'take', 'rests', 'plan', 'bearing', 'touched', 'body', 'pelvis', 'props', 'past'],
    settings: ['hands', 'follow', 'clavicleHelp', 'spineHelp'],
    inPlain: false,
    run: (parts, settings) => leanAfterHands(parts, settings),
  },
  {
    id: 'arms',
    name: 'Arms',
    what: 'keeps hands that rest in their place, hands that meet together, and both out of the floor',
    needs: ['pairing', 'take', 'rests', 'plan', 'lean', 'body', 'pelvis', 'legs', 'props', 'past'],
    settings: ['softReach', 'hands', 'keepOut', 'follow', 'stretch'],
    inPlain: false,
    run: (parts, settings) => solveArms(parts, settings),
  },
  {
    id: 'twist',
    name: 'Twist',
    what: 'shares turns about a bone among its twist joints, or passes them on to the bone',
    needs: ['pairing', 'take', 'plan', 'touched', 'lean', 'legs', 'arms'],
    settings: [],
    inPlain: true,
    run: ({ pairing, take, plan, touched, lean, legs, arms }) => {
      const { character } = pairing;
      const joints = character.skeleton.parents.length;
      const rotations = ((lean as Parts['lean'] | undefined)?.rotations ?? touched).slice();
      for (const turns of [...((legs as Parts['legs'] | undefined) ?? []), ...((arms as Parts['arms'] | undefined) ?? [])]) {
        layOver(rotations, joints, turns);
      }
      relieveRoots(pairing, take, rotations);
      relieveWrists(pairing, take, rotations);
      shareTwist(character, plan.rest, plan.drive, rotations);
      makeContinuous(rotations, joints);
      return rotations;
    },
  },
  {
    id: 'tails',
    name: 'Tails',
    what: 'lays tails and other extra chains on the floor, and lets them swing after the body',
    needs: ['pairing', 'take', 'contacts', 'plan', 'body', 'pelvis', 'twist'],
    settings: ['tails'],
    inPlain: false,
    run: ({ pairing, take, contacts, plan, body, pelvis, twist }, { tails }) =>
      trail({
        pairing,
        plan,
        root: shifted(body, pelvis),
        rotations: twist,
        frameTime: take.frameTime,
        floor: contacts.floor * pairing.scale.lift,
        loose: tails,
      }),
  },
  {
    id: 'finish',
    name: 'Finish',
    what: 'puts the motion together: on its floor, travelling or in place',
    needs: ['pairing', 'take', 'contacts', 'plan', 'pose', 'root', 'body', 'pelvis', 'legs', 'props', 'arms', 'twist', 'tails', 'rise'],
    settings: ['floor', 'inPlace'],
    inPlain: true,
    run: (parts, settings) => finish(parts, settings),
  },
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

/** Places of the joints of limbs that are drawn out. */
function drawnOut({ character: { skeleton } }: Pairing, limbs: Parts['legs']): { joint: number; values: Float32Array }[] {
  return limbs.flatMap(({ drawn }) =>
    drawn
      ? drawn.joints.map((joint) => ({
          joint,
          values: Float32Array.from(
            { length: drawn.by.length * 3 },
            (_, i) => skeleton.restT[joint * 3 + (i % 3)] * (1 + drawn.by[(i / 3) | 0]),
          ),
        }))
      : [],
  );
}

/** The things of the take; those of a plain transfer are not held. */
function propsBeside({ pairing, take, contacts, rests, plan, bearing, touched, body, pelvis }: Parts): Parts['props'] {
  const touching = (rests as Parts['rests'] | undefined) ?? contacts;
  if (!touching.hands?.props?.length) return NO_PROPS;
  const arms = (body as RootPath | undefined)
    ? traceLimbs(
        pairing,
        plan,
        { ...bearing, rotations: touched },
        shifted(body, pelvis),
        plan.limbs.filter(({ kind }) => kind === 'arm'),
      )
    : [];
  const { hands } = pairing.character;
  const palms = arms.map((arm) => {
    const hand = hands.find(({ side }) => side === arm.plan.side);
    return hand && palmsOf(arm, hand.palm);
  });
  return placeProps(pairing, touching, palms, take.frameTime);
}

const NO_PROPS: Parts['props'] = [];

/** Where the body is before its floor is put elsewhere and its travel taken out. */
function standing({ take, root, body, pelvis, rise }: Pick<Parts, 'take' | 'root' | 'body' | 'pelvis' | 'rise'>): RootPath {
  return shifted((body as RootPath | undefined) ?? root, (pelvis as Float64Array | undefined) ?? risen(take.frames, rise));
}

function finish(
  { pairing, take, contacts, plan, pose, root, body, pelvis, legs, props, arms, twist, tails, rise }: Parts,
  settings: SolveSettings,
): Finished {
  const floor = contacts.floor * pairing.scale.lift;
  const drop = settings.floor === 'zero' ? floor : 0;
  const shift = (pelvis as Float64Array | undefined)?.slice() ?? risen(take.frames, rise);
  if (drop !== 0) for (let i = 1; i < shift.length; i += 3) shift[i] -= drop;
  let path = shifted((body as RootPath | undefined) ?? root, shift);
  if (settings.inPlace) path = withoutTravel(path);
  const rotations = (tails as Float32Array | undefined) ?? twist;
  const moves = [
    ...(plan.ground >= 0 ? [{ joint: plan.ground, values: Float32Array.from(path.ground) }] : []),
    { joint: plan.mover, values: Float32Array.from(path.moves) },
    ...pose.slides,
    ...drawnOut(pairing, [...((legs as Parts['legs'] | undefined) ?? []), ...((arms as Parts['arms'] | undefined) ?? [])]),
    ...(props.length > 0
      ? propMoves({ pairing, plan, props, root: path }, rotations, wayBetween(standing({ take, root, body, pelvis, rise }), path))
      : []),
  ];
  return {
    clip: {
      name: take.name,
      frameTime: take.frameTime,
      frames: take.frames,
      rotations,
      moves,
    },
    floor: floor - drop,
  };
}
