import {
  clipOf,
  ClipReader,
  factsOf,
  findContacts,
  prepareRig,
  readMotionFile,
  type Clip,
  type MotionFile,
  type Rig,
} from '@hollow-stride/core';
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

  it('gives a motion as a capture sees it: a tremor, and now and then frames that are lost, at the same places each time', async () => {
    const clean = await fetched('idle');
    const seen = await fetched('idle', { captured: 4 });
    const lost = await fetched('walk-calm', { captured: 3 });
    expect(seen.clip.rotations.length).toBe(clean.clip.rotations.length);
    let [most, same] = [0, 0];
    const [a, b] = [new ClipReader(clean.rig.skeleton, clean.clip), new ClipReader(seen.rig.skeleton, seen.clip)];
    for (let f = 0; f < clean.clip.frames; f++) {
      const [p, q] = [a.at(f).positions, b.at(f).positions];
      for (let i = 0; i < p.length; i++) most = Math.max(most, Math.abs(p[i] - q[i]));
      if (p.every((v, i) => v === q[i])) same++;
    }
    expect(most).toBeGreaterThan(5e-4);
    expect(most).toBeLessThan(0.02);
    expect(same).toBe(0);
    expect(factsOf(lost.file).clips[0].faults.map(({ kind }) => kind)).toEqual(['gap']);
    const again = await motions.find(({ id }) => id === 'idle')!.file({ ...PLAIN, captured: 4 });
    expect((await motions.find(({ id }) => id === 'idle')!.file({ ...PLAIN, captured: 4 })).bytes).toEqual(again.bytes);
  });
});

describe('motions that do more than walk and stand', () => {
  type Place = readonly [number, number, number];
  /** Goes through a motion with the places of its joints by role. */
  async function through(id: string, visit: (at: (role: string) => Place, seconds: number) => void): Promise<Fetched> {
    const motion = await fetched(id, { fps: 60 });
    const reader = new ClipReader(motion.rig.skeleton, motion.clip);
    for (let f = 0; f < motion.clip.frames; f++) {
      const { positions } = reader.at(f);
      const at = (role: string): Place => {
        const o = motion.rig.roles.get(role)! * 3;
        return [positions[o], positions[o + 1], positions[o + 2]];
      };
      visit(at, f * motion.clip.frameTime);
    }
    return motion;
  }
  const apart = (a: Place, b: Place): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

  for (const [id, seconds] of [
    ['leap', 0.4],
    ['hops', 0.6],
    ['jump', 0.3],
  ] as const) {
    it(`${id}: the body is in the air for some time, and falls as bodies do`, async () => {
      let air = 0;
      const heights: number[] = [];
      const { clip } = await through(id, (at) => {
        heights.push(at('hips')[1]);
        if (Math.min(...['left.toes', 'right.toes', 'left.foot', 'right.foot'].map((role) => at(role)[1])) > 0.05) air++;
      });
      expect(air * clip.frameTime).toBeGreaterThan(0.5 * seconds);
      const pull = heights.map((h, f) => (f > 1 ? (h - 2 * heights[f - 1] + heights[f - 2]) / clip.frameTime ** 2 : 0));
      expect(Math.min(...pull)).toBeLessThan(-6);
      expect(Math.max(...heights) - heights[0]).toBeGreaterThan(0.05);
    });
  }

  it('leap: it lands on the other side of the gap', async () => {
    const motion = await fetched('leap');
    expect(travel(motion)).toBeGreaterThan(0.7);
  });

  it('steps-run and steps-down: the one ends higher by a metre, the other lower', async () => {
    const rise = async (id: string): Promise<number> => {
      const heights: number[] = [];
      await through(id, (at) => heights.push(Math.min(at('left.foot')[1], at('right.foot')[1])));
      return heights[heights.length - 1] - heights[0];
    };
    expect(await rise('steps-run')).toBeGreaterThan(1);
    expect(await rise('steps-down')).toBeLessThan(-0.6);
  });

  it('hands-on-hips: both hands rest beside the hips, fingers ahead', async () => {
    let near = 0;
    const { clip } = await through('hands-on-hips', (at) => {
      if (['left', 'right'].every((side) => Math.abs(apart(at(`${side}.hand`), at(`${side}.upperLeg`)) - 0.14) < 0.06)) near++;
    });
    expect(near * clip.frameTime).toBeGreaterThan(2.5);
  });

  it('ankles-crossed and jig: one foot stands before the other on the other’s side', async () => {
    for (const id of ['ankles-crossed', 'jig']) {
      let crossed = 0;
      const { clip } = await through(id, (at) => (crossed += at('right.foot')[0] > at('left.foot')[0] - 0.02 ? 1 : 0));
      expect(crossed * clip.frameTime)
        .withContext(id)
        .toBeGreaterThan(id === 'jig' ? 0.3 : 2);
    }
  });

  it('kneel: both knees are on the floor, and the body is up again at the end', async () => {
    let [knelt, last] = [0, 0];
    const { clip } = await through('kneel', (at) => {
      knelt += Math.max(at('left.lowerLeg')[1], at('right.lowerLeg')[1]) < 0.13 ? 1 : 0;
      last = at('hips')[1];
    });
    expect(knelt * clip.frameTime).toBeGreaterThan(1);
    expect(last).toBeGreaterThan(0.9);
  });

  it('cartwheel: it goes over both hands, upside down, and comes to a stand farther on', async () => {
    let [over, carried] = [0, 0];
    const heads: number[] = [];
    const { rig, clip } = await through('cartwheel', (at) => {
      const feet = Math.min(at('left.foot')[1], at('right.foot')[1]);
      heads.push(at('head')[1]);
      if (feet > at('hips')[1]) over++;
      if (feet > 0.2 && Math.min(at('left.hand')[1], at('right.hand')[1]) < 0.08) carried++;
    });
    expect(over * clip.frameTime).toBeGreaterThan(0.15);
    expect(carried * clip.frameTime).toBeGreaterThan(0.3);
    expect(Math.min(...heads)).toBeLessThan(0.45);
    expect(heads[heads.length - 1]).toBeCloseTo(heads[0], 1);
    expect(travel(await fetched('cartwheel'))).toBeGreaterThan(2);
    // Each hand is down for about a quarter of a second.
    const rests = findContacts(rig, clip).hands!.touches.filter(({ on, first, last }) => on === 'rest' && first > 100 && last < 160);
    expect(rests.map(({ side }) => side).sort()).toEqual(['left', 'right']);
  });

  it('arms-folded: each hand lies beyond the middle of the body', async () => {
    let folded = 0;
    const { clip } = await through('arms-folded', (at) => (folded += at('left.hand')[0] < at('right.hand')[0] ? 1 : 0));
    expect(folded * clip.frameTime).toBeGreaterThan(2);
  });

  it('keeps a crate in the hands when the way over the floor is taken out', async () => {
    const seen = async (travel: DepotOptions['travel']): Promise<number[]> => {
      const { file, rig, clip } = await fetched('stack-crate', { travel });
      const [crate, hand] = [file.skeleton.names.indexOf('crate'), rig.roles.get('left.hand')!];
      const { positions } = new ClipReader(rig.skeleton, clip).at(75);
      return [0, 1, 2].map((c) => positions[hand * 3 + c] - positions[crate * 3 + c]);
    };
    const [there, here] = [await seen('travelling'), await seen('in-place')];
    here.forEach((v, c) => expect(v).toBeCloseTo(there[c], 3));
  });
});
