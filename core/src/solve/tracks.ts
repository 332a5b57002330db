/** Per-frame records that stages hand to each other, as flat arrays. */

/** One leg of the character in the world: positions (3) and rotations (4), by offset within a frame's record. */
export const LEG = {
  hip: 0,
  knee: 3,
  hock: 6,
  ankle: 9,
  parentQ: 12,
  upperQ: 16,
  lowerQ: 20,
  hockQ: 24,
  footQ: 28,
  toesQ: 32,
  stride: 36,
} as const;

/** One foot of the performer: probes at heel, ball and tip in the world, by offset within a frame's record. */
export const PROBE = { heel: 0, ball: 3, tip: 6, stride: 9 } as const;

export interface LegTrack {
  readonly side: 'left' | 'right';
  /** Joint indices of the character, −1 where it has none. */
  readonly upper: number;
  readonly lower: number;
  readonly hock: number;
  readonly foot: number;
  readonly toes: number;
  readonly data: Float64Array;
}

export interface ProbeTrack {
  readonly side: 'left' | 'right';
  readonly data: Float64Array;
}

/** What the pose transfer gives: the plain result and the records that the later stages start from. */
export interface Transferred {
  readonly frames: number;
  readonly frameTime: number;
  /** Local rotations of the character, frames × joints × 4. */
  readonly rotations: Float32Array;
  /** Joint that carries the translation, and its local translations, 3 per frame. */
  readonly mover: number;
  readonly moves: Float32Array;
  /** World rotation of the mover's parent (it does not move), identity for a root. */
  readonly moverParentQ: Float64Array;
  readonly ground: { readonly joint: number; readonly moves: Float32Array } | undefined;
  readonly legs: readonly LegTrack[];
  readonly probes: readonly ProbeTrack[];
}
