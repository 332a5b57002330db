import type { SkinPoints } from '../../formats';
import { mul, normalize, rotate } from '../../math/quat';
import { random } from '../../math/random';
import { prepareRig, type Rig } from '../../rig';
import { makeFile, randomShape } from '../../testing';
import { worstStretch } from '../measures/stretch';
import { between, endsOf } from './capsules';
import { edgesOf } from './edges';
import { onceFor } from './once';
import { placeOf, type Skin } from './skin';

const rigOf = (seed: number): Rig => prepareRig(makeFile(randomShape(seed, { spine: 2, neck: 1 })));

/** A pose in which every joint is turned at random, bones as long as they are. */
function wildPose(rig: Rig, rng: ReturnType<typeof random>): { positions: Float64Array; rotations: Float64Array } {
  const { parents, restT } = rig.skeleton;
  const positions = new Float64Array(parents.length * 3);
  const rotations = new Float64Array(parents.length * 4);
  const turn = new Float64Array(4);
  const arm = new Float64Array(3);
  for (let j = 0; j < parents.length; j++) {
    for (let c = 0; c < 4; c++) turn[c] = rng.normal();
    normalize(turn, 0);
    if (parents[j] < 0) {
      rotations.set(turn, j * 4);
      continue;
    }
    mul(rotations, j * 4, rotations, parents[j] * 4, turn, 0);
    rotate(arm, 0, rotations, parents[j] * 4, restT, j * 3);
    for (let c = 0; c < 3; c++) positions[j * 3 + c] = positions[parents[j] * 3 + c] + arm[c];
  }
  return { positions, rotations };
}

/** Skin made of pairs of points near a random joint, each moved by two joints at random shares. */
function randomSkin(rig: Rig, rng: ReturnType<typeof random>, pairs: number): SkinPoints {
  const { positions: rest, rotations } = rig.restPose;
  const joints = rig.skeleton.parents.length;
  const count = pairs * 2;
  const positions = new Float32Array(count * 3);
  const influences = new Int32Array(count * 4).fill(-1);
  const weights = new Float32Array(count * 4);
  const locals = new Float32Array(count * 12);
  const place = new Float64Array(3);
  for (let i = 0; i < count; i++) {
    const main = Math.floor(rng.range(0, joints));
    const others = [main, Math.max(0, rig.skeleton.parents[main])];
    const share = rng.range(0.5, 1);
    for (let c = 0; c < 3; c++) {
      positions[i * 3 + c] = i % 2 === 1 ? positions[(i - 1) * 3 + c] + 0.02 * rng.normal() : rest[main * 3 + c] + 0.1 * rng.normal();
    }
    others.forEach((joint, k) => {
      influences[i * 4 + k] = joint;
      weights[i * 4 + k] = k === 0 ? share : 1 - share;
      for (let c = 0; c < 3; c++) place[c] = positions[i * 3 + c] - rest[joint * 3 + c];
      const inverse = Float64Array.of(
        -rotations[joint * 4],
        -rotations[joint * 4 + 1],
        -rotations[joint * 4 + 2],
        rotations[joint * 4 + 3],
      );
      rotate(place, 0, inverse, 0, place, 0);
      locals.set(place, (i * 4 + k) * 3);
    });
  }
  return {
    positions,
    joints: Int32Array.from({ length: count }, (_, i) => influences[i * 4]),
    influences,
    weights,
    locals,
    edges: Uint32Array.from({ length: count }, (_, i) => i),
  };
}

describe('edges of the skin', () => {
  it('are drawn out by no pose farther than their bound, and stand in the order of it', () => {
    const rng = random(11);
    for (const seed of [1, 2, 3]) {
      const rig = rigOf(seed);
      const skin = randomSkin(rig, rng, 60);
      const { ends, lengths, bounds } = edgesOf(rig, skin, 1);
      expect(ends.length).toBeGreaterThan(40);
      for (let e = 1; e < bounds.length; e++) expect(bounds[e]).toBeLessThanOrEqual(bounds[e - 1]);
      const places = new Float64Array(6);
      for (let trial = 0; trial < 40; trial++) {
        const pose = wildPose(rig, rng);
        for (let e = 0; e < lengths.length; e++) {
          placeOf(skin as unknown as Skin, ends[e * 2], pose, places, 0);
          placeOf(skin as unknown as Skin, ends[e * 2 + 1], pose, places, 3);
          const length = Math.hypot(places[0] - places[3], places[1] - places[4], places[2] - places[5]);
          expect(length - lengths[e])
            .withContext(`body ${seed}, edge ${e}`)
            .toBeLessThanOrEqual(bounds[e] + 1e-5);
        }
      }
    }
  });

  it('that one joint moves alone are none', () => {
    const rig = rigOf(4);
    const skin = randomSkin(rig, random(4), 10);
    const weights = skin.weights.map((_, i) => (i % 4 === 0 ? 1 : 0));
    const influences = skin.influences.map((joint, i) => (i % 4 === 0 ? 3 : joint));
    expect(edgesOf(rig, { ...skin, weights, influences }, 1).lengths.length).toBe(0);
  });
});

