import type { FootPlan } from './stances';

/**
 * What of a motion is final when frames are solved as they come: it was shown, so nothing of it moves any more, and what follows goes on from
 * it.
 */
export interface Past {
  /** How many frames of the take, from its first on. */
  readonly frames: number;
  /** How many frames of the take are known; in those that follow it stands still. */
  readonly known: number;
  /** Translations of the joint that carries the body, 3 per frame. */
  readonly moves: Float64Array;
  /** Feet and hands in the order of the limbs' plans. */
  readonly feet: readonly PastEnd[];
  readonly hands: readonly PastEnd[];
  /** World rotations of both feet's toes in the last of the frames, 4 each; undefined for a foot without toes. */
  readonly toes: readonly (Float64Array | undefined)[];
  /** How the body leant after its hands; none where it did not. */
  readonly help: readonly Float64Array[];
  /** How far elbows swung, radians, one a frame; undefined for one that did not. */
  readonly elbows: readonly (Float64Array | undefined)[];
  /** How much higher than copied each foot came to its last stance, metres: it is led to the next one so. */
  readonly landed: readonly number[];
  /** How tails swung in the last of the frames; empty where none swings. */
  readonly swings: Float64Array;
  /** What each foot stood on. */
  readonly stood: readonly FootPlan[];
}

/** Where the end of a limb was, in the world. */
export interface PastEnd {
  /** Places, 3 per frame, and rotations, 4 per frame. */
  readonly places: Float64Array;
  readonly turns: Float64Array;
}
