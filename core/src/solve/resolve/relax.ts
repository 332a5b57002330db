/** Least share of a step that is gone. */
const LEAST = 0.1;

/**
 * Steps of an iteration in which each solution says where the next one looks: of steps that turn back on the ones before them only a share is gone, so
 * that they do not swing to and fro (Aitken's Δ² for vectors: Irons and Tuck 1969). Found for stretches of frames, as each settles by itself.
 */
export class Relaxation {
  private readonly steps: readonly Float64Array[];
  private readonly shares: Float64Array;

  /** @param curves number of curves, three numbers a frame each */
  constructor(curves: number, frames: number) {
    this.steps = Array.from({ length: curves }, () => new Float64Array(frames * 3));
    this.shares = new Float64Array(frames).fill(1);
  }

  /**
   * Goes from `curves` toward where `found` would have them, in frames from `first` to `last`.
   * @param found its numbers of frame f and curve k begin at `placeOf(f, k)`
   * @param changed written: how far each frame's numbers were from it at most, one a frame
   */
  go(
    [first, last]: readonly [number, number],
    curves: readonly Float64Array[],
    found: Float64Array,
    placeOf: (f: number, k: number) => number,
    changed: Float64Array,
  ): void {
    const { steps, shares } = this;
    let along = 0;
    let size = 0;
    for (let f = first; f <= last; f++) {
      for (let k = 0; k < curves.length; k++) {
        const from = placeOf(f, k);
        let far = 0;
        for (let c = 0; c < 3; c++) {
          const i = f * 3 + c;
          const step = found[from + c] - curves[k][i];
          const turn = step - steps[k][i];
          along += steps[k][i] * turn;
          size += turn * turn;
          steps[k][i] = step;
          far += step * step;
        }
        changed[f] = Math.max(changed[f], Math.sqrt(far));
      }
    }
    const share = along < 0 ? Math.max(LEAST, Math.min(1, (-shares[first] * along) / size)) : 1;
    shares.fill(share, first, last + 1);
    for (let k = 0; k < curves.length; k++) for (let i = first * 3; i < (last + 1) * 3; i++) curves[k][i] += share * steps[k][i];
  }
}
