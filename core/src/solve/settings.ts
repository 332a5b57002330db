/** What a person may set for a solve; everything has a default. */
export interface SolveSettings {
  /** Pose transfer and root only: nothing is pinned. */
  readonly plain: boolean;
  /** Where the character's floor lies: where the take's does, scaled; or at height zero. */
  readonly floor: 'take' | 'zero';
  /** Removes travel over the floor and keeps the sway. */
  readonly inPlace: boolean;
  /** Frames per second of the result; undefined keeps the take's. */
  readonly fps: number | undefined;
  /** Share of full leg length beyond which the hips give way rather than straighten a leg further. */
  readonly softReach: number;
}

export const DEFAULT_SOLVE: SolveSettings = { plain: false, floor: 'take', inPlace: false, fps: undefined, softReach: 0.985 };

/** The stages of a solve in order: what the interface, the report and the docs call them. */
export const STAGES = [
  { id: 'pose', name: 'Pose transfer', what: 'carries each joint turn from rest over to the matched rest of the linked joint' },
  { id: 'root', name: 'Root', what: 'places the hips on the scaled path' },
  { id: 'plants', name: 'Plants', what: 'finds where heels and balls of the performer stay on the floor' },
  { id: 'feet', name: 'Feet', what: 'gives every planted foot one place and heading and leads the foot there and back' },
  { id: 'pelvis', name: 'Pelvis', what: 'lowers the hips where a planted foot would be out of reach' },
  { id: 'limbs', name: 'Limbs', what: 'bends the legs to their feet in closed form' },
  { id: 'twist', name: 'Twist', what: 'shares turns about a bone among its twist joints, or passes them on to the bone' },
  { id: 'finish', name: 'Finish', what: 'keeps rotations continuous in sign' },
] as const;

export type StageId = (typeof STAGES)[number]['id'];
