import { makePairing } from '../match';
import { prepareRig } from '../rig';
import { judged, makeFile, performerOf, randomShape, Rebuild, walk, type WalkOptions } from '../testing';
import { solve, type Transfer } from './solve';

/** A character in boots, on whose long soles every turn of the performer's feet is a longer way. */
function ontoBoots(seed: number, options: WalkOptions): Transfer {
  const shape = randomShape(seed, { clavicles: true, toes: true });
  const performer = performerOf(shape, walk(shape, { seed, frames: 300, ...options }));
  const body = new Rebuild(randomShape(seed + 60, { clavicles: true, toes: true, spread: [0.6, 1.5] })).shift('hips', [0, 0.03, 0]).shape();
  return solve(makePairing(performer.rig, prepareRig(makeFile(body, { axes: seed }))), performer.clip);
}

describe('feet', () => {
  const gaits: readonly (readonly [string, WalkOptions])[] = [
    ['that roll', { roll: 18 }],
    ['that roll far', { roll: 30, pace: 1.3 }],
    ['that hardly lift', { roll: 6, pace: 0.5 }],
    ['of bent knees', { roll: 22, crouch: 0.08 }],
    ['of a noisy take', { roll: 18, noise: 0.002 }],
    ['at thirty frames a second', { roll: 18, fps: 30 }],
  ];
  for (const [name, options] of gaits) {
    it(`${name} never jump from one frame to the next`, () => {
      for (let seed = 1; seed <= 6; seed++) {
        const jumps = judged(ontoBoots(seed, options)).figures.find(({ id }) => id === 'jumps')!;
        expect(jumps.value).withContext(`${seed}: ${jumps.words}`).toBeLessThan(12);
      }
    });
  }
});
