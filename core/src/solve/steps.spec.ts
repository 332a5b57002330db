import { ClipReader } from '../clip';
import { figureOf, makeFile, performerOf, randomShape, walk } from '../testing';
import { makePairing } from '../match';
import { rotate } from '../math/quat';
import { prepareRig } from '../rig';
import { solve } from './solve';

describe('feet on steps', () => {
  /** A walk whose every stance stands a step higher than the one before it. */
  function stair(seed: number) {
    const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
    return performerOf(shape, walk(shape, { seed, frames: 300, climb: 0.16, crouch: 0.12 }));
  }

  it('stay where they stand, at the performer’s height scaled, on bodies of other proportions', () => {
    for (const seed of [1, 2, 3, 4, 5]) {
      const { rig, clip } = stair(seed);
      const character = prepareRig(makeFile(randomShape(seed + 70, { clavicles: true, spread: [0.7, 1.4] }), { axes: seed }));
      const transfer = solve(makePairing(rig, character), clip);
      const raised = transfer.contacts.plants.filter(({ height = 0 }) => height > 0);
      expect(raised.length).withContext(`plants of ${seed}`).toBeGreaterThan(4);
      expect(figureOf(transfer, 'held.feet')).withContext(`held of ${seed}`).toBeGreaterThan(99);
      expect(figureOf(transfer, 'slide')).withContext(`slide of ${seed}`).toBeLessThan(1);
      const reader = new ClipReader(character.skeleton, transfer.clip);
      const at = new Float64Array(3);
      for (const { side, part, first, last, height = 0 } of raised) {
        const foot = character.feet.find((one) => one.side === side)!;
        for (let f = first; f <= last; f += 5) {
          const { positions, rotations } = reader.at(f);
          rotate(at, 0, rotations, foot.foot * 4, part === 'heel' ? foot.heel : foot.ball, 0);
          const y = positions[foot.foot * 3 + 1] + at[1];
          expect(Math.abs(y - transfer.floor - height * transfer.pairing.scale.lift))
            .withContext(`${seed} ${side} ${part} frame ${f}`)
            .toBeLessThan(0.006);
        }
      }
    }
  });
});
