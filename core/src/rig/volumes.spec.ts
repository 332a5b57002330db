import { makeFile, randomShape } from '../testing';
import { exitAlong, gapTo, leanVolumes, prepareRig, soleHeight, withSole } from '.';

const rigOf = (seed: number) => prepareRig(makeFile(randomShape(seed, { spine: 3, neck: 1, clavicles: true }), { axes: seed }));

describe('what is taken of a body without a mesh', () => {
  it('is the room about its bones: every bone lies in it, and its hands at rest do not', () => {
    for (const seed of [1, 2, 3, 4]) {
      const rig = rigOf(seed);
      const parts = leanVolumes(rig);
      const out = new Float64Array(3);
      const gap = (joint: number): number =>
        Math.min(...parts.map((part) => gapTo(part, rig.restPose, rig.restPose.positions.slice(joint * 3, joint * 3 + 3), 0, out)));
      for (const role of ['spine.1', 'spine.2', 'head', 'left.upperLeg', 'right.upperLeg']) {
        expect(gap(rig.roles.get(role)!))
          .withContext(`${seed} ${role}`)
          .toBeLessThan(0);
      }
      for (const side of ['left', 'right']) {
        expect(gap(rig.roles.get(`${side}.hand`)!))
          .withContext(`${seed} ${side}`)
          .toBeGreaterThan(0);
      }
    }
  });

  it('is left along any way at its surface', () => {
    const rig = rigOf(5);
    const out = new Float64Array(3);
    for (const part of leanVolumes(rig)) {
      const at = rig.restPose.positions.slice(part.joint * 3, part.joint * 3 + 3);
      for (const way of [Float64Array.of(1, 0, 0), Float64Array.of(0, 0.6, 0.8), Float64Array.of(0.6, 0, -0.8)]) {
        const far = exitAlong(part, rig.restPose, at, way, 0.02);
        const there = at.map((x, c) => x + far * way[c]);
        const grown = { ...part, half: part.half.map((x) => x + 0.02) };
        expect(far).toBeGreaterThan(0);
        expect(gapTo(grown, rig.restPose, there, 0, out)).toBeCloseTo(0, 9);
        expect(
          exitAlong(
            part,
            rig.restPose,
            at.map((x, c) => x + 5 * way[c]),
            way,
            0.02,
          ),
        ).toBe(0);
      }
    }
  });

  it('is a sole of the depth that is said: heels and balls lie as much lower, at rest, and legs are as much longer', () => {
    for (const seed of [1, 2, 3]) {
      const rig = rigOf(seed);
      const deeper = withSole(rig, rig.sole.depth + 0.03);
      deeper.feet.forEach((foot, i) => {
        expect(soleHeight(rig.restPose, foot)).toBeCloseTo(soleHeight(rig.restPose, rig.feet[i]) - 0.03, 9);
        expect(foot.ankleHeight).toBeCloseTo(rig.feet[i].ankleHeight + 0.03, 9);
      });
      expect(deeper.legLength).toBeCloseTo(rig.legLength + 0.03, 9);
      expect(withSole(rig, rig.sole.depth)).toBe(rig);
    }
  });
});
