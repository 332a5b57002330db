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

describe('a deep squat', () => {
  it('leaves the feet of legs that fold less in their places, and the hips higher', () => {
    for (const seed of [1, 2, 3, 4]) {
      const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
      const crouch = (t: number): number => 0.05 + 0.6 * smoothstep((t - 1) / 0.7) * (1 - smoothstep((t - 3) / 0.7));
      const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 280, pace: 0, crouch }));
      const character = prepareRig(makeFile(withShins(randomShape(seed + 50, { clavicles: true, spine: 2, neck: 1 }), 1.55)));
      const transfer = solve(makePairing(rig, character), clip);
      const named = (what: string): string => `${what} of ${seed}`;
      for (const { distance } of transfer.misses)
        expect(distance)
          .withContext(named('miss'))
          .toBeLessThan(0.01 * character.legLength);
      expect(figureOf(transfer, 'held.feet')).withContext(named('held')).toBeGreaterThan(99);
      expect(figureOf(transfer, 'places.feet')).withContext(named('places')).toBeLessThan(7);
      expect(figureOf(transfer, 'moment.legs')).withContext(named('worst moment')).toBeLessThan(26);
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

  it('folds no knee sharper than flesh lets it, where the performer’s is not', () => {
    for (const seed of [1, 2, 3]) {
      const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
      const crouch = (t: number): number => 0.05 + 0.68 * smoothstep((t - 1) / 0.7) * (1 - smoothstep((t - 3) / 0.7));
      const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 280, pace: 0, crouch }));
      const character = prepareRig(makeFile(withShins(randomShape(seed + 50, { clavicles: true, spine: 2, neck: 1 }), 1.3)));
      const reader = new ClipReader(character.skeleton, solve(makePairing(rig, character), clip).clip);
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
