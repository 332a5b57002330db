import { makeContinuous, type Clip } from '../clip';
import { findContacts, type Contacts } from '../contact';
import type { Pairing } from '../match';
import { laidOn, type LaidTouchUps } from '../touchup';
import { planFeet, type FeetPlan } from './feet';
import { planHands } from './hands/plan';
import { solveLeg, type LegTurns } from './legs';
import { traceLimbs, type LimbTrack } from './limbTrack';
import { pelvisShift } from './pelvis';
import { planPose, type PosePlan } from './plan';
import { posePerformance, type Posed } from './pose';
import { placeRoot, shifted, withoutTravel, type RootPath } from './root';
import type { SolveSettings } from './settings';
import { shareTwist } from './twist';
import { relieveWrists } from './wrists';

/** What a solve starts from and what its stages give, by name. */
export interface Parts {
  readonly pairing: Pairing;
  /** On the performer's skeleton, metres, Y up. */
  readonly take: Clip;
  readonly contacts: Contacts;
  /** Touch-ups of what carries the body, of all else, and of the hips' height. */
  readonly below: LaidTouchUps['below'];
  readonly above: LaidTouchUps['above'];
  readonly rise: LaidTouchUps['rise'];
  readonly plan: PosePlan;
  readonly pose: Posed;
  /** The pose with the touch-ups of what carries the body. */
  readonly bearing: Posed;
  /** Local rotations with all touch-ups, before anything is held. */
  readonly touched: Float32Array;
  readonly root: RootPath;
  readonly limbs: readonly LimbTrack[];
  readonly feet: FeetPlan;
  /** Where the hips give way to, metres, 3 per frame. */
  readonly pelvis: Float64Array;
  readonly legs: readonly LegTurns[];
  /** Empty when no hand has to go anywhere. */
  readonly arms: readonly LegTurns[];
  /** Local rotations of the character, frames × joints × 4. */
  readonly twist: Float32Array;
  readonly finish: Finished;
}

export interface Finished {
  readonly clip: Clip;
  /** Height of the character's floor. */
  readonly floor: number;
}

export type StageId = Exclude<keyof Parts, 'pairing' | 'take' | 'below' | 'above' | 'rise'>;

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
    id: 'pose',
    name: 'Pose transfer',
    what: 'carries each joint turn from rest over to the matched rest of the linked joint',
    needs: ['pairing', 'take', 'plan'],
    settings: [],
    inPlain: true,
    run: ({ pairing, plan, take }) => posePerformance(pairing, plan, take),
  },
  {
    id: 'bearing',
    name: 'Touch-ups below',
    what: 'lays touch-ups of hips and legs on the pose, before anything is held',
    needs: ['pairing', 'pose', 'below'],
    settings: [],
    inPlain: true,
    run: ({ pairing, pose, below }) => withTouchUps(pairing, pose, below),
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
    id: 'limbs',
    name: 'Limbs',
    what: 'follows each leg through the posed body',
    needs: ['pairing', 'plan', 'bearing', 'root'],
    settings: [],
    inPlain: false,
    run: ({ pairing, plan, bearing, root }) =>
      traceLimbs(
        pairing,
        plan,
        bearing,
        root,
        plan.limbs.filter(({ kind }) => kind === 'leg'),
      ),
  },
  {
    id: 'feet',
    name: 'Feet',
    what: 'gives every planted foot one place and heading and leads the foot there and back',
    needs: ['pairing', 'contacts', 'limbs', 'take'],
    settings: ['softReach'],
    inPlain: false,
    run: ({ pairing, contacts, limbs, take }, { softReach }) =>
      planFeet(pairing.character, limbs, contacts, contacts.floor * pairing.scale.lift, take.frameTime, softReach, pairing.scale),
  },
  {
    id: 'pelvis',
    name: 'Pelvis',
    what: 'moves the hips where a foot would be out of reach: aside, down, or up; and with the tremor that holding takes from the feet',
    needs: ['pairing', 'limbs', 'feet', 'take', 'rise'],
    settings: ['softReach'],
    inPlain: false,
    run: ({ pairing, limbs, feet, take, rise }, { softReach }) =>
      pelvisShift(limbs, feet.paths, take.frameTime, softReach, pairing.character.legLength, rise),
  },
  {
    id: 'legs',
    name: 'Legs',
    what: 'bends the legs to their feet in closed form',
    needs: ['limbs', 'feet', 'pelvis'],
    settings: ['softReach'],
    inPlain: false,
    run: ({ limbs, feet, pelvis }, { softReach }) => limbs.map((leg, i) => solveLeg(leg, feet.paths[i], pelvis, softReach)),
  },
  {
    id: 'arms',
    name: 'Arms',
    what: 'keeps hands that rest in their place, hands that meet together, and both out of the floor',
    needs: ['pairing', 'take', 'contacts', 'plan', 'bearing', 'touched', 'root', 'pelvis'],
    settings: ['softReach', 'hands', 'keepOut'],
    inPlain: false,
    run: (parts, settings) => solveArms(parts, settings),
  },
  {
    id: 'twist',
    name: 'Twist',
    what: 'shares turns about a bone among its twist joints, or passes them on to the bone',
    needs: ['pairing', 'take', 'plan', 'touched', 'legs', 'arms'],
    settings: [],
    inPlain: true,
    run: ({ pairing, take, plan, touched, legs, arms }) => {
      const { character } = pairing;
      const joints = character.skeleton.parents.length;
      const rotations = touched.slice();
      for (const turns of [...((legs as Parts['legs'] | undefined) ?? []), ...((arms as Parts['arms'] | undefined) ?? [])]) {
        layOver(rotations, joints, turns);
      }
      relieveWrists(pairing, take, rotations);
      shareTwist(character, plan.rest, plan.drive, rotations);
      makeContinuous(rotations, joints);
      return rotations;
    },
  },
  {
    id: 'finish',
    name: 'Finish',
    what: 'puts the motion together: on its floor, travelling or in place',
    needs: ['pairing', 'take', 'contacts', 'plan', 'pose', 'root', 'pelvis', 'twist', 'rise'],
    settings: ['floor', 'inPlace'],
    inPlain: true,
    run: (parts, settings) => finish(parts, settings),
  },
];

