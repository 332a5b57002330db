export type ViewName = 'front' | 'side' | 'top' | 'free';
export type LayoutName = 'beside' | 'over' | 'performer' | 'character';
export type ShowName = 'mesh' | 'skeleton' | 'both';

/** How the stage is looked at. */
export interface StageOptions {
  readonly layout: LayoutName;
  readonly view: ViewName;
  readonly show: ShowName;
  /** The view goes with the hips, or stays where it is. */
  readonly follow: boolean;
  /** Shows the plain transfer in place of the solved one. */
  readonly before: boolean;
  /** Shows the ways of feet, hands and hips through the take. */
  readonly trails: boolean;
}

export const DEFAULT_STAGE: StageOptions = { layout: 'beside', view: 'free', show: 'mesh', follow: true, before: false, trails: false };
