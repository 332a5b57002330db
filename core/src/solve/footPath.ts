/** Where one foot or hand shall be in each frame. */
export interface FootPath {
  /** Ankle targets in the world, 3 per frame. */
  readonly ankle: Float64Array;
  /** World rotations of the foot and the toes, 4 per frame. */
  readonly footQ: Float64Array;
  readonly toesQ: Float64Array;
  /** 1 in frames in which heel or ball is held, or comes to its place or leaves it as the performer's. */
  readonly held: Uint8Array;
  /** 1 in frames in which the limb stays as it is posed. */
  readonly idle?: Uint8Array;
  /** How far an end turns along with its limb instead of keeping its turn in the world, frame by frame; undefined never. */
  readonly along?: Float64Array;
  /** By how much the limb turns about the line from its root to its end, radians, frame by frame; undefined nowhere. */
  readonly swing?: Float64Array;
}
