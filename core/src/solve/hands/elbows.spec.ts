import { ClipReader } from '../../clip';
import { makePairing } from '../../match';
import { prepareRig } from '../../rig';
import { figureOf, judged, makeFile, performerOf, randomShape, reaching, walk, type Reach } from '../../testing';
import { DEFAULT_SOLVE, solve } from '..';

const FRAMES = 180;

/** Hands before the belly, and a body with arms so long that their elbows hang beside the hips. */
function beforeBelly(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1, spread: [0.95, 1.05] });
  const stand = walk(shape, { seed, frames: FRAMES, pace: 0, noise: 3e-4, crouch: 0.05 });
  const hold =
    (side: number): Reach =>
    (f, shoulder, arm) => {
      const there = Math.sin((Math.PI * f) / FRAMES) ** 2;
      const at = [shoulder[0] - side * 0.06, shoulder[1] - 0.35 * arm, shoulder[2] + 0.3 * arm];
      const hanging = [shoulder[0], shoulder[1] - 0.95 * arm, shoulder[2] + 0.1 * arm];
      return hanging.map((x, c) => x + (at[c] - x) * there) as unknown as [number, number, number];
    };
  const { rig, clip } = performerOf(shape, reaching(shape, stand, { left: hold(1), right: hold(-1) }));
  const own = randomShape(seed + 40, { clavicles: true, spine: 2, neck: 1, spread: [0.95, 1.05] });
  const joints = own.joints.map((joint) => {
    const [x, y, z] = joint.offset;
    const by = /lowerArm|hand/.test(joint.role) ? 1.75 : /upperLeg/.test(joint.role) ? 1.6 : 1;
    return { ...joint, offset: (by === 1.6 ? [x * by, y, z] : [x * by, y * by, z * by]) as [number, number, number] };
  });
  return { clip, pairing: makePairing(rig, prepareRig(makeFile({ ...own, joints }, { axes: seed }))) };
}

describe('elbows of arms that are longer than the performer’s', () => {
  it('swing out of the thighs, and do not jerk for it', () => {
    const sums = [0, 0];
    for (const seed of [1, 2, 3, 4, 5, 6]) {
      const { pairing, clip } = beforeBelly(seed);
      const transfers = [{ keepOut: false }, {}].map((settings) => solve(pairing, clip, { ...DEFAULT_SOLVE, ...settings }));
      transfers.forEach((transfer, i) => (sums[i] += figureOf(transfer, 'crossing', judged(transfer))));
      expect(figureOf(transfers[1], 'elbows')).withContext(`${seed}`).toBeLessThan(1.5);
    }
    expect(sums[0]).withContext('fore arms that would be in a thigh').toBeGreaterThan(450);
    expect(sums[1]).toBeLessThan(0.6 * sums[0]);
  });

  it('are where the copied motion has them when they are out of the way', () => {
    const { pairing, clip } = beforeBelly(2);
    const at = Math.round(FRAMES / 2);
    const [free, kept] = [{ keepOut: false }, {}].map((settings) => {
      const { clip: moved } = solve(pairing, clip, { ...DEFAULT_SOLVE, ...settings });
      return new ClipReader(pairing.character.skeleton, moved).at(at).positions.slice();
    });
    const elbow = pairing.character.roles.get('left.lowerArm')! * 3;
    for (let c = 0; c < 3; c++) expect(kept[elbow + c]).toBeCloseTo(free[elbow + c], 3);
  });
});
