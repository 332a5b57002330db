/** Small pieces that the parts of planning hands share. */

/** Corrections smaller than this share of a leg are left out: nobody sees them, and a straight elbow would pay for them. */
export const PLAY = 0.008;

/** Seconds that a hand takes at least from its rest to what it meets or holds. */
export const APART = 0.35;

/** Lets small corrections be, large ones nearly whole, without a corner. */
export function yieldTo(shift: Float64Array, play: number): void {
  for (let i = 0; i < shift.length; i += 3) {
    const size = shift[i] * shift[i] + shift[i + 1] * shift[i + 1] + shift[i + 2] * shift[i + 2];
    const kept = size / (size + play * play);
    for (let c = 0; c < 3; c++) shift[i + c] *= kept;
  }
}

/** No hand goes farther than some way, without a corner: arms would not be the performer's any more. */
export function holdWithin(shift: Float64Array, most: number): void {
  for (let i = 0; i < shift.length; i += 3) {
    const x = (shift[i] * shift[i] + shift[i + 1] * shift[i + 1] + shift[i + 2] * shift[i + 2]) / (most * most);
    const kept = 1 / Math.sqrt(Math.sqrt(1 + x * x));
    for (let c = 0; c < 3; c++) shift[i + c] *= kept;
  }
}
