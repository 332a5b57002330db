import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { rotate } from '../math/quat';
import type { SkinPoints } from '../formats';
import { prepareRig } from '../rig';
import { makeFile, performerOf, randomShape, walk, type Place, type Shape } from '../testing';
import { LiveSolver } from './live';
import { DEFAULT_SOLVE } from './settings';
import { solve } from './solve';
import { emptyPose, forward } from '../skeleton';

/** A body whose tail of five joints hangs longer than its legs, with a fin of half a metre across its last one. @param bone of the tail, metres */
function finned(seed: number, bone: Place = [0, -0.24, -0.06]) {
  const shape = randomShape(seed, { clavicles: true, spine: 3 });
  const joints = [...shape.joints];
  let parent = joints.findIndex(({ role }) => role === 'hips');
  for (let i = 0; i < 5; i++) parent = joints.push({ role: `tail.${i + 1}`, parent, offset: bone }) - 1;
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

  it('swings on from where it was shown, frame by frame as they come', () => {
    for (const seed of [1, 2]) {
      const shape = randomShape(seed + 20, { clavicles: true });
      const { rig: performer, clip } = performerOf(shape, walk(shape, { seed, frames: 150, heading: 60 }));
      const { rig, last } = finned(seed, [0, -0.04, -0.1]);
      const pairing = makePairing(performer, rig);
      const settings = { ...DEFAULT_SOLVE, tails: 0.7 };
      const size = performer.skeleton.parents.length * 4;
      const live = new LiveSolver(pairing, { frameTime: clip.frameTime, settings });
      const shown = Array.from({ length: clip.frames }, (_, f) => {
        live.push(clip.rotations.subarray(f * size, (f + 1) * size), clip.moves[0].values.subarray(f * 3, f * 3 + 3));
        return f % 2 > 0 ? live.solve(f === clip.frames - 1) : [];
      }).flat();
      /** From the root of the tail to its last joint, in each frame. */
      const ways = (turnsOf: (f: number) => Float32Array): number[][] => {
        const pose = emptyPose(rig.skeleton);
        return Array.from({ length: clip.frames }, (_, f) => {
          forward(pose, rig.skeleton.parents, rig.skeleton.restT, turnsOf(f), 0);
          return [0, 1, 2].map((c) => pose.positions[last * 3 + c] - pose.positions[(last - 4) * 3 + c]);
        });
      };
      const wide = rig.skeleton.parents.length * 4;
      const solved = (tails: number): number[][] => {
        const { rotations } = solve(pairing, clip, { ...settings, tails }).clip;
        return ways((f) => rotations.subarray(f * wide, (f + 1) * wide));
      };
      const apart = (a: number[][], b: number[][]): number => Math.max(...a.map((way, f) => Math.hypot(...way.map((v, c) => v - b[f][c]))));
      const whole = solved(settings.tails);
      const swing = apart(whole, solved(0));
      expect(swing).withContext(`${seed} swings`).toBeGreaterThan(0.05);
      expect(
        apart(
          ways((f) => shown[f].rotations),
          whole,
        ),
      )
        .withContext(`${seed}, as it comes`)
        .toBeLessThan(0.1 * swing);
    }
  });
});
