/** What a person may set for a solve; everything has a default. */
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
}

export const DEFAULT_SOLVE: SolveSettings = { plain: false, floor: 'take', inPlace: false, softReach: 0.985, hands: 1, keepOut: true };
