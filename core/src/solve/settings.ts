import type { LimbName } from '../recipe';

/** Settings of a solve; everything has a default. */
export interface SolveSettings {
  /** Pose transfer and root only: nothing is held. */
  readonly plain: boolean;
  /** Where the character's floor lies: where the take's does, scaled; or at height zero. */
  readonly floor: 'take' | 'zero';
  /** Removes travel over the floor and keeps the sway. */
  readonly inPlace: boolean;
  /** Share of full leg length beyond which the hips give way rather than straighten a leg further. */
  readonly softReach: number;
  /** How far hands follow what they touch: 1 holds them, 0 lets them go with the pose. */
  readonly hands: number;
  /** Hands stay out of the character's own trunk and head. */
  readonly keepOut: boolean;
  /** Legs stay out of each other. */
  readonly apart: boolean;
  /** How far the hips go aside so that the weight stays over the feet as the performer's does: 0 not at all, 1 all the way. */
  readonly balance: number;
  /** How far each limb comes to the place that it shall hold: 1 all the way, 0 stays with the pose. */
  readonly follow: Readonly<Record<LimbName, number>>;
  /** How far clavicles and spine come along when an arm is too short: 0 not at all, 1 as far as a body can. */
  readonly clavicleHelp: number;
  readonly spineHelp: number;
  /** Share of their length by which limbs may be drawn out where they are too short. */
  readonly stretch: number;
  /** How loosely tails and other extra chains swing after the body: 0 not at all, 1 most. */
  readonly tails: number;
}

export const DEFAULT_SOLVE: SolveSettings = {
  plain: false,
  floor: 'take',
  inPlace: false,
  softReach: 0.985,
  hands: 1,
  keepOut: true,
  apart: true,
  balance: 0,
  follow: { leftArm: 1, rightArm: 1, leftLeg: 1, rightLeg: 1 },
  clavicleHelp: 0.5,
  spineHelp: 0.5,
  stretch: 0,
  tails: 0,
};
