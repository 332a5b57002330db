import type { Pairing } from '../match';
import { helpReach } from './hands/help';
import type { HandsGiven } from './hands/given';
import type { LeanOfBody } from './hands/leaning';
import { swingElbows } from './hands/elbows';
import { palmsOf, planHands, swinging } from './hands/plan';
import { bodyRooms } from './hands/rooms';
import { solveLimb, type LimbTurns } from './legs';
import { traceLimbs, type LimbTrack } from './limbTrack';
import type { Parts } from './parts';
import type { PosePlan } from './plan';
import type { Posed } from './pose';
import { placeProps } from './props';
import { shifted, type RootPath } from './root';
import type { SolveSettings } from './settings';

/** Lays the turns of a limb over a body's. */
export function layOver(rotations: Float32Array, joints: number, turns: LimbTurns): void {
  const { idle, rotations: given } = turns;
  const count = turns.joints.length;
  const frames = given.length / (count * 4);
  for (let i = 0; i < count; i++) {
    for (let f = 0, from = i * 4, to = turns.joints[i] * 4; f < frames; f++, from += count * 4, to += joints * 4) {
      if (idle?.[f]) continue;
      rotations[to] = given[from];
      rotations[to + 1] = given[from + 1];
      rotations[to + 2] = given[from + 2];
      rotations[to + 3] = given[from + 3];
    }
  }
}

function withLegs(rotations: Float32Array, joints: number, legs: readonly LimbTurns[]): Float32Array {
  const out = rotations.slice();
  for (const turns of legs) layOver(out, joints, turns);
  return out;
}

/** What lean and hands are both told from. */
type Told = Pick<Parts, 'pairing' | 'take' | 'rests' | 'plan' | 'body' | 'pelvis' | 'props' | 'past'>;

/** The arms through a posed body. */
function armsOf(pairing: Pairing, plan: PosePlan, posed: Posed, root: RootPath): LimbTrack[] {
  return traceLimbs(
    pairing,
    plan,
    posed,
    root,
    plan.limbs.filter(({ kind }) => kind === 'arm'),
  );
}

function beside({ pairing, take, rests, plan, body, pelvis, props, past }: Told): Omit<HandsGiven, 'rotations'> {
  const floor = rests.floor * pairing.scale.lift;
  return { pairing, plan, root: shifted(body, pelvis), contacts: rests, props, past, take, frameTime: take.frameTime, floor };
}

/** Turns shoulders and trunk after hands for whose places the arms are too short, as far as is set. */
export function leanAfterHands(
  parts: Told & Pick<Parts, 'bearing' | 'touched'>,
  settings: Pick<SolveSettings, 'hands' | 'follow' | 'clavicleHelp' | 'spineHelp'>,
): LeanOfBody {
  const { pairing, plan, bearing, touched } = parts;
  const given = beside(parts);
  const trace = (rotations: Float32Array): LimbTrack[] => armsOf(pairing, plan, { ...bearing, rotations }, given.root);
  const arms = trace(touched);
  const { rotations, help } = helpReach({ ...given, posed: touched }, arms, settings);
  return { rotations, help, arms: rotations === touched ? arms : trace(rotations) };
}

/** Bends the arms to where the hands shall be. */
export function solveArms(
  parts: Told & Pick<Parts, 'lean' | 'legs'>,
  settings: Pick<SolveSettings, 'softReach' | 'hands' | 'keepOut' | 'follow' | 'stretch'>,
): readonly LimbTurns[] {
  const { pairing, lean, legs } = parts;
  let standing: Float32Array | undefined;
  const given = {
    ...beside(parts),
    // Hands come to thighs as the legs have them once feet are held; most of the time none is near.
    get rotations() {
      return (standing ??= withLegs(lean.rotations, pairing.character.skeleton.parents.length, legs));
    },
  };
  // On the performer’s own body hands and elbows are where the take has them.
  const rooms = settings.keepOut && !pairing.same.same ? bodyRooms(given, lean.arms) : undefined;
  const paths = planHands(given, lean.arms, settings, rooms);
  const swings = rooms ? swingElbows(given, rooms, lean.arms, paths, settings) : [];
  if (!paths && swings.every((swing) => swing === undefined)) return [];
  return lean.arms.map((arm, i) => {
    const turns = solveLimb(arm, swinging(arm, paths?.[i], swings[i]), undefined, settings.softReach, settings.stretch);
    return { ...turns, miss: paths?.[i].short ?? { distance: 0, frame: 0 }, swing: swings[i] };
  });
}

/** What the performer holds, where the hands have it. */
export function holdProps({
  pairing,
  take,
  rests,
  plan,
  bearing,
  touched,
  body,
  pelvis,
}: Omit<Told, 'props' | 'past'> & Pick<Parts, 'bearing' | 'touched'>): Parts['props'] {
  if (!rests.hands?.props?.length) return NO_PROPS;
  const { hands } = pairing.character;
  const arms = armsOf(pairing, plan, { ...bearing, rotations: touched }, shifted(body, pelvis));
  const palms = arms.map((arm) => {
    const hand = hands.find(({ side }) => side === arm.plan.side);
    return hand && palmsOf(arm, hand.palm);
  });
  return placeProps(pairing, rests, palms, take.frameTime);
}

const NO_PROPS: Parts['props'] = [];
