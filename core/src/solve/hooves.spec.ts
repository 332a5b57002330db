import { ClipReader, type Clip } from '../clip';
import { makePairing } from '../match';
import { invMul, mulInv } from '../math/quat';
import { prepareRig, type Rig } from '../rig';
import { figureOf, hoofed, judged, makeFile, performerOf, randomShape, walk } from '../testing';
import { solve } from './solve';

describe('legs of three and of four bones', () => {
  const CASES = ([3, 4] as const).flatMap((bones) => [91, 92, 93, 94].map((seed) => ({ bones, seed })));

  function onto(seed: number, bones: 2 | 3 | 4) {
    const shape = randomShape(seed, { clavicles: true });
    const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 240, crouch: 0.1, roll: seed % 2 ? 25 : 0, noise: 0.0005 }));
    const body = randomShape(seed + 20, { clavicles: true, spread: [0.7, 1.4] });
    const character = prepareRig(makeFile(bones === 2 ? body : hoofed(body, bones), { axes: seed }));
    return solve(makePairing(rig, character), clip);
  }

  /** World rotations of a leg's joints away from the matched rest, over time. */
  function turns(character: Rig, rest: Float64Array, clip: Clip, parts: readonly string[]): Float64Array[] {
    const reader = new ClipReader(character.skeleton, clip);
    const joints = parts.map((part) => character.roles.get(`left.${part}`)!);
    return Array.from({ length: clip.frames }, (_, f) => {
      const { rotations } = reader.at(f);
      const out = new Float64Array(joints.length * 4);
      joints.forEach((j, i) => mulInv(out, i * 4, rotations, j * 4, rest, j * 4));
      return out;
    });
  }

  it('hold their feet, keep their skin out of the floor, and turn nothing over, as legs of two do', () => {
    for (const { bones, seed } of CASES) {
      const [transfer, two] = [onto(seed, bones), onto(seed, 2)];
      const [mine, theirs] = [judged(transfer), judged(two)];
      const context = `${bones} bones of ${seed}`;
      expect(transfer.pairing.character.roles.has('left.fetlock'))
        .withContext(context)
        .toBe(bones === 4);
      for (const [id, more] of [
        ['slide', 0.1],
        ['sink', 1],
        ['flips', 0],
        // A shin that is short beside thigh and cannon opens farther for the same way of the foot.
        ['knees', 0.35],
      ] as const)
        expect(figureOf(transfer, id, mine))
          .withContext(`${id}, ${context}`)
          .toBeLessThanOrEqual(figureOf(two, id, theirs) + more);
      expect(figureOf(transfer, 'held.feet', mine))
        .withContext(context)
        .toBeGreaterThanOrEqual(figureOf(two, 'held.feet', theirs) - 0.5);
      expect(transfer.clip.rotations.every(Number.isFinite)).toBeTrue();
    }
  });

  it('fold as a pantograph: every second bone turns with the thigh, the others with the shin', () => {
    for (const { bones, seed } of CASES) {
      const { pairing, clip } = onto(seed, bones);
      const parts = ['upperLeg', 'lowerLeg', 'hock', ...(bones === 4 ? ['fetlock'] : [])];
      const between = new Float64Array(4);
      let bends = 0;
      for (const turn of turns(pairing.character, pairing.match.pose.rotations, clip, parts)) {
        for (let i = 2; i < parts.length; i++) {
          invMul(between, 0, turn, (i - 2) * 4, turn, i * 4);
          expect(Math.abs(between[3])).withContext(`${parts[i]} of ${seed}`).toBeGreaterThan(0.99999);
        }
        invMul(between, 0, turn, 0, turn, 4);
        bends = Math.max(bends, 2 * Math.acos(Math.min(1, Math.abs(between[3]))));
      }
      expect(bends).withContext(`${bones} bones of ${seed}`).toBeGreaterThan(0.15);
    }
  });

  it('give their motion back to a body of two', () => {
    for (const bones of [3, 4] as const) {
      const { pairing, clip } = onto(92, bones);
      const plain = prepareRig(makeFile(randomShape(60, { clavicles: true })));
      const transfer = solve(makePairing(pairing.character, plain), clip);
      const verdict = judged(transfer);
      expect(figureOf(transfer, 'held.feet', verdict))
        .withContext(`${bones}`)
        .toBeGreaterThan(99);
      expect(figureOf(transfer, 'slide', verdict))
        .withContext(`${bones}`)
        .toBeLessThan(5);
      expect(figureOf(transfer, 'flips', verdict))
        .withContext(`${bones}`)
        .toBe(0);
    }
  });
});
