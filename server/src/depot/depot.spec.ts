import * as v from 'valibot';
import { depotEventSchema, depotPageSchema, DEPOT_PAGE, type DepotEvent, type DepotPage } from '@hollow-stride/contract';
import { clipOf, prepareRig, readMotionFile } from '@hollow-stride/core';
import { Served } from '../testing/serve';

describe('the motion depot over HTTP', () => {
  let served: Served;
  let base: string;

  beforeAll(async () => {
    served = await Served.start();
    base = `${served.base}/api/depot`;
  });

  afterAll(() => served.stop());

  const search = async (query: string): Promise<DepotPage> =>
    v.parse(depotPageSchema, await (await fetch(`${base}/motions?${query}`)).json());

  async function fetchMotion(change: object): Promise<DepotEvent[]> {
    const body = JSON.stringify({ id: 'walk-calm', travel: 'travelling', fps: 30, body: 'motion', ...change });
    const response = await fetch(`${base}/fetch`, { method: 'POST', headers: { 'content-type': 'application/json' }, body });
    expect(response.status).toBe(200);
    const lines = (await response.text()).trim().split('\n');
    return lines.map((line) => v.parse(depotEventSchema, JSON.parse(line)));
  }

  it('is searched by words, tag and length, a page at a time', async () => {
    const all = await search('');
    expect([all.motions.length, all.pages]).toEqual([DEPOT_PAGE, Math.ceil(all.total / DEPOT_PAGE)]);
    expect(all.total).toBeGreaterThanOrEqual(30);
    const seen = new Set<string>();
    for (let page = 0; page < all.pages; page++) for (const { id } of (await search(`page=${page}`)).motions) seen.add(id);
    expect(seen.size).toBe(all.total);
    expect((await search('text=bollard%20kick')).motions.map(({ id }) => id)).toEqual(['kick']);
    const runs = await search('tag=run&longest=6.5');
    expect(runs.total).toBeGreaterThan(1);
    for (const { tags, seconds } of runs.motions) expect([tags.includes('run'), seconds <= 6.5]).toEqual([true, true]);
    expect((await search('text=nothing-of-the-kind')).total).toBe(0);
    expect((await fetch(`${base}/motions?page=-1`)).status).toBe(400);
  });

  it('plays a preview on its own performer', async () => {
    const bytes = new Uint8Array(await (await fetch(`${base}/motions/wave/preview`)).arrayBuffer());
    const file = await readMotionFile(bytes, 'wave.glb');
    const rig = prepareRig(file);
    expect([rig.prefix, file.skin !== undefined, clipOf(file, rig).frames > 30]).toEqual(['understudy:', true, true]);
    expect((await fetch(`${base}/motions/no-such/preview`)).status).toBe(404);
  });

  it('brings a motion to the rack with its title, tags and note, telling its progress', async () => {
    const events = await fetchMotion({ fps: 60, travel: 'in-place' });
    const done = events[events.length - 1];
    if (done.kind !== 'done') return fail(done.kind);
    const [take] = done.file.takes;
    expect([take.name, take.facts.clips[0].fps, take.tags.includes('walk'), take.note.length > 5]).toEqual(['Walk, calm', 60, true, true]);
    const received = events.flatMap((e) => (e.kind === 'progress' ? [e.received] : []));
    expect(received).toEqual([...received].sort((a, b) => a - b));
  });

  it('takes a broken line up where it broke, and brings in the same file', async () => {
    const steady = await fetchMotion({ id: 'jog' });
    const events = await fetchMotion({ id: 'jog', line: 'drops' });
    const resumed = events.find((e) => e.kind === 'resumed')!;
    const [a, b] = [steady[steady.length - 1], events[events.length - 1]];
    if (a.kind !== 'done' || b.kind !== 'done' || resumed.kind !== 'resumed') return fail('no end');
    expect([b.file.known, b.file.takes[0].file]).toEqual([true, a.file.takes[0].file]);
    const after = events[events.indexOf(resumed) + 1];
    expect(after.kind === 'progress' && after.received).toBeGreaterThan(resumed.received);
  });

  it('fails clean on a line that stays dead: nothing on the rack, nothing left on disk', async () => {
    const before = (await served.takes()).all;
    const events = await fetchMotion({ id: 'scull', line: 'dead' });
    const last = events[events.length - 1];
    expect(last.kind === 'failed' && last.fault.message).toContain('50 % and did not come back');
    expect((await served.takes()).all).toBe(before);
    expect(served.onTheWay()).toEqual([]);
    const none = await fetchMotion({ id: 'no-such' });
    expect(none[0].kind).toBe('failed');
  });
});
