import * as fc from 'fast-check';
import { random } from '../../math/random';
import { DEG } from '../../math/trig';
import { rotate } from '../../math/quat';
import { offBeyond } from './legsOff';

const EVEN = { stride: 1, lift: 1 };
const low = (): boolean => true;

/** A direction and, for the character, one that is turned from it. */
const pair = (theirs: readonly number[], mine: readonly number[]) => ({ theirs: Float32Array.from(theirs), mine: Float32Array.from(mine) });

/** A leg of the performer that is bent, and one with other bones whose ankle is in the same place, its knee bent the same way. */
function legsOf(seed: number) {
  const rng = random(seed);
  const turn = Float64Array.from({ length: 4 }, () => rng.normal());
  const size = Math.hypot(...turn);
  for (let c = 0; c < 4; c++) turn[c] /= size;
  const turned = (x: number, y: number): number[] => {
    const out = new Float64Array(3);
    rotate(out, 0, turn, 0, [x, y, 0], 0);
    return [...out];
  };
  const [c, d] = [rng.range(0.3, 0.6), rng.range(0.3, 0.6)];
  const [p, q] = [rng.range(0.3, 1.2), -rng.range(0.3, 1.2)];
  const theirs = [turned(Math.cos(p), Math.sin(p)), turned(Math.cos(q), Math.sin(q))];
  const way = theirs[0].map((x, k) => c * x + d * theirs[1][k]);
  // Beside the way, on the side of the performer's knee.
  const lean = Math.atan2(c * Math.sin(p) + d * Math.sin(q), c * Math.cos(p) + d * Math.cos(q)) + rng.range(0.1, 1.2);
  const thigh = turned(Math.cos(lean), Math.sin(lean));
  const a = rng.range(0.15, 0.9);
  const shin = way.map((x, k) => x - a * thigh[k]);
  const b = Math.hypot(...shin);
  return { theirs, mine: [thigh, shin.map((x) => x / b)], bones: { mine: [a, b], theirs: [c, d] } };
}

const seeds = fc.integer({ min: 1, max: 1e6 });

/** A direction between two others, and one beside it by an angle, across the arc that joins them. */
function onArc(from: readonly number[], to: readonly number[], share: number, beside = 0): number[] {
  const sum = from.map((x, k) => (1 - share) * x + share * to[k]);
  const across = [0, 1, 2].map((k) => from[(k + 1) % 3] * to[(k + 2) % 3] - from[(k + 2) % 3] * to[(k + 1) % 3]);
  const [n, m] = [Math.hypot(...sum), Math.hypot(...across)];
  return sum.map((x, k) => (x / n) * Math.cos(beside) + (across[k] / m) * Math.sin(beside));
}

describe('how far a leg is off beyond what its foot asks for', () => {
  it('is nothing where it reaches the performer’s ankle with its own bones, nor on the way there from the performer’s directions', () => {
    fc.assert(
      fc.property(seeds, fc.double({ min: 0, max: 1, noNaN: true }), (seed, share) => {
        const { theirs, mine, bones } = legsOf(seed);
        const legs = [0, 1].map((i) => pair(theirs[i], onArc(theirs[i], mine[i], share)));
        const off = offBeyond([legs[0], legs[1]], bones, EVEN, low);
        for (const one of off) expect(one[0]).toBeLessThan(0.1 * DEG);
      }),
    );
  });

  it('is all by which it is turned away from there', () => {
    fc.assert(
      fc.property(
        seeds,
        fc.double({ min: 0.2, max: 0.8, noNaN: true }),
        fc.double({ min: 0.1, max: 1, noNaN: true }),
        (seed, share, away) => {
          const { theirs, mine, bones } = legsOf(seed);
          const legs = [0, 1].map((i) => pair(theirs[i], onArc(theirs[i], mine[i], share, away)));
          const off = offBeyond([legs[0], legs[1]], bones, EVEN, low);
          for (const one of off) expect(Math.abs(one[0] - away)).toBeLessThan(0.1 * DEG);
        },
      ),
    );
  });

  it('is what it is off the performer’s for bones alike, and for a foot in the air', () => {
    fc.assert(
      fc.property(seeds, fc.double({ min: 0.1, max: 1, noNaN: true }), (seed, away) => {
        const { theirs, mine, bones } = legsOf(seed);
        const legs = [0, 1].map((i) => pair(theirs[i], onArc(theirs[i], mine[i], 0, away)));
        const alike = { mine: bones.theirs.map((length) => 1.3 * length), theirs: bones.theirs };
        const ofAlike = offBeyond([legs[0], legs[1]], alike, { stride: 1.3, lift: 1.3 }, low);
        const inAir = offBeyond([legs[0], legs[1]], bones, EVEN, () => false);
        for (const one of [...ofAlike, ...inAir]) expect(Math.abs(one[0] - away)).toBeLessThan(0.1 * DEG);
      }),
    );
  });
});
