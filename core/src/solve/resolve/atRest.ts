import { smoothstep } from '../../math/filter';
import { length } from '../../math/vec';
import { framesToHeld } from '../held';

/** Hips that are held where the body rests pull no harder than from so far away, metres: a body that has no room there gets up slowly, and not at once. */
const HARDEST = 0.003;
/** Seconds from where a rest begins or ends in which that is so; in the midst of it hips are held, whatever feet ask for. */
const LOOSE = 0.7;

/**
 * How firmly a body that rests on the floor holds its hips: in the midst of its rest by the square of what they leave it by, toward its ends by no more than
 * in proportion (a robust loss, w = 1 / (1 + |x| / c): Fair 1974), weighed anew in each round.
 */
export class AtRest {
  /** Share of the whole hold, one a frame. */
  readonly shares: Float64Array;
  /** From 0 in the midst of a rest to 1 where it begins and ends. */
  private readonly loose: Float64Array;

  /** @param whole the hold of a body that stays where it rests, from 0 to 1, one a frame */
  constructor(
    private readonly whole: Float64Array,
    frameTime: number,
  ) {
    this.shares = whole.slice();
    const free = Uint8Array.from(whole, (share) => (share > 0 ? 0 : 1));
    this.loose = framesToHeld(free).map((away) => 1 - smoothstep((away * frameTime) / LOOSE));
  }

  /**
   * Weighs a frame anew.
   * @param hips their displacement, metres, 3 per frame
   * @returns metres that they would still go for it, about
   */
  renew(f: number, hips: Float64Array): number {
    const { whole, shares, loose } = this;
    if (whole[f] === 0) return 0;
    const away = length(hips, f * 3);
    const before = shares[f];
    const now = whole[f] / (1 + (loose[f] * away) / HARDEST);
    shares[f] = now;
    return (away * Math.abs(now - before)) / Math.max(now, before);
  }
}
