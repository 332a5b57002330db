import { makeFile, randomShape } from '../testing';
import { exitAlong, gapTo, leanVolumes, prepareRig, sideOf, soleHeight, withSole } from '.';

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

  it('is a rod about a leg’s bone: out of it one goes across it, wherever along it', () => {
    const { restPose, roles, ...rig } = rigOf(6);
    const [thigh] = leanVolumes({ roles, restPose, ...rig }).filter(({ role }) => role === 'left.upperLeg');
    const [hip, knee] = ['left.upperLeg', 'left.lowerLeg'].map((role) =>
      restPose.positions.subarray(roles.get(role)! * 3, roles.get(role)! * 3 + 3),
    );
    const [side, near] = [new Float64Array(3), new Float64Array(3)];
    for (const share of [0.1, 0.5, 0.9, 1.3, -0.2]) {
      const point = Float64Array.from([0, 1, 2], (c) => hip[c] + share * (knee[c] - hip[c]) + (c === 0 ? 0.2 : 0));
      const far = sideOf(thigh, restPose, point, 0, side);
      let along = 0;
      for (let c = 0; c < 3; c++) along += side[c] * (knee[c] - hip[c]);
      expect(along).withContext(`${share}`).toBeCloseTo(0, 9);
      expect(side[0]).withContext(`${share}`).toBeGreaterThan(0.9);
      const gap = gapTo(thigh, restPose, point, 0, near);
      // Beyond its ends the rod's own surface is farther away.
      if (share > 0 && share < 1) expect(gap).withContext(`${share}`).toBeCloseTo(far, 9);
      else
        expect(gap)
          .withContext(`${share}`)
          .toBeGreaterThan(far + 1e-3);
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
