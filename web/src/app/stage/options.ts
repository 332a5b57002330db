export type ViewName = 'front' | 'side' | 'top' | 'free';
export type LayoutName = 'beside' | 'over' | 'performer' | 'character';
export type ShowName = 'mesh' | 'skeleton' | 'both' | 'through';

/** How the stage is looked at. */
export interface StageOptions {
  readonly layout: LayoutName;
  readonly view: ViewName;
  readonly show: ShowName;
  /** The view goes with the hips, or stays where it is. */
  readonly follow: boolean;
  /** Subject that the view is framed on: the whole body, or a part of it. */
  readonly part: string;
  /** Shows the plain transfer in place of the solved one. */
  readonly before: boolean;
  /** Shows the ways of feet, hands and hips through the take. */
  readonly trails: boolean;
  /** Shows where the feet stand through the take, at their own heights. */
  readonly prints: boolean;
  /** Shows the room that trunk, head and legs take, which hands and legs are kept out of. */
  readonly rooms: boolean;
  /** Shows the points that are watched for what they touch. */
  readonly points: boolean;
}

/** Frames the whole body. */
export const WHOLE = 'body';

export const DEFAULT_STAGE: StageOptions = {
  layout: 'beside',
  view: 'free',
  show: 'mesh',
  follow: true,
  part: WHOLE,
  before: false,
  trails: false,
  prints: false,
  rooms: false,
  points: false,
};
