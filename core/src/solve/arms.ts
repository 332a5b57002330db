import { helpReach } from './hands/help';
import type { HandsGiven } from './hands/given';
import type { Lean } from './hands/leaning';
import { planHands } from './hands/plan';
import { solveLimb, type LimbTurns } from './legs';
import { traceLimbs, type LimbTrack } from './limbTrack';
import type { Parts } from './parts';
import { shifted } from './root';
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

type Leaning = Pick<Parts, 'pairing' | 'take' | 'rests' | 'plan' | 'bearing' | 'touched' | 'body' | 'pelvis' | 'props' | 'past'>;
type Reaching = Omit<Leaning, 'touched' | 'bearing'> & Pick<Parts, 'lean' | 'legs'>;

/** How a body leans after its hands, and its arms through it. */
export interface LeanOfBody extends Lean {
  readonly arms: readonly LimbTrack[];
}

/** What lean and hands are told from. */
function beside({ pairing, take, rests, plan, body, pelvis, props, past }: Omit<Reaching, 'lean' | 'legs'>): Omit<HandsGiven, 'rotations'> {
  const floor = rests.floor * pairing.scale.lift;
  return { pairing, plan, root: shifted(body, pelvis), contacts: rests, props, past, take, frameTime: take.frameTime, floor };
}

/** Turns shoulders and trunk after hands for whose places the arms are too short, as far as is set. */
export function leanAfterHands(parts: Leaning, settings: SolveSettings): LeanOfBody {
  const { pairing, plan, bearing, touched } = parts;
  const given = beside(parts);
  const limbs = plan.limbs.filter(({ kind }) => kind === 'arm');
  const trace = (rotations: Float32Array): LimbTrack[] => traceLimbs(pairing, plan, { ...bearing, rotations }, given.root, limbs);
  const arms = trace(touched);
  const { rotations, help } = helpReach({ ...given, posed: touched }, arms, settings);
  return { rotations, help, arms: rotations === touched ? arms : trace(rotations) };
}

/** Bends the arms to where the hands shall be. */
export function solveArms(parts: Reaching, settings: SolveSettings): readonly LimbTurns[] {
  const { pairing, take, lean, legs } = parts;
  let standing: Float32Array | undefined;
  const given = {
    ...beside(parts),
    // Hands come to thighs as the legs have them once feet are held; most of the time none is near.
    get rotations() {
      return (standing ??= withLegs(lean.rotations, pairing.character.skeleton.parents.length, legs));
    },
  };
  const paths = planHands(given, lean.arms, settings);
  if (!paths) return [];
  const still = new Float64Array(take.frames * 3);
  return lean.arms.map((arm, i) => solveLimb(arm, paths[i], still, settings.softReach, settings.stretch));
}
