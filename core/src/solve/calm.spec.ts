import { figureOf, makeFile, performerOf, randomShape, walk } from '../testing';
import { makePairing } from '../match';
import { prepareRig } from '../rig';
import { solve } from './solve';

/** A performer that stands, or shifts its weight, in a capture's noise; its feet stay where they are. */
function stander(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
  return performerOf(shape, walk(shape, { seed, frames: 240, noise: 8e-4, pace: 0 }));
}

describe('a body that stands in a capture’s noise', () => {
  // Onto bodies of other proportions: onto its own nothing needs to give way.
  const cases = [1, 2, 3, 4, 5, 6].map((seed) => {
    const { rig, clip } = stander(seed);
    const character = prepareRig(makeFile(randomShape(seed + 50, { clavicles: true, spread: [0.7, 1.5] }), { axes: seed }));
    return { seed, transfer: solve(makePairing(rig, character), clip) };
  });

  it('has knees and hips about as calm as the performer’s, while its feet are held still', () => {
    for (const { seed, transfer } of cases) {
      expect(figureOf(transfer, 'knees')).withContext(`knees of ${seed}`).toBeLessThan(1.4);
      expect(figureOf(transfer, 'hips')).withContext(`hips of ${seed}`).toBeLessThan(1.25);
      expect(figureOf(transfer, 'held.feet')).withContext(`feet of ${seed}`).toBeGreaterThan(99);
      expect(figureOf(transfer, 'slide')).withContext(`slide of ${seed}`).toBeLessThan(3);
    }
  });
});
