import * as fc from 'fast-check';
import { ALL_TAKES, TAKE_ORDERS, takeSchema, type TakeQuery, type TakeJson } from '@hollow-stride/contract';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON } from '@hollow-stride/core';
import { inArray } from 'drizzle-orm';
import * as v from 'valibot';
import { takes as takesTable } from './db/schema';
import { animatedGlb } from '@hollow-stride/core/testing/index';
import { Served, walkBvh } from './testing/serve';

const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

describe('what a file may not do to the rack', () => {
  let served: Served;
  beforeAll(async () => (served = await Served.start()), 60_000);
  afterAll(() => served.stop());
  /** Brings a changed walk in; the rack and its list of takes must be as the contract has them afterwards, whatever comes of it. */
  async function bring(name: string, change: (bvh: string) => string, seed = 1): Promise<{ error?: string; take?: TakeJson }> {
    const { files } = await served.upload([name, change(text(walkBvh(seed)))]);
    const [, page] = await Promise.all([served.rack(), served.takes()]);
    const [take] = files[0].takes;
    if (take) expect(page.takes.map(({ id }) => id)).toContain(take.id);
    return { error: files[0].error?.message, take };
  }
  const firstFrame = (bvh: string, value: string): string => bvh.replace(/(Frame Time:.*\n)\S+/, `$1${value}`);

  it('numbers beyond any body are refused, with their place', async () => {
    const { files } = await served.upload(['far.bvh', firstFrame(text(walkBvh(1)), '1e39')]);
    expect(files[0].error).toEqual(jasmine.objectContaining({ code: 'bvh/number' }));
    expect(files[0].error?.where).toEqual(jasmine.objectContaining({ file: 'far.bvh', frame: 1 }));
    expect((await bring('long.bvh', (bvh) => bvh.replace(/OFFSET \S+/, 'OFFSET 1e20'))).error).toContain('beyond any body');
    await served.rack();
  });

  it('a frame time of nothing is not believed', async () => {
    const { take } = await bring('quick.bvh', (bvh) => bvh.replace(/Frame Time: \S+/, 'Frame Time: 1e-310'), 2);
    expect(take?.facts.clips[0].fps).toBe(30);
    expect(take?.facts.warnings.some(({ message }) => message.includes('frame time'))).toBeTrue();
  });

  it('a joint’s name of hundreds of letters is refused, an animation’s is shortened', async () => {
    const joint = await bring('names.bvh', (bvh) => bvh.replace(/ROOT \S+/, `ROOT ${'seat'.repeat(120)}`), 3);
    expect(joint.error).toMatch(/480 letters; at most 200/);
    const { files } = await served.upload([
      'song.glb',
      await animatedGlb(3, [{ name: `${'verse '.repeat(80)}end`, times: [0, 0.1, 0.2] }]),
    ]);
    expect(files[0].error).toBeUndefined();
    expect(files[0].takes[0].facts.clips[0].name.length).toBeLessThanOrEqual(200);
    await served.rack();
  });

  it('a file without a name, with a long one, with halves of letters in it', async () => {
    expect((await bring('   .bvh', (bvh) => bvh, 4)).take?.name).toBe('untitled');
    const long = await bring(`${'å'.repeat(118)}🕯🕯.bvh`, (bvh) => bvh, 5);
    expect(long.take?.name).toBe(`${'å'.repeat(118)}🕯`);
    const { take } = await bring('halves.bvh', (bvh) => bvh.replace(/ROOT \S+/, 'ROOT se\u0000at'), 6);
    expect(take?.facts.labels?.roles['hips']).toBe('se at');
    const half = `{"base":1,"name":"bell \\ud83d and \\u0000 tide"}`;
    const headers = { 'content-type': 'application/json' };
    expect((await fetch(`${served.base}/api/takes/${take!.id}`, { method: 'PATCH', headers, body: half })).status).toBe(200);
    expect((await served.takes()).takes.find(({ id }) => id === take!.id)?.name).toBe('bell \ufffd and   tide');
  });

  it('a character of a long name can be solved for: its pairing’s name is shortened', async () => {
    const { take } = await bring(`${'k'.repeat(130)}.bvh`, (bvh) => bvh, 7);
    const character = (await (await served.send('POST', `/api/takes/${take!.id}/as-character`, {})).json()) as { id: string };
    const choices = { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS };
    const summary = { frames: 1, good: 0, cautions: 0, faults: 0, unseen: 1, worst: '', figures: {} };
    expect((await served.edit('PUT', '/api/transfers', { take: take!.id, character: character.id, choices, summary })).status).toBe(200);
    const { pairings, transfers } = await served.rack();
    expect([pairings[0].name.length, transfers[0].name.length]).toEqual([120, 120]);
  });

  it('texts that a database refuses are mended at the border: names, notes, tags, names of joints', async () => {
    const { take } = await bring('notes.bvh', (bvh) => bvh, 8);
    const settings = { note: 'line one\nline\u0000two \ud800', tags: ['qu\u0000ay', '🕯'] };
    expect((await served.edit('PATCH', `/api/takes/${take!.id}/settings`, settings)).status).toBe(200);
    const now = (await served.takes()).takes.find(({ id }) => id === take!.id)!;
    expect([now.note, now.tags]).toEqual(['line one\nline two \ufffd', ['qu ay', '🕯']]);
    const labels = { hips: 'se\u0000at' };
    const answer = await served.edit('PATCH', `/api/skeletons/${take!.skeleton}`, { choices: { ...DEFAULT_SKELETON, labels } });
    expect(answer.status).toBe(200);
    const rests = [{ name: 'calm', rotations: { 'h\u0000ip': [0, 0, 0, 1] } }];
    expect((await served.edit('PATCH', `/api/skeletons/${take!.skeleton}`, { rests })).status).toBe(200);
    const deep = `{"base":1,"name":${'['.repeat(5000)}${']'.repeat(5000)}}`;
    const sent = await fetch(`${served.base}/api/takes/${take!.id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: deep,
    });
    expect(await served.refusal(sent, 400)).toContain('nests too deep');
  });

  it('requests that are wrong are said to be, and are no fault of the server', async () => {
    const headers = { 'content-type': 'multipart/form-data' };
    const answer = await fetch(`${served.base}/api/files`, { method: 'POST', headers, body: 'x' });
    expect(await served.refusal(answer, 400)).toContain('form cannot be read');
    const { take } = await bring('stranger.bvh', (bvh) => bvh, 9);
    const character = (await (await served.send('POST', `/api/takes/${take!.id}/as-character`, {})).json()) as { id: string };
    const stranger = { performer: '00000000-0000-4000-8000-000000000000', character: character.id };
    const pairing = await served.edit('PUT', '/api/pairings', { ...stranger, choices: { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS } });
    expect(await served.refusal(pairing, 404)).toContain('performer');
  });

  it('more files than one request may hold are refused as a whole, and none is lost in silence', async () => {
    const before = (await served.takes()).all;
    const form = new FormData();
    for (let i = 0; i < 501; i++) form.append('file', new Blob(['x']), `${i}.bvh`);
    const answer = await fetch(`${served.base}/api/files`, { method: 'POST', body: form });
    expect(await served.refusal(answer, 413)).toContain('more than 500 files');
    expect((await served.takes()).all).toBe(before);
  });
});

describe('the list of takes', () => {
  let served: Served;
  let all: TakeJson[];
  const byTime = async (): Promise<TakeJson[]> => (await served.takes()).takes.sort((a, b) => (a.addedAt < b.addedAt ? -1 : 1));
  beforeAll(async () => {
    served = await Served.start();
    // Three skeletons; names in many cases, one of them with letters that a search would take for wildcards.
    const names = ['Ebb', 'ebb 2', 'Quay_100%', 'quay', 'Mast', 'mast high', 'Åland', 'bow', 'Bow 3'];
    for (const [i, name] of names.entries()) await served.upload([`${name}.bvh`, walkBvh(20 + (i % 3), 10 + 3 * i)]);
    const first = await byTime();
    await served.send('POST', '/api/takes/change', {
      takes: [first[0].id, first[4].id, first[5].id],
      change: { kind: 'tag', tag: 'tide' },
    });
  });
  // As they are now: specs run in any order, and some change them.
  beforeEach(async () => (all = await byTime()));
  afterAll(() => served.stop());

  it('finds, groups and orders as a plain filter would', async () => {
    const length = (take: TakeJson): number => take.facts.clips[take.clip].seconds;
    const query = fc.record({
      text: fc.constantFrom('', 'B', 'quay', 'MAST', '%', '_', 'å', ' ebb ', 'nothing'),
      tag: fc.constantFrom('', 'tide', 'none'),
      order: fc.constantFrom(...TAKE_ORDERS),
      skeleton: fc.constantFrom('', all[0].skeleton, all[1].skeleton),
    });
    await fc.assert(
      fc.asyncProperty(query, async (wanted: TakeQuery) => {
        const page = await served.takes({ ...wanted });
        const fits = all.filter(
          ({ name, tags, skeleton }) =>
            name.toLowerCase().includes(wanted.text.trim().toLowerCase()) &&
            (wanted.tag === '' || tags.includes(wanted.tag)) &&
            (wanted.skeleton === '' || skeleton === wanted.skeleton),
        );
        const skeletons = [...new Set(fits.map(({ skeleton }) => skeleton))];
        const expected = skeletons.flatMap((skeleton) => {
          const own = fits.filter((take) => take.skeleton === skeleton);
          if (wanted.order === 'length') own.sort((a, b) => length(b) - length(a));
          if (wanted.order === 'name') own.sort((a, b) => (a.name.toLowerCase() < b.name.toLowerCase() ? -1 : 1));
          return own;
        });
        expect(page.takes.map(({ name }) => name)).toEqual(expected.map(({ name }) => name));
        expect(page.groups.map(({ skeleton }) => skeleton)).toEqual(skeletons);
        expect([page.total, page.all]).toEqual([fits.length, 9]);
        const ids = (await (await fetch(`${served.base}/api/takes/ids?${new URLSearchParams({ ...wanted })}`)).json()) as string[];
        expect(ids).toEqual(page.takes.map(({ id }) => id));
      }),
      { numRuns: 40, seed: 4 },
    );
  });

  it('gives every take once over its pages, however many there are', async () => {
    const { library } = served.services;
    const [{ file }] = all;
    const rows = Array.from({ length: 200 }, (_, i) => ({ file, clip: 100 + i, name: `copy ${i}`, seconds: i }));
    const added = await library.db.insert(takesTable).values(rows).returning({ id: takesTable.id });
    const seen: string[] = [];
    let total = Infinity;
    for (let from = 0; from < total;) {
      const page = await library.takes({ ...ALL_TAKES, order: 'name' }, from);
      total = page.total;
      seen.push(...page.takes.map(({ id }) => id));
      from += page.takes.length;
    }
    expect([seen.length, new Set(seen).size]).toEqual([209, 209]);
    await library.db.delete(takesTable).where(
      inArray(
        takesTable.id,
        added.map(({ id }) => id),
      ),
    );
  });

  it('changes many at once, and tells which, so that it can be undone', async () => {
    const ids = all.slice(0, 5).map(({ id }) => id);
    const change = async (what: object): Promise<string[]> =>
      ((await (await served.send('POST', '/api/takes/change', { takes: ids, change: what })).json()) as { takes: string[] }).takes.sort();
    const without = all.filter(({ id, tags }) => ids.includes(id) && !tags.includes('tide')).map(({ id }) => id);
    expect(await change({ kind: 'tag', tag: ' tide ' })).toEqual(without.sort());
    expect(await change({ kind: 'tag', tag: 'tide' })).toEqual([]);
    expect((await change({ kind: 'untag', tag: 'tide' })).length).toBe(5);
    expect((await served.takes()).tags).toEqual(['tide']);
    expect((await change({ kind: 'remove' })).length).toBe(5);
    expect((await served.takes()).all).toBe(4);
    expect((await change({ kind: 'restore' })).length).toBe(5);
    expect(await served.refusal(await served.send('POST', '/api/takes/change', { takes: [], change: { kind: 'remove' } }), 400)).toContain(
      'choose at least one',
    );
  });

  it('sets many at once, each only where it makes a difference, so that its opposite puts back what was', async () => {
    const [first, ...others] = all.slice(0, 4);
    const ids = [first, ...others].map(({ id }) => id);
    const change = async (what: object): Promise<string[]> =>
      ((await (await served.send('POST', '/api/takes/change', { takes: ids, change: what })).json()) as { takes: string[] }).takes;
    const now = async (id: string): Promise<TakeJson> => v.parse(takeSchema, await (await fetch(`${served.base}/api/takes/${id}`)).json());
    await served.edit('PATCH', `/api/takes/${first.id}/settings`, { choices: { ...first.choices, rate: 50 } });
    expect((await change({ kind: 'rate', rate: 25 })).sort()).toEqual(others.map(({ id }) => id).sort());
    expect([(await now(first.id)).choices.rate, (await now(others[0].id)).choices.rate]).toEqual([50, 25]);
    const cleaned = await change({ kind: 'clean' });
    expect(cleaned.length).toBe(4);
    expect((await now(first.id)).choices.clean).toEqual(jasmine.objectContaining({ gaps: true, spikes: true }));
    expect(await change({ kind: 'clean' })).toEqual([]);
    expect((await change({ kind: 'unclean' })).length).toBe(4);
    expect((await change({ kind: 'unrate' })).length).toBe(4);
    // From a second of their own on: not the one that is too short for it, nor the one that begins later already.
    await served.edit('PATCH', `/api/takes/${first.id}/settings`, { choices: { ...(await now(first.id)).choices, from: 0.2 } });
    expect(await change({ kind: 'start', seconds: 1e5 })).toEqual([]);
    expect((await change({ kind: 'start', seconds: 0.1 })).sort()).toEqual(others.map(({ id }) => id).sort());
    expect([(await now(first.id)).choices.from, (await now(others[0].id)).choices.from]).toEqual([0.2, 0.1]);
    expect((await change({ kind: 'untrim' })).length).toBe(4);
    expect((await change({ kind: 'reverse' })).length).toBe(4);
    expect((await now(first.id)).choices.reversed).toBeTrue();
    expect((await change({ kind: 'reverse' })).length).toBe(4);
    expect((await now(first.id)).choices.reversed).toBeFalse();
    expect((await change({ kind: 'loop', seconds: 0.3 })).length).toBe(4);
    expect(await change({ kind: 'loop', seconds: 0.5 })).toEqual([]);
    expect((await now(others[1].id)).choices.loop).toBe(0.3);
    expect((await change({ kind: 'unloop' })).length).toBe(4);
    // These walks have no rest pose in front.
    expect(await change({ kind: 'trim' })).toEqual([]);
    const before = (await now(first.id)).version;
    expect((await change({ kind: 'untrim' })).length).toBe(0);
    expect((await now(first.id)).version).toBe(before);
  });

  it('labels the skeletons of many by a scheme, and passes over those that it does not fit', async () => {
    const roles = all[0].facts.labels!.roles;
    const scheme = { format: 'hollow-stride/naming-scheme', version: 1, name: 'all', roles };
    const kept = (await (await served.send('POST', '/api/schemes', scheme)).json()) as { id: string };
    const takes = all.map(({ id }) => id);
    const answer = await served.send('POST', '/api/takes/label', { takes, scheme: kept.id });
    const { skeletons, passed } = (await answer.json()) as { skeletons: { id: string; before: unknown }[]; passed: unknown[] };
    expect([skeletons.length, passed.length, skeletons[0].before]).toEqual([3, 0, null]);
    const labelled = (await served.rack()).skeletons.find(({ id }) => id === all[0].skeleton);
    expect(labelled?.choices.labels?.['left.hand']).toBe(roles['left.hand']);
    const none = (await (
      await served.send('POST', '/api/schemes', { ...scheme, name: 'none', roles: { hips: 'no such joint', head: 'nor this' } })
    ).json()) as { id: string };
    const unfit = (await (await served.send('POST', '/api/takes/label', { takes, scheme: none.id })).json()) as {
      passed: { why: string }[];
    };
    expect(unfit.passed.map(({ why }) => why)).toEqual(Array(3).fill('the scheme fits 0 % of it') as string[]);
  });
});
