import { ClipReader } from '../clip';
import type { Contacts } from '../contact';
import { makePairing } from '../match';
import { prepareRig } from '../rig';
import { figureOf, makeFile, performerOf, randomShape, walk } from '../testing';
import { solve, type Transfer } from './solve';

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

describe('a foot that comes to its place slowly, in a capture’s noise', () => {
  /** Frames in which it comes, and metres to and fro of its noise. */
  const COMES = 5;
  const NOISE = 0.004;

  /** Contacts whose feet all come so, heel and ball alike. */
  const coming = ({ plants, ...contacts }: Contacts, noise: number): Contacts => ({
    ...contacts,
    plants: plants.map((plant) => ({
      ...plant,
      creep: {
        before: Float64Array.from({ length: COMES * 3 }, (_, i) => (((i / 3) | 0) % 2 ? noise : -noise)),
        after: new Float64Array(0),
      },
    })),
  });

  /** Largest step that a foot takes otherwise in one transfer than in another, from one frame to the next; metres. */
  function otherStep(a: Transfer, b: Transfer): number {
    const { skeleton, feet } = a.pairing.character;
    const [left, right] = [a, b].map(({ clip }) => new ClipReader(skeleton, clip));
    let most = 0;
    for (const { foot } of feet) {
      const off = (f: number): number[] => {
        const [p, q] = [left.at(f).positions, right.at(f).positions];
        return [0, 1, 2].map((c) => p[foot * 3 + c] - q[foot * 3 + c]);
      };
      let before = off(0);
      for (let f = 1; f < a.clip.frames; f++) {
        const now = off(f);
        most = Math.max(most, Math.hypot(...now.map((x, c) => x - before[c])));
        before = now;
      }
    }
    return most;
  }

  it('goes where the performer’s does, and leaves out what it shakes', () => {
    for (const seed of [1, 2, 3, 4]) {
      const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
      const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 240, fps: 120 }));
      const character = prepareRig(makeFile(randomShape(seed + 50, { clavicles: true, spread: [0.7, 1.5] }), { axes: seed }));
      const pairing = makePairing(rig, character);
      const found = solve(pairing, clip).contacts;
      const [calm, noisy] = [0, NOISE].map((noise) => solve(pairing, clip, undefined, { contacts: coming(found, noise) }));
      const shaken = 2 * Math.sqrt(3) * NOISE * pairing.scale.stride;
      // Followed to the letter it goes to and fro by all of it in each frame.
      expect(otherStep(calm, noisy))
        .withContext(`shakes ${seed}`)
        .toBeLessThan(0.35 * shaken);
      expect(figureOf(noisy, 'held.feet'))
        .withContext(`held of ${seed}`)
        .toBeGreaterThan(figureOf(calm, 'held.feet') - 1);
    }
  });
});
