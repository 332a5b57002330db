import { ClipReader, type Clip } from '../clip';
import { quat } from '../math';
import { random } from '../math/random';
import { makeLayer } from '../recipe';
import { mend } from './mend';
import { mirrored } from './mirror';
import { FRAMES, timeOf, scenes, filters, away } from './scenes.spec';

describe('filters', () => {
  it('mirror: twice is the motion itself, once has left and right exchanged', () => {
    for (const scene of scenes) {
      const { rig, clip, read } = scene;
      const twice = mirrored(rig, mirrored(rig, clip));
      for (const role of rig.roles.keys())
        expect(away(scene, clip, twice, role))
          .withContext(role)
          .toBeLessThan(1e-5);
      const once = read(mirrored(rig, clip));
      const hips = rig.roles.get('hips')! * 3;
      for (let f = 0; f < FRAMES; f += 13) {
        const height = (reader: ClipReader, role: string): number => {
          const { positions } = reader.at(f);
          return positions[rig.roles.get(role)! * 3 + 1] - positions[hips + 1];
        };
        expect(height(once, 'left.foot')).toBeCloseTo(height(read(clip), 'right.foot'), 4);
        expect(height(once, 'right.hand')).toBeCloseTo(height(read(clip), 'left.hand'), 4);
      }
    }
  });

  it('calm what is quick, keep what is slow, and come without delay', () => {
    for (const scene of scenes) {
      const { rig, clip, lay } = scene;
      const rng = random(3);
      const count = rig.skeleton.parents.length;
      const joint = rig.roles.get('left.lowerArm')!;
      const shaken = { ...clip, rotations: clip.rotations.slice() };
      const q = new Float64Array(4);
      for (let f = 0; f < FRAMES; f++) {
        quat.fromAxisAngle(q, 0, 1, 0, 0, 0.05 * rng.normal());
        quat.mul(shaken.rotations, (f * count + joint) * 4, shaken.rotations, (f * count + joint) * 4, q, 0);
      }
      const { contacts } = scene;
      const layer = makeLayer({ name: 'calm', does: { kind: 'calm', seconds: 0.05, parts: ['left.arm'] } });
      const after = mend({ rig, clip: shaken, contacts, timeOf }, [layer]);
      const error = (of: Clip): number => {
        let sum = 0;
        for (let f = 9; f < FRAMES - 9; f++)
          sum += quat.angleBetween(of.rotations, (f * count + joint) * 4, clip.rotations, (f * count + joint) * 4);
        return sum;
      };
      expect(error(after)).toBeLessThan(0.5 * error(shaken));
      expect(away(scene, lay(layer), clip, 'right.hand')).toBe(0);
      // By a share of it the shake stays in proportion; a share of nothing changes no bit.
      const by = (share: number): Clip =>
        mend({ rig, clip: shaken, contacts: { plants: [] }, timeOf }, [
          makeLayer({ name: 'part', does: { kind: 'calm', seconds: 0.05, parts: ['left.arm'], shares: { 'left.arm': share } } }),
        ]);
      expect(by(0).rotations).toEqual(shaken.rotations);
      expect(error(by(0.5))).toBeLessThan(error(shaken));
      expect(error(by(0.5))).toBeGreaterThan(error(by(1)));
    }
  });

  it('mend a spike that stands out, and nothing else', () => {
    const { rig, clip, contacts } = scenes[1];
    const count = rig.skeleton.parents.length;
    const joint = rig.roles.get('right.lowerArm')!;
    const spiked = { ...clip, rotations: clip.rotations.slice() };
    const o = (120 * count + joint) * 4;
    const q = new Float64Array(4);
    quat.fromAxisAngle(q, 0, 0, 1, 0, 0.9);
    quat.mul(spiked.rotations, o, spiked.rotations, o, q, 0);
    const after = mend({ rig, clip: spiked, contacts, timeOf }, filters().slice(1, 2));
    expect(quat.angleBetween(after.rotations, o, clip.rotations, o)).toBeLessThan(0.05);
  });

  it('make a motion larger and smaller by their factor', () => {
    const { rig, clip, lay } = scenes[2];
    const swing = (of: Clip): number => {
      const reader = new ClipReader(rig.skeleton, of);
      const [hand, shoulder] = [rig.roles.get('left.hand')! * 3, rig.roles.get('left.upperArm')! * 3];
      const ahead = Array.from({ length: FRAMES }, (_, f) => {
        const { positions } = reader.at(f);
        return [0, 1, 2].reduce((sum, c) => sum + (positions[hand + c] - positions[shoulder + c]) * rig.forward[c], 0);
      });
      return Math.max(...ahead) - Math.min(...ahead);
    };
    const amount = (factor: number): Clip => lay(makeLayer({ name: 'amount', does: { kind: 'amount', factor, parts: ['left.arm'] } }));
    expect(swing(amount(1.4))).toBeGreaterThan(1.15 * swing(clip));
    expect(swing(amount(0.5))).toBeLessThan(0.8 * swing(clip));
  });

  it('close a gap from what is before and behind it', () => {
    const { rig, clip, contacts } = scenes[3];
    const count = rig.skeleton.parents.length;
    const lost = { ...clip, rotations: clip.rotations.slice() };
    const joint = rig.roles.get('left.upperArm')!;
    for (let f = 60; f < 72; f++)
      lost.rotations.set(clip.rotations.subarray((60 * count + joint) * 4, (60 * count + joint) * 4 + 4), (f * count + joint) * 4);
    const layer = makeLayer({
      name: 'gap',
      does: { kind: 'bridge', parts: ['left.arm'] },
      mask: { from: timeOf(60), to: timeOf(72), fade: 0 },
    });
    const after = mend({ rig, clip: lost, contacts, timeOf }, [layer]);
    const error = (of: Clip): number => {
      let most = 0;
      for (let f = 60; f <= 72; f++)
        most = Math.max(most, quat.angleBetween(of.rotations, (f * count + joint) * 4, clip.rotations, (f * count + joint) * 4));
      return most;
    };
    expect(error(after)).toBeLessThan(0.4 * error(lost));
  });
});
