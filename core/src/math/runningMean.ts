/**
 * The mean of a series of places within some frames on each side, frame after frame, without a copy of the series. At the ends the
 * window is as short as the series leaves it.
 */
export class RunningMean {
  x = 0;
  y = 0;
  z = 0;
  private sumX = 0;
  private sumY = 0;
  private sumZ = 0;
  private readonly frames: number;
  /** The first frame behind the window. */
  private next = 0;

  /** @param values three a frame @param radius frames on each side */
  constructor(
    private readonly values: Float64Array | Float32Array,
    private readonly radius: number,
  ) {
    this.frames = values.length / 3;
  }

  /** Goes to a frame: 0 first, then one on with each call. */
  step(f: number): void {
    const { values, radius, frames } = this;
    for (; this.next <= f + radius && this.next < frames; this.next++) this.add(this.next * 3, 1);
    if (f > radius) this.add((f - radius - 1) * 3, -1);
    const count = this.next - Math.max(0, f - radius);
    // A window of one frame is the frame itself, not a difference of sums.
    this.x = radius === 0 ? values[f * 3] : this.sumX / count;
    this.y = radius === 0 ? values[f * 3 + 1] : this.sumY / count;
    this.z = radius === 0 ? values[f * 3 + 2] : this.sumZ / count;
  }

  private add(o: number, sign: number): void {
    this.sumX += sign * this.values[o];
    this.sumY += sign * this.values[o + 1];
    this.sumZ += sign * this.values[o + 2];
  }
}
