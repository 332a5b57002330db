import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { rotate } from '../math/quat';
import type { SkinPoints } from '../formats';
import { prepareRig } from '../rig';
import { makeFile, performerOf, randomShape, walk, type Shape } from '../testing';
import { solve } from './solve';

/** A body whose tail of five joints hangs longer than its legs, with a fin of half a metre across its last one. */
function finned(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 3 });
  const joints = [...shape.joints];
  let parent = joints.findIndex(({ role }) => role === 'hips');
  for (let i = 0; i < 5; i++) parent = joints.push({ role: `tail.${i + 1}`, parent, offset: [0, -0.24, -0.06] }) - 1;
  const whole: Shape = { ...shape, joints };
  const file = makeFile(whole, {});
  const last = file.skeleton.names.length - 1;
  const spots = [-1, 1].flatMap((side) => [0, 0.1, 0.2].map((along) => [side * 0.25, -along, -0.1 + 0.25 * side]));
  const skin: SkinPoints = {
    positions: new Float32Array(spots.length * 3),
    joints: new Int32Array(spots.length).fill(last),
    influences: Int32Array.from(spots.flatMap(() => [last, -1, -1, -1])),
    weights: Float32Array.from(spots.flatMap(() => [1, 0, 0, 0])),
    locals: Float32Array.from(spots.flatMap((spot) => [...spot, ...new Array<number>(9).fill(0)])),
    edges: new Uint32Array(0),
  };
  return { spots, last, rig: prepareRig({ ...file, skin }) };
}

describe('a tail', () => {
  it('lies on the floor with its fin, which is wider than its bones are thick, and keeps their lengths', () => {
    for (const seed of [1, 2, 3]) {
      const shape = randomShape(seed + 20, { clavicles: true });
      const { rig: performer, clip } = performerOf(shape, walk(shape, { seed, frames: 90 }));
      const { rig, spots, last } = finned(seed);
      const result = solve(makePairing(performer, rig), clip);
      const reader = new ClipReader(rig.skeleton, result.clip);
      const spot = new Float64Array(3);
      let low = Infinity;
      for (let f = 0; f < 90; f += 5) {
        const { positions, rotations } = reader.at(f);
        for (const local of spots) {
          rotate(spot, 0, rotations, last * 4, Float64Array.from(local), 0);
          low = Math.min(low, positions[last * 3 + 1] + spot[1] - result.floor);
        }
        for (let j = last - 3; j <= last; j++) {
          const bone = [0, 1, 2].map((c) => positions[j * 3 + c] - positions[(j - 1) * 3 + c]);
          expect(Math.hypot(...bone))
            .withContext(`${seed}, ${f}`)
            .toBeCloseTo(Math.hypot(...rig.skeleton.restT.slice(j * 3, j * 3 + 3)), 5);
        }
      }
      expect(low).withContext(`${seed}`).toBeGreaterThan(-0.01);
      expect(low).withContext(`${seed}: it lies`).toBeLessThan(0.1);
    }
  });
});
