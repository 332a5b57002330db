import { makeMatchView } from '../testing/views';
import { layLimbs } from './laid';
import type { Spot } from './plane';

describe('limbs laid over limbs', () => {
  const { performer, character, matched } = makeMatchView();
  const at = { performer: performer.rest, character: matched };
  /** A front view, so many units to a metre. */
  const spotsOf = ({ positions }: { readonly positions: Float64Array }, scale: number, shift = 0): Spot[] =>
    Array.from(
      { length: positions.length / 3 },
      (_, j) => ({ x: positions[j * 3] * scale + shift, y: -positions[j * 3 + 1] * scale }) as Spot,
    );
  const [theirs, mine] = [spotsOf(at.performer, 100, 40), spotsOf(at.character, 100, -70)];
  const { spots, limb } = layLimbs(performer, character, at, theirs, mine, 1);
  const apart = (a: Spot, b: Spot): number => Math.hypot(a.x - b.x, a.y - b.y);
  const limbs = ['left', 'right'].flatMap((side) => [
    [`${side}.upperArm`, `${side}.lowerArm`, `${side}.hand`],
    [`${side}.upperLeg`, `${side}.lowerLeg`, `${side}.foot`],
  ]);

  it('begin where the character’s begin, and so does the trunk', () => {
    for (const [root] of limbs)
      expect(apart(spots[performer.roles[root]], mine[character.roles[root]])).withContext(root).toBeLessThan(1e-9);
    expect(apart(spots[performer.roles['hips']], mine[character.roles['hips']])).toBeLessThan(1e-9);
  });

  it('belong to the limb that they hang on, fingers to the arm and toes to the leg', () => {
    for (const [root, ...others] of limbs) for (const role of others) expect(limb[performer.roles[role]]).toBe(performer.roles[root]);
    expect(limb[performer.roles['left.index.1']]).toBe(performer.roles['left.upperArm']);
    expect(limb[performer.roles['head']]).toBe(performer.roles['hips']);
  });

  it('keep every direction of the performer’s, and are as long as the character’s in all', () => {
    for (const chain of limbs) {
      const [a, b, c] = chain.map((role) => performer.roles[role]);
      for (const [p, q] of [
        [a, b],
        [b, c],
      ]) {
        const turn = (list: readonly Spot[]): number => Math.atan2(list[q].y - list[p].y, list[q].x - list[p].x);
        expect(Math.cos(turn(spots) - turn(theirs)))
          .withContext(chain[0])
          .toBeCloseTo(1, 9);
      }
      const lengthOf = (body: typeof performer, { positions }: { readonly positions: Float64Array }): number => {
        let sum = 0;
        for (let j = body.roles[chain[2]]; j !== body.roles[chain[0]]; j = body.display.skeleton.parents[j]) {
          const p = body.display.skeleton.parents[j];
          sum += Math.hypot(...[0, 1, 2].map((k) => positions[j * 3 + k] - positions[p * 3 + k]));
        }
        return sum;
      };
      const factor = lengthOf(character, at.character) / lengthOf(performer, at.performer);
      expect(apart(spots[a], spots[c]) / apart(theirs[a], theirs[c]))
        .withContext(chain[0])
        .toBeCloseTo(factor, 6);
    }
  });

  it('are drawn the same however large either picture is', () => {
    const half = layLimbs(performer, character, at, spotsOf(at.performer, 50, 40), mine, 0.5);
    half.spots.forEach((spot, j) => expect(apart(spot, spots[j])).toBeLessThan(1e-6));
  });
});
