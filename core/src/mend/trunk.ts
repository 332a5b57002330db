import { between, exp, log } from '../math/quat';
import type { Poser } from './poser';

/** The trunk and the neck are bent so often, each time by what is left: joints of a chain turn about unlike places. */
const ROUNDS = 4;

const q = new Float64Array(4);
const w = new Float64Array(3);
const a = new Float64Array(3);
const b = new Float64Array(3);

/** Bends a chain so that what it carries comes to a place: each of its joints turns by a like part of what is left. */
export function bendTo(poser: Poser, joints: readonly number[], tip: number, to: Float64Array, o: number): void {
  const { positions: P } = poser.pose;
  for (let round = 0; round < ROUNDS; round++) {
    joints.forEach((joint, i) => {
      for (let c = 0; c < 3; c++) {
        a[c] = P[tip * 3 + c] - P[joint * 3 + c];
        b[c] = to[o + c] - P[joint * 3 + c];
      }
      between(q, 0, a, 0, b, 0);
      log(w, 0, q, 0);
      // Those still to come take their part of it.
      const part = 1 / (joints.length - i);
      exp(q, 0, w[0] * part, w[1] * part, w[2] * part);
      poser.turn(joint, q);
    });
  }
}
