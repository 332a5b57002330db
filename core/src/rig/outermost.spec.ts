import { fromAxisAngle } from '../math/quat';
import { random } from '../math/random';
import { restPose } from '../skeleton';
import { ballSkin, makeFile, randomShape } from '../testing';
import { jointsOf, lowestOf, outermost } from './outermost';

describe('the outermost skin of a joint', () => {
  const file = makeFile(randomShape(3, { clavicles: true }), { axes: 3 });
  const { skeleton } = file;
  const [hips, thigh] = ['Hips', 'LeftThigh'].map((name) => skeleton.names.indexOf(name));
  /** A ball about the hip joint that hips and thigh move by halves. */
  const skin = ballSkin(file, { LeftThigh: 0.12 });
  const rest = restPose(skeleton);
  const offset = [0, 1, 2].map((c) => rest.positions[thigh * 3 + c] - rest.positions[hips * 3 + c]);
  const plain = { ...rest, rotations: new Float64Array(rest.rotations.length).map((_, i) => (i % 4 === 3 ? 1 : 0)) };
  for (let i = 0; i < skin.joints.length; i++) {
    skin.influences[i * 4 + 1] = hips;
    skin.weights.set([0.5, 0.5], i * 4);
    for (let c = 0; c < 3; c++) skin.locals[i * 12 + 3 + c] = skin.locals[i * 12 + c] + offset[c];
  }

  it('is as low as skinning has it, and not as the joint alone would carry it', () => {
    const points = outermost(skeleton, skin, 1, [thigh]);
    expect(points.length).toBeGreaterThan(8);
    expect(new Set(jointsOf(points))).toEqual(new Set([thigh, hips]));
    expect(lowestOf(points, plain)).toBeCloseTo(plain.positions[thigh * 3 + 1] - 0.12, 2);
    const rng = random(4);
    for (let i = 0; i < 20; i++) {
      const pose = { positions: plain.positions, rotations: plain.rotations.slice() };
      fromAxisAngle(pose.rotations, thigh * 4, 1, 0, 0, rng.range(-2, 2));
      const [, , , w] = pose.rotations.subarray(thigh * 4, thigh * 4 + 4);
      const x = pose.rotations[thigh * 4];
      const [up, across] = [w * w - x * x, 2 * x * w];
      let low = Infinity;
      for (const { local } of points) {
        const turned = up * local[1] - across * local[2];
        low = Math.min(low, plain.positions[thigh * 3 + 1] + (turned + local[1]) / 2);
      }
      expect(lowestOf(points, pose)).toBeCloseTo(low, 6);
    }
  });

  it('is the ends of the bone where there is no mesh', () => {
    const foot = skeleton.names.indexOf('LeftToes');
    expect(outermost(skeleton, undefined, 1, [foot]).map(({ joint, also }) => [joint, also.length])).toEqual([
      [foot, 0],
      [foot, 0],
    ]);
  });
});
