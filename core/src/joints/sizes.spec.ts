import { type Clip } from '../clip';
import { random } from '../math/random';
import { randomMachine, runMachine, stateMachine } from '../testing';
import { carryJoints } from './carry';
import { pairJoints } from './pairs';
import { apart, by, carry, judged, SEEDS } from './scenes.spec';

describe('sizes carried joint by joint', () => {
  it('grow and shrink as the performer’s joints do: all over, or along the directions that agree at rest', () => {
    for (const seed of SEEDS) {
      const machine = randomMachine(seed);
      const rng = random(seed + 900);
      const hangs = machine.joints.map((_, j) =>
        machine.joints.some(
          ({ parent }) => parent === j && machine.joints.some((one) => one.parent >= 0 && machine.joints[one.parent].parent === j),
        ),
      );
      // One that is stretched carries nothing but ends; its size along each axis is its own only where both have their axes along the world.
      for (const [isEven, axes] of [
        [true, seed],
        [false, undefined],
      ] as const) {
        const a = stateMachine(machine, { axes: isEven ? seed + 40 : undefined });
        const b = stateMachine(machine, { axes, size: 0.4, heading: ((seed % 4) * Math.PI) / 2 });
        const plain = runMachine(a, seed);
        const sizes = [2, 5, 8, 11]
          .filter((joint) => isEven || !hangs[joint])
          .map((joint) => {
            const most = [rng.range(-0.5, 1), rng.range(-0.5, 1), rng.range(-0.5, 1)];
            const values = Float32Array.from({ length: plain.frames * 3 }, (_, i) => 1 + most[isEven ? 0 : i % 3] * Math.sin(i / 40) ** 2);
            if (isEven) values.forEach((_, i) => (values[i] = values[i - (i % 3)]));
            return { joint, values };
          });
        const take: Clip = { ...plain, sizes };
        const map = pairJoints(a, b, by({}));
        const result = carryJoints(a, b, map, by({}), take);
        expect(result.sizes!.length).toBe(sizes.length);
        // Told by what hangs on them: in the world, with sizes taken hold.
        expect(apart(a, take, b, result, map)).toBeLessThan(1e-4);
        for (const { id, mark } of judged(a, take, b, result, map, by({}))) expect([id, mark]).toEqual([id, 'good']);
        const back = carryJoints(b, a, pairJoints(b, a, by({})), by({}), result);
        for (const { joint, values } of sizes) {
          const got = back.sizes!.find((track) => track.joint === joint)!.values;
          expect(Math.max(...values.map((value, i) => Math.abs(value - got[i])))).toBeLessThan(1e-5);
        }
        // Seen where one is lost, or held still.
        const lost: Clip = { ...result, sizes: result.sizes!.slice(1) };
        const seen = judged(a, take, b, lost, map, by({})).find(({ id }) => id === 'joints.sizes')!;
        expect([seen.mark, seen.words.includes(b.skeleton.names[result.sizes![0].joint])]).toEqual(['fault', true]);
        const none = by(carry({ sizes: 'none' }));
        expect(carryJoints(a, b, map, none, take).sizes).toBeUndefined();
        const twice = by(carry({ sizesTimes: 0.5 }));
        const half = carryJoints(a, b, map, twice, take);
        expect(half.sizes![0].values[plain.frames * 3 - 1]).toBeCloseTo((1 + result.sizes![0].values[plain.frames * 3 - 1]) / 2, 4);
        expect(judged(a, take, b, half, map, twice).find(({ id }) => id === 'joints.sizes')!.mark).toBe('good');
      }
    }
  });
});
