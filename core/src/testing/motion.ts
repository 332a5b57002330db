/** World turns of all joints away from a shape's T-pose, and the hips' places, metres. */
export interface Motion {
  readonly frames: number;
  readonly frameTime: number;
  /** frames × joints × 4. */
  readonly turns: Float64Array;
  /** frames × 3. */
  readonly hips: Float64Array;
}
