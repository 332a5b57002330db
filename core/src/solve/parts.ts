import type { Clip } from '../clip';
import type { Contacts } from '../contact';
import type { Pairing } from '../match';
import type { LaidTouchUps } from '../touchup';
import type { FeetPlan } from './feet';
import type { LeanOfBody } from './hands/leaning';
import type { LimbTurns } from './legs';
import type { LimbTrack } from './limbTrack';
import type { Past } from './past';
import type { PosePlan } from './plan';
import type { Posed } from './pose';
import type { PropPath } from './props';
import type { RootPath } from './root';
import type { Steady } from './steady';
import type { Tails } from './tails';

/** Inputs of a solve and results of its stages, by name. */
export interface Parts {
  readonly pairing: Pairing;
  /** On the performer's skeleton, metres, Y up. */
  readonly take: Clip;
  readonly contacts: Contacts;
  /** Touch-ups of what carries the body, of all else, and of the hips' height. */
  readonly below: LaidTouchUps['below'];
  readonly above: LaidTouchUps['above'];
  readonly rise: LaidTouchUps['rise'];
  /** Another way over the floor. */
  readonly steer: LaidTouchUps['steer'];
  /** Other places for what stands. */
  readonly steps: LaidTouchUps['steps'];
  /** What is final already; undefined for a take that is solved as a whole. */
  readonly past: Past | undefined;
  readonly plan: PosePlan;
  /** How the performer's hips are to be turned back in single frames. */
  readonly steady: Steady;
  readonly pose: Posed;
  /** The pose with the touch-ups of what carries the body, going where it is steered. */
  readonly bearing: Posed;
  /** The performer's touches, where the body is steered to. */
  readonly rests: Contacts;
  /** Local rotations with all touch-ups, before anything is held. */
  readonly touched: Float32Array;
  readonly root: RootPath;
  /** The same with the body's weight over its feet. */
  readonly balance: RootPath;
  /** The same with the body laid on the floor where it rests on it. */
  readonly body: RootPath;
  readonly limbs: readonly LimbTrack[];
  readonly feet: FeetPlan;
  /** Where the hips give way to, metres, 3 per frame. */
  readonly pelvis: Float64Array;
  readonly legs: readonly LimbTurns[];
  /** Things beside the body that the take records. */
  readonly props: readonly PropPath[];
  /** The touched pose, leaning after its hands. */
  readonly lean: LeanOfBody;
  /** Empty when no hand has to go anywhere. */
  readonly arms: readonly LimbTurns[];
  /** Local rotations of the character, frames × joints × 4. */
  readonly twist: Float32Array;
  /** The same with extra chains off the floor, and swinging. */
  readonly tails: Tails;
  readonly finish: Finished;
}

export interface Finished {
  readonly clip: Clip;
  /** Height of the character's floor. */
  readonly floor: number;
}