describe('the way between two bones', () => {
  /** The least distance of points spread over both. */
  function sampled(p: Float64Array): number {
    let least = Infinity;
    for (let i = 0; i <= 60; i++) {
      for (let k = 0; k <= 60; k++) {
        const d = [0, 1, 2].map((c) => p[c] + (i / 60) * (p[c + 3] - p[c]) - p[c + 6] - (k / 60) * (p[c + 9] - p[c + 6]));
        least = Math.min(least, Math.hypot(...d));
      }
    }
    return least;
  }

  it('is the shortest of all, for bones that cross, lie along each other or are points', () => {
    const rng = random(5);
    for (let trial = 0; trial < 120; trial++) {
      const p = Float64Array.from({ length: 12 }, () => rng.range(-1, 1));
      if (trial % 4 === 1) for (let c = 0; c < 3; c++) p[9 + c] = p[6 + c] + 0.7 * (p[3 + c] - p[c]);
      if (trial % 4 === 2) p.copyWithin(3, 0, 3);
      if (trial % 4 === 3) p.copyWithin(9, 6, 9);
      const exact = between(p, 0, 6);
      const near = sampled(p);
      expect(exact)
        .withContext(`trial ${trial}`)
        .toBeLessThanOrEqual(near + 1e-9);
      expect(exact)
        .withContext(`trial ${trial}`)
        .toBeGreaterThan(near - 0.05);
      expect(between(p, 6, 0))
        .withContext(`trial ${trial}, the other way`)
        .toBeCloseTo(exact, 9);
    }
  });

  it('begins and ends where the capsule says: at its joints, at a point beyond, or at a share of the way', () => {
    const rig = rigOf(6);
    const pose = wildPose(rig, random(6));
    const [from, to] = [rig.roles.get('left.lowerArm')!, rig.roles.get('left.hand')!];
    const place = (joint: number): number[] => [...pose.positions.subarray(joint * 3, joint * 3 + 3)];
    const out = new Float64Array(6);
    endsOf(out, 0, { name: '', from, to, radius: 0.1 }, pose);
    expect([...out]).toEqual([...place(from), ...place(to)]);
    endsOf(out, 0, { name: '', from, to, radius: 0.1, share: 0.5 }, pose);
    expect(out[3]).toBeCloseTo((place(from)[0] + place(to)[0]) / 2, 9);
    endsOf(out, 0, { name: '', from: to, to, radius: 0.1, tip: Float64Array.of(0.1, 0, 0) }, pose);
    expect(Math.hypot(out[3] - out[0], out[4] - out[1], out[5] - out[2])).toBeCloseTo(0.1, 9);
  });
});

describe('the worst quarter of a second', () => {
  it('is where the mean is highest, and never reaches into what is left out', () => {
    const series = new Float64Array(240);
    series.fill(1, 100, 115);
    series.fill(5, 180, 190);
    const left = new Uint8Array(240);
    expect(worstStretch(series, left, 1 / 60).frame).toBeGreaterThan(175);
    left.fill(1, 185, 186);
    const { value, frame } = worstStretch(series, left, 1 / 60);
    // Half of the burst is left, before the frame that is left out.
    expect(frame).toBeGreaterThan(165);
    expect(frame).toBeLessThan(185);
    expect(value).toBeCloseTo((5 * 5) / 15, 9);
    left.fill(1, 150);
    expect(worstStretch(series, left, 1 / 60).frame).toBeLessThan(116);
    expect(worstStretch(series, new Uint8Array(240).fill(1), 1 / 60).frame).toBe(-1);
    expect(worstStretch(new Float64Array(5), new Uint8Array(5), 1 / 60).frame).toBe(-1);
  });
});

describe('what is made of a body alone', () => {
  it('is made once for the body, its skin and what else it depends on, and anew for others', () => {
    const [rig, other] = [rigOf(7), rigOf(8)];
    let made = 0;
    const make = (of: Rig, ...others: unknown[]): number => onceFor('count', of, undefined, () => ++made, ...others);
    expect([make(rig), make(rig), make(other), make(rig)]).toEqual([1, 1, 2, 1]);
    expect([make(rig, 'left'), make(rig, 'left'), make(rig, 'right')]).toEqual([3, 3, 4]);
    expect(onceFor('another', rig, undefined, () => 'own')).toBe('own');
  });
});
