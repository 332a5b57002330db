import { clipOf, ClipReader, factsOf, prepareBody, readMotionFile, type Body } from '@hollow-stride/core';
import { depotMotions, type DepotOptions } from '.';

const motions = depotMotions();
const PLAIN: DepotOptions = { travel: 'travelling', fps: 30, body: 'motion' };

async function fetched(id: string, options: Partial<DepotOptions> = {}): Promise<Body> {
  const { name, bytes } = await motions.find((m) => m.id === id)!.file({ ...PLAIN, ...options });
  return prepareBody(await readMotionFile(bytes, name));
}

/** How far the hips get from where they start, over the floor. */
function travel(body: Body): number {
  const clip = clipOf(body);
  const reader = new ClipReader(body.skeleton, clip);
  const hips = body.roles.get('hips')! * 3;
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
      const body = await fetched(id);
      const facts = factsOf(body.file);
      expect(facts.clips[0].faults).withContext(id).toEqual([]);
      expect(facts.clips[0].seconds).withContext(id).toBeCloseTo(seconds, 0);
      expect(body.warnings).withContext(id).toEqual([]);
      if (!travels) expect(travel(body)).withContext(id).toBeLessThan(0.6);
    }
  }, 60_000);

  it('gives a motion in place, at another rate, or with its body, and the same bytes each time', async () => {
    const going = await fetched('walk-calm');
    expect(travel(going)).toBeGreaterThan(4);
    expect(travel(await fetched('walk-calm', { travel: 'in-place' }))).toBeLessThan(0.5);
    const fast = clipOf(await fetched('walk-calm', { fps: 60 }));
    expect(fast.frames / clipOf(going).frames).toBeCloseTo(2, 1);
    const whole = await fetched('walk-calm', { body: 'with-body' });
    expect(whole.file.skin!.joints.length).toBeGreaterThan(1000);
    const [a, b] = [new ClipReader(going.skeleton, clipOf(going)), new ClipReader(whole.skeleton, clipOf(whole))];
    for (const role of ['hips', 'left.foot', 'right.hand', 'head']) {
      const [p, q] = [a.at(70).positions, b.at(70).positions];
      for (let c = 0; c < 3; c++)
        expect(q[whole.roles.get(role)! * 3 + c])
          .withContext(role)
          .toBeCloseTo(p[going.roles.get(role)! * 3 + c], 4);
    }
    const again = await motions[3].file(PLAIN);
    expect((await depotMotions()[3].file(PLAIN)).bytes).toEqual(again.bytes);
  });
});
