import { random } from '../../../../core/src/math/random';
import { merge3 } from './merge';

describe('three versions of a record', () => {
  it('give what either changed, and name what both did', () => {
    const base = { name: 'a', note: '', choices: { balance: 0, hands: 1, follow: { leftArm: 1, rightArm: 1 } } };
    const mine = { choices: { ...base.choices, balance: 0.31, follow: { leftArm: 0.5, rightArm: 1 } } };
    const theirs = { ...base, name: 'b', choices: { ...base.choices, hands: 0.5, follow: { leftArm: 1, rightArm: 0 } } };
    expect(merge3(base, mine, theirs)).toEqual({
      value: { choices: { balance: 0.31, hands: 0.5, follow: { leftArm: 0.5, rightArm: 0 } } },
      collisions: [],
    });
    const clash = { ...theirs, choices: { ...theirs.choices, balance: 0.9 } };
    expect(merge3(base, mine, clash).collisions).toEqual(['choices.balance']);
    expect((merge3(base, mine, clash, 'mine').value['choices'] as { balance: number }).balance).toBe(0.31);
    expect((merge3(base, mine, clash, 'theirs').value['choices'] as { balance: number }).balance).toBe(0.9);
    expect(merge3({ touchUps: [1] }, { touchUps: [1, 2] }, { touchUps: [1, 3] }).collisions).toEqual(['touchUps']);
  });

  it('keep every change of one side where the other changed nothing, and agree where both did the same', () => {
    const rng = random(3);
    const record = (): Record<string, unknown> =>
      Object.fromEntries(
        Array.from({ length: 5 }, (_, i) => [`k${i}`, i === 4 ? { a: rng.integer(0, 2), b: rng.integer(0, 2) } : rng.integer(0, 2)]),
      );
    for (let i = 0; i < 200; i++) {
      const [base, other] = [record(), record()];
      expect(merge3(base, other, base)).toEqual({ value: other, collisions: [] });
      expect(merge3(base, base, other)).toEqual({ value: other, collisions: [] });
      expect(merge3(base, other, other)).toEqual({ value: other, collisions: [] });
    }
  });
});
