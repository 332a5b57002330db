import { fromAxisAngle, invMul, rotate } from '../math/quat';
import { random } from '../math/random';
import { makeFile, randomShape } from '../testing';
import {
  bareNames,
  boneLengths,
  childrenOf,
  commonPrefix,
  emptyPose,
  forward,
  isBelow,
  jointKeys,
  lowestAbove,
  makeBasis,
  pathDown,
  pointInWorld,
  printOf,
  restPose,
  samePrint,
  toBasis,
  turnBelow,
  UP_AXES,
  upVector,
  withAncestors,
  type Skeleton,
} from '.';

const skeletonOf = (seed: number): Skeleton =>
  makeFile(randomShape(seed, { spine: 3, neck: 1, clavicles: true, fingers: 3 }), { axes: seed }).skeleton;
const SEEDS = [1, 2, 3, 4];
const place = (positions: Float64Array, joint: number): number[] => [...positions.subarray(joint * 3, joint * 3 + 3)];
const apart = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((value, c) => value - b[c]));

describe('a skeleton', () => {
  it('knows what hangs on what, the same by parents, children and paths', () => {
    for (const seed of SEEDS) {
      const skeleton = skeletonOf(seed);
      const children = childrenOf(skeleton);
      children.forEach((list, parent) => list.forEach((child) => expect(skeleton.parents[child]).toBe(parent)));
      expect(children.flat().length).toBe(skeleton.names.length - 1);
      const rng = random(seed);
      for (let trial = 0; trial < 40; trial++) {
        const [a, b] = [rng.range(0, skeleton.names.length), rng.range(0, skeleton.names.length)].map(Math.floor);
        const path = isBelow(skeleton, b, a) ? pathDown(skeleton, a, b) : [];
        if (path.length === 0) {
          expect(withAncestors(skeleton.parents, [b]).includes(a))
            .withContext(`${a} above ${b}`)
            .toBeFalse();
          continue;
        }
        expect(path[path.length - 1]).toBe(b);
        path.slice(1).forEach((joint, i) => expect(skeleton.parents[joint]).toBe(path[i]));
      }
    }
  });

  it('finds the lowest joint that carries all of some', () => {
    for (const seed of SEEDS) {
      const skeleton = skeletonOf(seed);
      const leaves = childrenOf(skeleton).flatMap((list, j) => (list.length === 0 ? [j] : []));
      const carrier = lowestAbove(skeleton, leaves);
      for (const leaf of leaves) expect(isBelow(skeleton, leaf, carrier)).toBeTrue();
      // No child of it carries them all.
      for (const child of childrenOf(skeleton)[carrier]) expect(leaves.every((leaf) => isBelow(skeleton, leaf, child))).toBeFalse();
      expect(lowestAbove(skeleton, [leaves[0]])).toBe(leaves[0]);
    }
  });

  it('has keys that tell joints apart though names repeat, and names without what all begin with', () => {
    expect(commonPrefix(['TK_Hips', 'TK_Spine', 'TK_Head'])).toBe('TK_');
    expect(commonPrefix(['Hips', 'Head'])).toBe('');
    const skeleton = skeletonOf(5);
    const keys = jointKeys({ ...skeleton, names: skeleton.names.map(() => 'bone') });
    expect(new Set(keys).size).toBe(skeleton.names.length);
    const prefixed = { ...skeleton, names: skeleton.names.map((name) => `rig:${name}`) };
    expect(bareNames(prefixed)).toEqual(bareNames(skeleton));
  });

  it('is known again by its print in other order, with another prefix, and not by another length or name', () => {
    for (const seed of SEEDS) {
      const skeleton = skeletonOf(seed);
      const print = printOf(skeleton);
      expect(samePrint(print, printOf({ ...skeleton, names: skeleton.names.map((name) => `a_${name}`) }))).toBeTrue();
      expect(samePrint(print, printOf({ ...skeleton, names: skeleton.names.map((name, j) => (j === 3 ? 'other' : name)) }))).toBeFalse();
      const longer = skeleton.restT.slice();
      for (let c = 9; c < 12; c++) longer[c] *= 1.5;
      expect(samePrint(print, printOf({ ...skeleton, restT: longer }))).toBeFalse();
      const hair = skeleton.restT.map((v) => v * 1.0001);
      expect(samePrint(print, printOf({ ...skeleton, restT: hair }))).toBeTrue();
    }
  });
});

