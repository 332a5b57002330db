import { ClipReader } from '../clip';
import { quat } from '../math';
import { makeLayer } from '../recipe';
import { performerOf, randomShape, walk } from '../testing';
import { findContacts } from '../contact';
import { mend } from './mend';
import { frameOf } from './reach';
import { thinPlaces, thinTurns, type Span } from './thin';

describe('a motion as few keys', () => {
  const scenes = [21, 22, 23].map((seed) => {
    const shape = randomShape(seed, { clavicles: true, spine: 3, neck: 1 });
    const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 200, fps: 60 }), { axes: seed });
    const timeOf = (frame: number): number => frame / 60;
    const span: Span = { clip, first: 20, last: 170, timeOf };
    return { rig, clip, span, timeOf, contacts: findContacts(rig, clip) };
  });

  it('laid in place of the motion, keeps turns within the tolerance that is said, and is thinner the larger it is', () => {
    for (const { rig, clip, span, timeOf, contacts } of scenes) {
      const joint = rig.roles.get('left.upperArm')!;
      const hand = rig.roles.get('left.hand')! * 3;
      let before = Infinity;
      for (const tolerance of [0.002, 0.02]) {
        const { keys, worst } = thinTurns(rig, rig.skeleton, joint, span, tolerance);
        expect(worst).toBeLessThanOrEqual(tolerance);
        expect(keys.length).toBeLessThan(before);
        before = keys.length;
        const does = { kind: 'turns' as const, way: 'replace' as const, tracks: [{ role: 'left.upperArm', keys }] };
        const layer = makeLayer({ name: 'thin', does, mask: { from: timeOf(20), to: timeOf(170), fade: 0 }, asPosed: true });
        const [a, b] = [clip, mend({ rig, clip, contacts, timeOf }, [layer])].map((one) => new ClipReader(rig.skeleton, one));
        for (let f = 20; f <= 170; f++) {
          const [p, q] = [a.at(f).positions, b.at(f).positions];
          expect(Math.hypot(p[hand] - q[hand], p[hand + 1] - q[hand + 1], p[hand + 2] - q[hand + 2])).toBeLessThan(tolerance + 1e-3);
        }
      }
      expect(before).toBeLessThan(40);
    }
  });

  it('keeps places in any frame', () => {
    for (const { rig, span } of scenes) {
      for (const frame of ['world', 'chest'] as const) {
        const { keys, worst } = thinPlaces(rig, rig.skeleton, rig.roles.get('right.foot')!, frameOf(rig, frame), span, 0.01);
        expect(worst).toBeLessThanOrEqual(0.01);
        expect(keys.length).toBeLessThan(75);
      }
    }
  });

  it('goes on past half a turn', () => {
    const shape = randomShape(30, { clavicles: true, spine: 1, neck: 1 });
    const motion = walk(shape, { seed: 30, frames: 100, pace: 0 });
    const head = shape.joints.findIndex(({ role }) => role === 'head');
    const q = new Float64Array(4);
    for (let f = 0; f < 100; f++) {
      quat.fromAxisAngle(q, 0, 0, 1, 0, (f / 99) * 1.6 * Math.PI);
      motion.turns.set(q, (f * shape.joints.length + head) * 4);
    }
    const { rig, clip } = performerOf(shape, motion);
    const { keys } = thinTurns(rig, rig.skeleton, rig.roles.get('head')!, { clip, first: 0, last: 99, timeOf: (f) => f / 60 }, 0.01);
    expect(Math.abs(keys[keys.length - 1].value[1] - keys[0].value[1])).toBeGreaterThan(240);
  });
});
