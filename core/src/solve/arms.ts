import { helpReach } from './hands/help';
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

/** Bends the arms to where the hands shall be; where they are too short, shoulders and trunk come along as far as is set. */
export function solveArms(
  { pairing, take, rests, plan, bearing, touched, body, pelvis, legs, props, past }: Parts,
  settings: SolveSettings,
): readonly LimbTurns[] {
  const root = shifted(body, pelvis);
  const limbs = plan.limbs.filter(({ kind }) => kind === 'arm');
  const trace = (rotations: Float32Array): LimbTrack[] => traceLimbs(pairing, plan, { ...bearing, rotations }, root, limbs);
  const plain = trace(touched);
  const beside = {
    pairing,
    plan,
    root,
    contacts: rests,
    props,
    past: past && { frames: past.frames, hands: past.hands },
    take,
    frameTime: take.frameTime,
    floor: rests.floor * pairing.scale.lift,
  };
  const helped = helpReach({ ...beside, posed: touched }, plain, settings);
  const [posed, arms] = helped ? [helped.rotations, trace(helped.rotations)] : [touched, plain];
  let standing: Float32Array | undefined;
  const given = {
    ...beside,
    // Hands come to thighs as the legs have them once feet are held; most of the time none is near.
    get rotations() {
      return (standing ??= withLegs(posed, pairing.character.skeleton.parents.length, legs));
    },
  };
  const paths = planHands(given, arms, settings);
  const still = new Float64Array(take.frames * 3);
  const turns = paths ? arms.map((arm, i) => solveLimb(arm, paths[i], still, settings.softReach, settings.stretch)) : [];
  return [...(helped ? [helped.turns] : []), ...turns];
}