describe('a pose', () => {
  it('keeps bone lengths whatever the turns, and is at rest with those of rest', () => {
    for (const seed of SEEDS) {
      const skeleton = skeletonOf(seed);
      const rng = random(seed);
      const lengths = boneLengths(skeleton);
      const rotations = new Float64Array(skeleton.names.length * 4);
      for (let j = 0; j < skeleton.names.length; j++) fromAxisAngle(rotations, j * 4, ...unit(rng), rng.range(-3, 3));
      const pose = emptyPose(skeleton);
      forward(pose, skeleton.parents, skeleton.restT, rotations);
      skeleton.parents.forEach((parent, j) => {
        if (parent >= 0) expect(apart(place(pose.positions, j), place(pose.positions, parent))).toBeCloseTo(lengths[j], 9);
      });
      forward(pose, skeleton.parents, skeleton.restT, skeleton.restR);
      restPose(skeleton).positions.forEach((value, i) => expect(pose.positions[i]).toBeCloseTo(value, 9));
    }
  });

  it('of some joints is that of all', () => {
    for (const seed of SEEDS) {
      const skeleton = skeletonOf(seed);
      const wanted = [skeleton.names.length - 1, Math.floor(skeleton.names.length / 2)];
      const [whole, some] = [emptyPose(skeleton), emptyPose(skeleton)];
      forward(whole, skeleton.parents, skeleton.restT, skeleton.restR);
      forward(some, skeleton.parents, skeleton.restT, skeleton.restR, 0, withAncestors(skeleton.parents, wanted));
      for (const joint of wanted) expect(place(some.positions, joint)).toEqual(place(whole.positions, joint));
    }
  });

  it('turns below a joint only: that stays, what hangs on it goes along, the rest does not move', () => {
    for (const seed of SEEDS) {
      const skeleton = skeletonOf(seed);
      const before = restPose(skeleton);
      const after = restPose(skeleton);
      const top = Math.floor(skeleton.names.length / 3);
      const turn = new Float64Array(4);
      fromAxisAngle(turn, 0, ...unit(random(seed)), 1.1);
      turnBelow(after, skeleton, top, turn);
      for (let j = 0; j < skeleton.names.length; j++) {
        const reach = apart(place(before.positions, j), place(before.positions, top));
        if (!isBelow(skeleton, j, top)) {
          expect(place(after.positions, j)).toEqual(place(before.positions, j));
          continue;
        }
        expect(apart(place(after.positions, j), place(before.positions, top))).toBeCloseTo(reach, 9);
        const turned = new Float64Array(3);
        const arm = Float64Array.from(place(before.positions, j).map((value, c) => value - before.positions[top * 3 + c]));
        rotate(turned, 0, turn, 0, arm, 0);
        for (let c = 0; c < 3; c++) expect(after.positions[j * 3 + c]).toBeCloseTo(before.positions[top * 3 + c] + turned[c], 9);
      }
      const local = Float64Array.of(0.1, -0.2, 0.3);
      const [a, b] = [new Float64Array(3), new Float64Array(3)];
      pointInWorld(a, 0, after, top, local, 0);
      pointInWorld(b, 0, before, top, local, 0);
      expect(apart([...a], place(after.positions, top))).toBeCloseTo(apart([...b], place(before.positions, top)), 9);
      const step = new Float64Array(4);
      invMul(step, 0, before.rotations, top * 4, after.rotations, top * 4);
      expect(Math.abs(step[3])).toBeCloseTo(Math.abs(turn[3]), 9);
    }
  });
});

describe('axes and units', () => {
  it('stand every body upright in metres, whichever of its axes is up', () => {
    const skeleton = skeletonOf(2);
    const lengths = boneLengths(skeleton);
    for (const up of UP_AXES) {
      const basis = makeBasis(0.01, up);
      const turned = new Float64Array(3);
      const made = toBasis(skeleton, basis);
      boneLengths(made).forEach((length, j) =>
        expect(length)
          .withContext(`${up}, joint ${j}`)
          .toBeCloseTo(lengths[j] * 0.01, 9),
      );
      // A joint whose way goes along the file's up goes up.
      const up3 = upVector(up);
      const alone = toBasis({ ...skeleton, restT: skeleton.restT.map((_, i) => up3[i % 3]) }, basis);
      turned.set(restPose(alone).positions.subarray(0, 3));
      expect([...turned].map((value) => Math.round(value * 1e6) / 1e6 + 0))
        .withContext(up)
        .toEqual([0, 0.01, 0]);
    }
  });
});

function unit(rng: ReturnType<typeof random>): [number, number, number] {
  const v = [rng.normal(), rng.normal(), rng.normal()];
  const n = Math.hypot(...v);
  return [v[0] / n, v[1] / n, v[2] / n];
}
