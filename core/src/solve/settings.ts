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
}

export const DEFAULT_SOLVE: SolveSettings = { plain: false, floor: 'take', inPlace: false, softReach: 0.985 };
