import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { smoothstep } from '../math/filter';
import { prepareRig } from '../rig';
import { figureOf, makeFile, performerOf, randomShape, walk, type Shape } from '../testing';
import { solve } from './solve';

/** The same body with thighs so much shorter, and shins so much longer. */
function withShins(shape: Shape, ratio: number): Shape {
  const scaled = (offset: Shape['joints'][number]['offset'], by: number): typeof offset => [offset[0], offset[1] * by, offset[2]];
  return {
    ...shape,
    joints: shape.joints.map((joint) => {
      if (/lowerLeg/.test(joint.role)) return { ...joint, offset: scaled(joint.offset, 1 / ratio) };
      return /foot/.test(joint.role) ? { ...joint, offset: scaled(joint.offset, ratio) } : joint;
    }),
  };
}

/** A squat of seconds, by a share of the height of the hips, onto a body whose legs fold less. */
function squat(seed: number, depth: number, ratio: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
  const crouch = (t: number): number => 0.05 + depth * smoothstep((t - 1) / 0.7) * (1 - smoothstep((t - 3) / 0.7));
  const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 280, pace: 0, crouch }));
  const character = prepareRig(makeFile(withShins(randomShape(seed + 50, { clavicles: true, spine: 2, neck: 1 }), ratio)));
  const transfer = solve(makePairing(rig, character), clip);
  const missed = (kind: 'moved' | 'short'): number =>
    Math.max(0, ...transfer.misses.filter((miss) => miss.kind === kind).map(({ distance }) => distance / character.legLength));
  return { rig, clip, character, transfer, missed };
}

describe('a deep squat', () => {
  it('leaves the feet of legs that fold less in their places, and the hips higher', () => {
    for (const [seed, depth, ratio] of [
      [1, 0.6, 1.55],
      [2, 0.6, 1.55],
      [3, 0.6, 1.55],
      [4, 0.6, 1.55],
      [1, 0.7, 1.3],
      [6, 0.7, 1.3],
    ]) {
      const { rig, clip, character, transfer, missed } = squat(seed, depth, ratio);
      const named = (what: string): string => `${what} of ${seed}, ${depth}, ${ratio}`;
      expect(missed('moved')).withContext(named('moved')).toBe(0);
      expect(missed('short')).withContext(named('short')).toBeLessThan(0.002);
      expect(figureOf(transfer, 'held.feet')).withContext(named('held')).toBeGreaterThan(99);
      expect(figureOf(transfer, 'places.feet')).withContext(named('places')).toBeLessThan(2.5);
      expect(figureOf(transfer, 'moment.legs')).withContext(named('worst moment')).toBeLessThan(20);
      expect(figureOf(transfer, 'knees')).withContext(named('knees')).toBeLessThan(1.5);
      const height = (f: number): number =>
        new ClipReader(character.skeleton, transfer.clip).at(f).positions[character.roles.get('hips')! * 3 + 1];
      const theirs = (f: number): number => new ClipReader(rig.skeleton, clip).at(f).positions[rig.roles.get('hips')! * 3 + 1];
      const rise = height(140) - height(20) - transfer.pairing.scale.lift * (theirs(140) - theirs(20));
      expect(rise)
        .withContext(named('rise'))
        .toBeGreaterThan(0.01 * character.legLength);
    }
  });

  it('that ends on the seat moves feet for which there is no room any more, and holds them there', () => {
    for (const seed of [2, 4]) {
      const { transfer, missed } = squat(seed, 0.7, 1.3);
      expect(missed('moved')).withContext(`moved of ${seed}`).toBeGreaterThan(0.01);
      expect(missed('short')).withContext(`short of ${seed}`).toBeLessThan(0.002);
      expect(figureOf(transfer, 'held.feet')).withContext(`held of ${seed}`).toBeGreaterThan(99);
    }
  });

  it('folds no knee sharper than flesh lets it, where the performer’s is not', () => {
    for (const seed of [1, 2, 3]) {
      const { character, transfer } = squat(seed, 0.68, 1.3);
      const reader = new ClipReader(character.skeleton, transfer.clip);
      const [hip, knee, ankle] = ['upperLeg', 'lowerLeg', 'foot'].map((part) => character.roles.get(`left.${part}`)! * 3);
      let sharpest = 180;
      for (let f = 0; f < 280; f += 2) {
        const { positions } = reader.at(f);
        const [up, down] = [hip, ankle].map((end) => [0, 1, 2].map((c) => positions[end + c] - positions[knee + c]));
        const dot = up.reduce((sum, x, c) => sum + x * down[c], 0);
        sharpest = Math.min(sharpest, (Math.acos(dot / (Math.hypot(...up) * Math.hypot(...down))) * 180) / Math.PI);
      }
      expect(sharpest).withContext(`${seed}`).toBeGreaterThan(14.9);
      expect(sharpest).withContext(`${seed}, it folds at all`).toBeLessThan(60);
    }
  });
});
