import { ClipReader } from '../clip';
import { judge, LIMITS } from '../judge';
import { caseOf } from '../job';
import { makePairing } from '../match';
import { rotate } from '../math/quat';
import { DEFAULT_PAIRING } from '../recipe';
import { prepareRig } from '../rig';
import { figureOf, judged, makeFile, performerOf, randomShape, walk } from '../testing';
import { solve } from './solve';

describe('feet on a slope', () => {
  function uphill(seed: number, slope: number) {
    const shape = randomShape(seed);
    const { rig, clip } = performerOf(
      shape,
      walk(shape, { seed, frames: 360, heading: 40 * seed, crouch: 0.12, slope, roll: seed % 2 ? 25 : 0 }),
    );
    const character = prepareRig(makeFile(randomShape(seed + 50, { spread: [0.7, 1.4] }), { axes: seed }));
    return solve(makePairing(rig, character, { ...DEFAULT_PAIRING, stride: seed % 2 ? 'legs' : 'marks' }), clip);
  }

  it('stand on it, lie along it, and swing over it', () => {
    for (const slope of [0.12, 0.25, -0.2]) {
      for (const seed of [1, 2, 3, 4]) {
        const transfer = uphill(seed, slope);
        const context = `${slope} of ${seed}`;
        const verdict = judged(transfer);
        expect(transfer.contacts.ground).withContext(context).toBeDefined();
        expect(figureOf(transfer, 'held.feet', verdict))
          .withContext(`held ${context}`)
          .toBeGreaterThan(99);
        expect(figureOf(transfer, 'sink', verdict))
          .withContext(`sink ${context}`)
          .toBeLessThan(LIMITS.sink.good);
        for (const { kind, height } of verdict.rests)
          if (kind === 'feet') expect(Math.abs(height)).withContext(`rest ${context}`).toBeLessThan(0.02);
        const { lift, stride } = transfer.pairing.scale;
        const { character } = transfer.pairing;
        const reader = new ClipReader(character.skeleton, transfer.clip);
        const [heel, ball] = [new Float64Array(3), new Float64Array(3)];
        const rises = transfer.contacts.plants.flatMap(({ side, part, first, last }) => {
          const beside = transfer.contacts.plants.find(
            (one) => one.side === side && one.part !== part && one.first <= last && one.last >= first,
          );
          if (!beside || part === 'ball') return [];
          const foot = character.feet.find((one) => one.side === side)!;
          const { rotations } = reader.at((Math.max(first, beside.first) + Math.min(last, beside.last)) >> 1);
          rotate(heel, 0, rotations, foot.foot * 4, foot.heel, 0);
          rotate(ball, 0, rotations, foot.foot * 4, foot.ball, 0);
          return [(ball[1] - heel[1]) / Math.sqrt((ball[0] - heel[0]) ** 2 + (ball[2] - heel[2]) ** 2)];
        });
        expect(rises.length).withContext(context).toBeGreaterThan(3);
        for (const rise of rises)
          expect(Math.abs(rise - (slope * lift) / stride))
            .withContext(context)
            .toBeLessThan(0.05);
      }
    }
  });

  it('are seen in it by the judge, where they are pressed into it', () => {
    const transfer = uphill(2, 0.2);
    const given = caseOf(transfer, undefined);
    const pressed = {
      ...given.result,
      moves: given.result.moves.map(({ joint, values }) => ({ joint, values: values.map((v, i) => (i % 3 === 1 ? v - 0.04 : v)) })),
    };
    const sink = (one: typeof given): number => judge(one).figures.find(({ id }) => id === 'sink')!.value;
    expect(sink(given)).toBeLessThan(6);
    expect(sink({ ...given, result: pressed })).toBeGreaterThan(30);
    // A judge that took the floor for level would see a good result sunk.
    expect(sink({ ...given, slope: undefined })).toBeGreaterThan(30);
  });
});
