import { ClipReader, type Clip } from '../clip';
import { findContacts } from '../contact';
import { makePairing } from '../match';
import { fromAxisAngle, invMul, mul } from '../math/quat';
import { random } from '../math/random';
import { prepareRig, type Rig } from '../rig';
import { makeFile, performerOf, randomShape, walk } from '../testing';
import { DEFAULT_SOLVE } from './settings';
import { solve } from './solve';
import { steadyHips } from './steady';

const FPS = 100;

/**
 * A walker, and the same with its hips turned elsewhere in single frames, as a marker that jumps has it: the trunk stays, and so do the legs, or they go
 * along.
 */
function walkers(seed: number, legs: 'stay' | 'go along') {
  const shape = randomShape(seed, { clavicles: true, spine: 3, neck: 1 });
  const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 300, fps: FPS, roll: 12, noise: 0.002 }));
  const rng = random(seed + 7);
  const joints = rig.skeleton.names.length;
  const hips = rig.roles.get('hips')!;
  const stay = ['spine.1', ...(legs === 'stay' ? ['left.upperLeg', 'right.upperLeg'] : [])].map((role) => rig.roles.get(role)!);
  const rotations = clip.rotations.slice();
  const q = new Float64Array(8);
  const spiked = Array.from({ length: 8 }, (_, i) => 25 + 33 * i);
  for (const f of spiked) {
    const axis = [rng.normal(), rng.normal(), rng.normal()];
    const size = Math.hypot(...axis);
    fromAxisAngle(q, 0, axis[0] / size, axis[1] / size, axis[2] / size, (rng.range(4, 7) * Math.PI) / 180);
    const h = (f * joints + hips) * 4;
    q.set(rotations.subarray(h, h + 4), 4);
    const turned = new Float64Array(4);
    mul(turned, 0, q, 4, q, 0);
    rotations.set(turned, h);
    // (H q)⁻¹ H T: what stays is turned in the world as it was.
    for (const joint of stay) {
      const t = (f * joints + joint) * 4;
      const own = Float64Array.from(rotations.subarray(t, t + 4));
      invMul(own, 0, q, 0, own, 0);
      rotations.set(own, t);
    }
  }
  return { rig, clip, spoilt: { ...clip, rotations } as Clip, spiked };
}

/** Bends of both knees, degrees. */
function knees(rig: Rig, clip: Clip): Float64Array[] {
  const reader = new ClipReader(rig.skeleton, clip);
  const out = [new Float64Array(clip.frames), new Float64Array(clip.frames)];
  for (let f = 0; f < clip.frames; f++) {
    const { positions: P } = reader.at(f);
    ['left', 'right'].forEach((side, i) => {
      const [a, b, c] = ['upperLeg', 'lowerLeg', 'foot'].map((part) => rig.roles.get(`${side}.${part}`)! * 3);
      const way = (from: number, to: number): number[] => [0, 1, 2].map((k) => P[to + k] - P[from + k]);
      const [u, v] = [way(b, a), way(b, c)];
      out[i][f] = (Math.acos(u.reduce((s, x, k) => s + x * v[k], 0) / Math.hypot(...u) / Math.hypot(...v)) * 180) / Math.PI;
    });
  }
  return out;
}

const jerk = (bend: Float64Array, f: number): number => Math.abs(bend[f + 1] - 2 * bend[f] + bend[f - 1]);

describe('hips that are turned elsewhere in single frames', () => {
  it('are turned back, so that planted legs do not kick, and the trunk stays as it is', () => {
    for (const [i, seed] of [3, 4, 5, 6, 3, 4, 5, 6].entries()) {
      const { rig, clip, spoilt, spiked } = walkers(seed, i < 4 ? 'stay' : 'go along');
      const character = prepareRig(makeFile(randomShape(seed + 60, { clavicles: true, spine: 3, neck: 1 }), { axes: seed }));
      const pairing = makePairing(rig, character);
      const solved = (take: Clip): Clip => solve(pairing, take, DEFAULT_SOLVE, { contacts: findContacts(rig, clip) }).clip;
      const [good, mended] = [solved(clip), solved(spoilt)];
      const [a, b] = [knees(character, good), knees(character, mended)];
      const kicks = [0, 1].flatMap((side) => spiked.map((f) => jerk(b[side], f) - jerk(a[side], f)));
      expect(Math.max(...kicks))
        .withContext(`${seed}`)
        .toBeLessThan(7);
      expect(kicks.reduce((sum, kick) => sum + kick) / kicks.length)
        .withContext(`${seed}`)
        .toBeLessThan(2);
      const [p, q] = [new ClipReader(character.skeleton, good), new ClipReader(character.skeleton, mended)];
      const head = character.roles.get('head')! * 3;
      // The trunk goes as the take has it: there it begins elsewhere, as the hips turn about their own place.
      for (const f of spiked) {
        const [x, y] = [p.at(f).positions, q.at(f).positions];
        expect(Math.hypot(x[head] - y[head], x[head + 1] - y[head + 1], x[head + 2] - y[head + 2])).toBeLessThan(0.02);
      }
    }
  });

  it('are found alone: what a body does by itself is left as it is, and a frame that is off is turned back whole', () => {
    for (const seed of [3, 4, 5, 6]) {
      const { rig, clip, spoilt, spiked } = walkers(seed, 'go along');
      const pairing = makePairing(rig, prepareRig(makeFile(randomShape(seed + 60, { clavicles: true, spine: 2 }))));
      const sizeAt = (back: Float64Array, f: number): number => (Math.hypot(...back.subarray(f * 3, f * 3 + 3)) * 180) / Math.PI;
      const [own, found] = [steadyHips(pairing, clip).back, steadyHips(pairing, spoilt).back];
      for (let f = 0; f < clip.frames; f++) expect(sizeAt(own, f)).toBeLessThan(0.6);
      for (const f of spiked) expect(sizeAt(found, f)).toBeGreaterThan(3);
      // The performer's own body is as it was recorded.
      expect(steadyHips(makePairing(rig, rig), spoilt).back.every((value) => value === 0)).toBeTrue();
    }
  });
});
