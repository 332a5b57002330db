import type { BandSystem } from '../../math/band';
import { BEND } from './curve';
import type { Sense } from './sense';

/** Weight of a knee's acceleration beside the hips', and of its turn itself. */
const ACCELERATION = 0.05;
const TURN = 0.2;
/** Weight of the square of a metre that a limb is too short by. */
const REACH = 1e4;

const factors = new Float64Array(9);
const one = new Float64Array(3);

interface KneesGiven {
  readonly sense: Sense;
  /** The displacement that is known: of the end, or of the hips; 3 per frame. */
  readonly other: Float64Array;
  /** The unknown one in the last round, with which the sense was made. */
  readonly now: Float64Array;
  /** 1 where the hips are unknown, which go after the end; −1 where the end is, which goes back. */
  readonly towards: 1 | -1;
  /** τ⁴ of the hips over the frame time to the fourth. */
  readonly stiffness: number;
  readonly breaks: Uint8Array;
}

/**
 * Charges a knee's share in the difference between its foot's displacement and the hips': its turn, and the acceleration of that; and the
 * reach that was missing in the last round.
 */
export function chargeKnees(system: BandSystem, { sense, other, now, towards, stiffness, breaks }: KneesGiven): void {
  const { turn, out, far, near, most } = sense;
  const frames = far.length;
  for (let f = 0; f < frames; f++) {
    let known = 0;
    let at = 0;
    for (let c = 0; c < 3; c++) {
      one[c] = turn[f * 3 + c];
      known += one[c] * other[f * 3 + c];
      at += out[f * 3 + c] * now[f * 3 + c];
    }
    system.sum(f * 3, 1, one, 3, known, TURN);
    if (f > 0 && f + 1 < frames && !breaks[f] && !breaks[f + 1]) {
      let bend = 0;
      for (let i = 0; i < 9; i++) {
        const o = (f - 1) * 3 + i;
        factors[i] = BEND[(i / 3) | 0] * turn[o];
        bend += factors[i] * other[o];
      }
      system.sum((f - 1) * 3, 1, factors, 9, bend, ACCELERATION * stiffness);
    }
    const over = far[f] > 0 ? far[f] : -Math.max(0, near[f]);
    if (over === 0) continue;
    for (let c = 0; c < 3; c++) one[c] = out[f * 3 + c];
    system.sum(f * 3, 1, one, 3, towards > 0 ? Math.min(at + over, most[f]) : at - over, REACH);
  }
}
