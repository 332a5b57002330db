import { clipOf, ClipReader, factsOf, prepareRig, readMotionFile, type Clip, type MotionFile, type Rig } from '@hollow-stride/core';
import { depotMotions, type DepotOptions } from '.';

const motions = depotMotions();
const PLAIN: DepotOptions = { travel: 'travelling', fps: 30, body: 'motion' };

interface Fetched {
  readonly file: MotionFile;
  readonly rig: Rig;
  readonly clip: Clip;
}

async function fetched(id: string, options: Partial<DepotOptions> = {}): Promise<Fetched> {
  const { name, bytes } = await motions.find((m) => m.id === id)!.file({ ...PLAIN, ...options });
  const file = await readMotionFile(bytes, name);
  const rig = prepareRig(file);
  return { file, rig, clip: clipOf(file, rig) };
}

/** How far the hips get from where they start, over the floor. */
function travel({ rig, clip }: Fetched): number {
  const reader = new ClipReader(rig.skeleton, clip);
  const hips = rig.roles.get('hips')! * 3;
  const start = reader.at(0).positions.slice(hips, hips + 3);
  let far = 0;
  for (let f = 0; f < clip.frames; f++) {
    const p = reader.at(f).positions;
    far = Math.max(far, Math.hypot(p[hips] - start[0], p[hips + 2] - start[2]));
  }
  return far;
}

describe('the motion depot', () => {
  it('holds thirty motions and more, of real variety, each clean, labelled and as long as it says', async () => {
    expect(motions.length).toBeGreaterThanOrEqual(30);
    expect(new Set(motions.map(({ id }) => id)).size).toBe(motions.length);
    const tags = new Set(motions.flatMap((m) => m.tags));
    for (const tag of ['walk', 'run', 'turn', 'stand', 'hands', 'jump', 'climb', 'knees']) expect(tags).toContain(tag);
    for (const { id, seconds, travels } of motions) {
      const motion = await fetched(id);
      const facts = factsOf(motion.file);
      expect(facts.clips[0].faults).withContext(id).toEqual([]);
      expect(facts.clips[0].seconds).withContext(id).toBeCloseTo(seconds, 0);
      expect(motion.rig.warnings).withContext(id).toEqual([]);
      if (!travels) expect(travel(motion)).withContext(id).toBeLessThan(0.6);
    }
  });

  it('gives a motion in place, at another rate, or with its body, and the same bytes each time', async () => {
    const going = await fetched('walk-calm');
    expect(travel(going)).toBeGreaterThan(4);
    expect(travel(await fetched('walk-calm', { travel: 'in-place' }))).toBeLessThan(0.5);
    const fast = await fetched('walk-calm', { fps: 60 });
    expect(fast.clip.frames / going.clip.frames).toBeCloseTo(2, 1);
    const whole = await fetched('walk-calm', { body: 'with-body' });
    expect(whole.file.skin!.joints.length).toBeGreaterThan(1000);
    const [a, b] = [new ClipReader(going.rig.skeleton, going.clip), new ClipReader(whole.rig.skeleton, whole.clip)];
    for (const role of ['hips', 'left.foot', 'right.hand', 'head']) {
      const [p, q] = [a.at(70).positions, b.at(70).positions];
      for (let c = 0; c < 3; c++)
        expect(q[whole.rig.roles.get(role)! * 3 + c])
          .withContext(role)
          .toBeCloseTo(p[going.rig.roles.get(role)! * 3 + c], 4);
    }
    const again = await motions[3].file(PLAIN);
    expect((await depotMotions()[3].file(PLAIN)).bytes).toEqual(again.bytes);
  });
});
