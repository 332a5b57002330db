import * as fc from 'fast-check';
import { ClipReader, type Clip } from '../clip';
import { DEFAULT_TAKE, type FloorKey } from '../recipe';
import { performerOf, randomShape, walk } from '../testing';
import { floorAt } from './floorKeys';
import { prepareTake } from '.';

const shape = randomShape(51, { clavicles: true, spine: 2 });
const { file, rig, clip: clean } = performerOf(shape, walk(shape, { seed: 9, frames: 300, fps: 60 }));
const joints = rig.skeleton.names.length;
const hips = rig.roles.get('hips')!;
const keyOf = (at: number, heading = 0, height = 0, place: [number, number] = [0, 0]): FloorKey => ({ at, heading, height, place });
const corrected = (clip: Clip, keys: readonly FloorKey[]): Clip =>
  prepareTake({ ...file, clips: [clip] }, rig, 0, { ...DEFAULT_TAKE, floor: { ...DEFAULT_TAKE.floor, keys: [...keys] } });

/** A take as a recorder whose heading, floor and place drift evenly tells it: degrees, metres at the end. Roots have no parents. */
function drifted(clip: Clip, degrees: number, height: number, left: number): Clip {
  const roots = [...rig.skeleton.parents.keys()].filter((j) => rig.skeleton.parents[j] < 0);
  expect(roots.length).toBe(1);
  const [root] = roots;
  const rotations = clip.rotations.slice();
  const values = clip.moves.find(({ joint }) => joint === root)!.values.slice();
  const reader = new ClipReader(rig.skeleton, clip);
  const last = clip.frames - 1;
  let [x, z, px, pz] = [0, 0, 0, 0];
  for (let f = 0; f < clip.frames; f++) {
    const angle = ((degrees * f) / last) * (Math.PI / 180);
    const mean = f === 0 ? 0 : ((degrees * (f - 0.5)) / last) * (Math.PI / 180);
    const { positions } = reader.at(f);
    const [hx, hz] = [positions[hips * 3], positions[hips * 3 + 2]];
    if (f === 0) [x, z] = [hx, hz];
    else {
      x += Math.cos(mean) * (hx - px) + Math.sin(mean) * (hz - pz);
      z += -Math.sin(mean) * (hx - px) + Math.cos(mean) * (hz - pz);
    }
    [px, pz] = [hx, hz];
    const [dx, dz] = [values[f * 3] - hx, values[f * 3 + 2] - hz];
    values[f * 3] = x + Math.cos(angle) * dx + Math.sin(angle) * dz + (left * f) / last;
    values[f * 3 + 1] += (height * f) / last;
    values[f * 3 + 2] = z - Math.sin(angle) * dx + Math.cos(angle) * dz;
    const o = (f * joints + root) * 4;
    const [qx, qy, qz, qw] = rotations.subarray(o, o + 4);
    const [s, c] = [Math.sin(angle / 2), Math.cos(angle / 2)];
    rotations.set([c * qx + s * qz, c * qy + s * qw, c * qz - s * qx, c * qw - s * qy], o);
  }
  return { ...clip, rotations, moves: clip.moves.map((move) => (move.joint === root ? { joint: root, values } : move)) };
}

describe('a floor that is corrected over time', () => {
  it('takes out a drift of heading, height and place, so that every joint is back where it was', () => {
    for (const [degrees, height, left] of [
      [12, 0, 0],
      [-30, 0.05, 0],
      [0, -0.03, 0.4],
      [25, 0.02, -0.3],
    ]) {
      const off = drifted(clean, degrees, height, left);
      const end = (clean.frames - 1) * clean.frameTime;
      const back = corrected(off, [keyOf(end, -degrees, -height, [0, 0]), keyOf(0)]);
      const [a, b, c] = [clean, back, off].map((clip) => new ClipReader(rig.skeleton, clip));
      let [worst, before] = [0, 0];
      for (let f = 0; f < clean.frames; f += 13) {
        const [p, q, r] = [a.at(f), b.at(f), c.at(f)].map(({ positions }) => positions);
        for (let j = 0; j < joints; j++) {
          worst = Math.max(worst, Math.abs(p[j * 3 + 1] - q[j * 3 + 1]));
          before = Math.max(before, Math.hypot(p[j * 3] - r[j * 3], p[j * 3 + 1] - r[j * 3 + 1], p[j * 3 + 2] - r[j * 3 + 2]));
          // Aside from the place, which is not taken back here, the way is that of the take.
          if (left === 0) worst = Math.max(worst, Math.hypot(p[j * 3] - q[j * 3], p[j * 3 + 2] - q[j * 3 + 2]));
        }
      }
      expect(before).toBeGreaterThan(0.02);
      expect(worst).withContext(`${degrees}° ${height} m ${left} m`).toBeLessThan(0.0005);
    }
  });

  it('moves the take over the floor by keyed places, and leaves all else as it was', () => {
    const end = (clean.frames - 1) * clean.frameTime;
    const moved = corrected(clean, [keyOf(0), keyOf(end, 0, 0, [0.5, -0.2])]);
    const [a, b] = [clean, moved].map((clip) => new ClipReader(rig.skeleton, clip));
    for (const f of [0, 150, clean.frames - 1]) {
      const [p, q] = [a.at(f).positions.slice(), b.at(f).positions];
      const share = f / (clean.frames - 1);
      for (let j = 0; j < joints; j++) {
        expect(q[j * 3] - p[j * 3]).toBeCloseTo(0.5 * share, 4);
        expect(q[j * 3 + 2] - p[j * 3 + 2]).toBeCloseTo(-0.2 * share, 4);
      }
    }
  });

  it('without keys, and by keys of nothing, changes nothing', () => {
    expect(corrected(clean, []).rotations).toEqual(prepareTake(file, rig).rotations);
    const still = corrected(clean, [keyOf(0.5), keyOf(2)]);
    const worst = still.rotations.reduce((most, x, i) => Math.max(most, Math.abs(x - clean.rotations[i])), 0);
    expect(worst).toBeLessThan(1e-6);
  });

  it('goes through its keys, holds beyond them, and overshoots none', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 100 }), { minLength: 1, maxLength: 7 }),
        fc.array(fc.double({ min: -30, max: 30, noNaN: true }), { minLength: 7, maxLength: 7 }),
        fc.double({ min: -5, max: 30, noNaN: true }),
        (times, headings, seconds) => {
          const keys = times.sort((a, b) => a - b).map((at, i) => keyOf(at / 4, headings[i]));
          keys.forEach(({ at, heading }) => expect(floorAt(keys, at).heading).toBeCloseTo(heading, 9));
          const { heading } = floorAt(keys, seconds);
          const after = keys.findIndex(({ at }) => at > seconds);
          const [a, b] = after < 0 ? [keys.length - 1, keys.length - 1] : [Math.max(0, after - 1), after];
          const [low, high] = [keys[a].heading, keys[after === 0 ? 0 : b].heading].sort((x, y) => x - y);
          expect(heading).toBeGreaterThanOrEqual(low - 1e-9);
          expect(heading).toBeLessThanOrEqual(high + 1e-9);
        },
      ),
      { numRuns: 200, seed: 3 },
    );
  });
});
