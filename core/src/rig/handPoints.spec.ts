import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { rotate } from '../math/quat';
import { DEFAULT_SKELETON, mirrorPoint, PROBE_POINTS, type Points, type SkeletonChoices } from '../recipe';
import { makeFile, performerOf, randomShape, walk } from '../testing';
import { solve } from '../solve';
import { prepareRig, watchedPoints, type Rig } from '.';

const shape = randomShape(31, { clavicles: true, fingers: 3 });
const made = (points?: Points, axes = 4): Rig =>
  prepareRig(makeFile(shape, { axes, rest: { seed: 2, degrees: 15 } }), 0, {
    ...DEFAULT_SKELETON,
    ...(points && { points: { ...points } as SkeletonChoices['points'] }),
  });

/** Where a watched point lies at rest. */
function placeOf(rig: Rig, name: string): number[] {
  const point = watchedPoints(rig).find((one) => one.name === name)!;
  const v = new Float64Array(3);
  rotate(v, 0, rig.restPose.rotations, point.joint * 4, point.local, 0);
  return [...v].map((x, c) => x + rig.restPose.positions[point.joint * 3 + c]);
}

describe('watched points', () => {
  it('are known on every body, each once, and stay where they are until they are moved', () => {
    const rig = made();
    expect(watchedPoints(rig).map(({ name }) => name)).toEqual([...PROBE_POINTS]);
    for (const name of PROBE_POINTS) expect(placeOf(made({}), name)).toEqual(placeOf(rig, name));
  });

  it('move by hand to the body’s left, up and ahead, whatever axes the joints have; the others stay', () => {
    for (const axes of [1, 2, 3]) {
      const [before, after] = [
        made(undefined, axes),
        made({ 'left.heel': [0.01, 0.02, 0.03], seat: [0, -0.04, 0], 'right.palm': [0, 0, 0.05] }, axes),
      ];
      const moved = { 'left.heel': [0.01, 0.02, 0.03], seat: [0, -0.04, 0], 'right.palm': [0, 0, 0.05] } as Record<string, number[]>;
      for (const name of PROBE_POINTS) {
        const [left, up, ahead] = moved[name] ?? [0, 0, 0];
        const [a, b] = [placeOf(before, name), placeOf(after, name)];
        const wanted = [0, 1, 2].map((c) => before.left[c] * left + before.forward[c] * ahead + (c === 1 ? up : 0));
        wanted.forEach((v, c) =>
          expect(b[c] - a[c])
            .withContext(`${name} ${c}`)
            .toBeCloseTo(v, 9),
        );
      }
    }
  });

  it('are mirrored to the other side, those in the middle to themselves', () => {
    expect(mirrorPoint('left.palm', [0.01, 0.02, 0.03])).toEqual(['right.palm', [-0.01, 0.02, 0.03]]);
    expect(mirrorPoint('seat', [0.01, 0.02, 0.03])).toEqual(['seat', [0.01, 0.02, 0.03]]);
  });

  it('carry the solve: a heel set lower stands on the floor with what was set', () => {
    const { rig, clip } = performerOf(
      randomShape(32, { clavicles: true }),
      walk(randomShape(32, { clavicles: true }), { frames: 160, fps: 60 }),
    );
    const thick: Points = { 'left.heel': [0, -0.03, 0], 'left.ball': [0, -0.03, 0], 'left.tip': [0, -0.03, 0] };
    for (const points of [undefined, thick]) {
      const character = made(points);
      const { clip: solved, contacts, floor } = solve(makePairing(rig, character), clip);
      const foot = character.feet.find(({ side }) => side === 'left')!;
      const reader = new ClipReader(character.skeleton, solved);
      const v = new Float64Array(3);
      for (const { first, last } of contacts.plants.filter(({ side, part }) => side === 'left' && part === 'heel')) {
        const { positions, rotations } = reader.at((first + last) >> 1);
        rotate(v, 0, rotations, foot.foot * 4, foot.heel, 0);
        expect(positions[foot.foot * 3 + 1] + v[1]).toBeCloseTo(floor, 3);
      }
    }
  });
});