/** A pose with touch-ups laid on; the pose itself where there are none. */
function withTouchUps({ character }: Pairing, pose: Posed, list: LaidTouchUps['below']): Posed {
  return list.length === 0 ? pose : { ...pose, rotations: laidOn(list, character.skeleton, pose.rotations) };
}

/** Lays the turns of a leg over a body's. */
function layOver(rotations: Float32Array, joints: number, turns: LegTurns): void {
  const count = turns.joints.length;
  const frames = turns.rotations.length / (count * 4);
  for (let f = 0; f < frames; f++) {
    if (turns.idle?.[f]) continue;
    for (let i = 0; i < count; i++) {
      const from = (f * count + i) * 4;
      const to = (f * joints + turns.joints[i]) * 4;
      for (let c = 0; c < 4; c++) rotations[to + c] = turns.rotations[from + c];
    }
  }
}

function solveArms({ pairing, take, contacts, plan, bearing, touched, root, pelvis }: Parts, settings: SolveSettings): LegTurns[] {
  const placed = shifted(root, pelvis);
  const limbs = plan.limbs.filter(({ kind }) => kind === 'arm');
  const tracks = traceLimbs(pairing, plan, { ...bearing, rotations: touched }, placed, limbs);
  const floor = contacts.floor * pairing.scale.lift;
  const paths = planHands(
    { pairing, plan, rotations: touched, root: placed, contacts, frameTime: take.frameTime, floor },
    tracks,
    settings,
  );
  if (!paths) return [];
  const still = new Float64Array(take.frames * 3);
  return tracks.map((arm, i) => solveLeg(arm, paths[i], still, settings.softReach));
}

/** The hips' way of a plain transfer: only what a person asked for. */
function risen(frames: number, rise: Parts['rise']): Float64Array {
  const out = new Float64Array(frames * 3);
  rise?.forEach((height, f) => (out[f * 3 + 1] = height));
  return out;
}

function finish({ pairing, take, contacts, plan, pose, root, pelvis, twist, rise }: Parts, settings: SolveSettings): Finished {
  const floor = contacts.floor * pairing.scale.lift;
  const drop = settings.floor === 'zero' ? floor : 0;
  const shift = (pelvis as Float64Array | undefined)?.slice() ?? risen(take.frames, rise);
  if (drop !== 0) for (let i = 1; i < shift.length; i += 3) shift[i] -= drop;
  let path = shifted(root, shift);
  if (settings.inPlace) path = withoutTravel(path);
  const moves = [
    ...(plan.ground >= 0 ? [{ joint: plan.ground, values: Float32Array.from(path.ground) }] : []),
    { joint: plan.mover, values: Float32Array.from(path.moves) },
    ...pose.slides,
  ];
  return {
    clip: { name: take.name, frameTime: take.frameTime, frames: take.frames, rotations: twist, moves },
    floor: floor - drop,
  };
}
