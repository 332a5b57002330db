import { findContacts } from '../../contact';
import { makePairing } from '../../match';
import { distance } from '../../math/vec';
import { prepareRig } from '../../rig';
import { makeFile, performerOf, randomShape, walk } from '../../testing';
import { traceLimbs } from '../limbTrack';
import { planPose } from '../plan';
import { posePerformance } from '../pose';
import { steadyHips } from '../steady';
import { placeRoot } from '../root';
import { helpReach } from './help';

describe('an arm that is too short', () => {
  it('is helped by clavicle and spine as far as is set, and where it is long enough by nothing', () => {
    for (const seed of [1, 2, 3]) {
      const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
      const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 80, fps: 60 }));
      const pairing = makePairing(rig, prepareRig(makeFile(randomShape(seed + 30, { clavicles: true, spine: 3 }))));
      const plan = planPose(pairing);
      const posed = posePerformance(pairing, plan, clip, steadyHips(pairing, clip));
      const root = placeRoot(pairing, plan, posed);
      const limbs = plan.limbs.filter(({ kind }) => kind === 'arm');
      const trace = (rotations: Float32Array) => traceLimbs(pairing, plan, { ...posed, rotations }, root, limbs);
      const arms = trace(posed.rotations);
      const given = {
        pairing,
        plan,
        rotations: posed.rotations,
        root,
        contacts: findContacts(rig, clip),
        props: [],
        take: clip,
        frameTime: 1 / 60,
        floor: 0,
      };
      /** Both hands straight ahead of their shoulders, as many arms' lengths away as is said. */
      const pathsAt = (lengths: number) =>
        arms.map(({ data, stride, at, frames }) => {
          const ankle = new Float64Array(frames * 3);
          const whole = distance(data, at.top, data, at.mid) + distance(data, at.mid, data, at.end);
          for (let f = 0; f < frames; f++)
            for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * stride + at.top + c] + lengths * whole * rig.forward[c];
          const held = new Uint8Array(frames).fill(1);
          return { ankle, footQ: new Float64Array(frames * 4), toesQ: new Float64Array(frames * 4), held, still: held };
        });
      const run = (lengths: number, share: number) =>
        helpReach(given, posed.rotations, arms, pathsAt(lengths), { clavicleHelp: share, spineHelp: share, softReach: 0.985 });
      expect(run(0.8, 1)).toBeUndefined();
      expect(run(1.15, 0)).toBeUndefined();
      const paths = pathsAt(1.15);
      const lacks = [0.5, 1].map((share) =>
        trace(run(1.15, share)!.rotations).map(({ data, stride, at }, k) => distance(data, 40 * stride + at.top, paths[k].ankle, 120)),
      );
      arms.forEach(({ data, stride, at }, k) => {
        const before = distance(data, 40 * stride + at.top, paths[k].ankle, 120);
        expect(lacks[0][k])
          .withContext(`${seed} half`)
          .toBeLessThan(before - 1e-3);
        expect(lacks[1][k]).withContext(`${seed} all`).toBeLessThan(lacks[0][k]);
      });
    }
  });
});
