import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { strFromU8, unzipSync } from 'fflate';
import { validateBytes } from 'gltf-validator';
import * as v from 'valibot';
import {
  DEFAULT_OUTPUT,
  itemWholeSchema,
  runEventSchema,
  runItemsSchema,
  runListSchema,
  runSchema,
  type RunEvent,
  type RunItemsJson,
  type RunJson,
  type RunOutput,
} from '@hollow-stride/contract';
import {
  ClipReader,
  clipOf,
  parseRecipe,
  parseReel,
  playLane,
  prepare,
  readMotionFile,
  reelSource,
  runJob,
  withTouches,
  type DeliveryRecord,
  type MotionFile,
} from '@hollow-stride/core';
import { makeFile, makeGlb, randomShape } from '@hollow-stride/core/testing/index';
import { eq } from 'drizzle-orm';
import { pino } from 'pino';
import { Blobs } from '../blobs';
import { runs } from '../db/schema';
import { Served, walkBvh } from '../testing/serve';
import { resultFiles } from './queue';
import { recoverRuns } from './service';

/** A character with a mesh of no beauty. */
async function puppet(seed: number): Promise<Uint8Array<ArrayBuffer>> {
  const shape = randomShape(seed, { spine: 3, clavicles: true });
  return (await makeGlb(makeFile(shape, { axes: seed }).skeleton, { sheath: true })) as Uint8Array<ArrayBuffer>;
}

describe('runs', () => {
  let served: Served;
  let takes: string[];
  let characters: string[];

  beforeAll(async () => {
    served = await Served.start();
    const { files } = await served.upload(
      ['ebb.bvh', walkBvh(1, 60)],
      ['flood.bvh', walkBvh(2, 60)],
      ['short.glb', await puppet(5)],
      ['tall.glb', await puppet(6)],
    );
    takes = files.flatMap((file) => file.takes.map(({ id }) => id));
    characters = files.flatMap((file) => file.characters.map(({ id }) => id));
  });
  afterAll(() => served.stop());

  const start = async (name: string, output: Partial<RunOutput> = {}, on = takes, to = characters): Promise<RunJson> => {
    const response = await served.send('POST', '/api/runs', { name, takes: on, characters: to, output: { ...DEFAULT_OUTPUT, ...output } });
    expect(response.status).toBe(201);
    return v.parse(runSchema, await response.json());
  };
  const look = async (id: string): Promise<RunItemsJson> =>
    v.parse(runItemsSchema, await (await fetch(`${served.base}/api/runs/${id}`)).json());
  /** Waits for what is told, not for time: until the run has nothing left to do. */
  const finished = async (id: string): Promise<RunItemsJson> => {
    const isOver = ({ run }: RunItemsJson): boolean => run.waiting + run.working === 0;
    const now = await look(id);
    if (isOver(now)) return now;
    const ended = new AbortController();
    const response = await fetch(`${served.base}/api/runs/events`, { signal: ended.signal });
    // Work that ended before the line was open is not reported.
    const then = await look(id);
    if (!isOver(then))
      for await (const event of eventsOf(response))
        if (event.kind === 'run' && event.run.id === id && event.run.waiting + event.run.working === 0) break;
    ended.abort();
    return look(id);
  };
  async function* eventsOf(response: Response): AsyncGenerator<RunEvent> {
    let text = '';
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      text += new TextDecoder().decode(chunk);
      for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
        const block = text.slice(0, end);
        text = text.slice(end + 2);
        if (block.startsWith('data: ')) yield v.parse(runEventSchema, JSON.parse(block.slice(6)));
      }
    }
  }
  const zipOf = async (id: string): Promise<Record<string, Uint8Array>> =>
    unzipSync(new Uint8Array(await (await fetch(`${served.base}/api/runs/${id}/zip`)).arrayBuffer()));

  it('solve every take on every character, judge what was written, and deliver it with sheets, recipes and a manifest', async () => {
    const { id } = await start('evening');
    const { items, run } = await finished(id);
    expect([run.done, run.failed]).toEqual([4, 0]);
    expect(items.map(({ takeName, characterName }) => `${takeName}/${characterName}`)).toEqual([
      'ebb/short',
      'ebb/tall',
      'flood/short',
      'flood/tall',
    ]);
    for (const { summary } of items) expect(summary!.figures['held.feet']).toBeGreaterThan(90);
    const parts = await zipOf(id);
    expect(Object.keys(parts).sort()).toEqual([
      'check-sheet.csv',
      'check-sheet.html',
      'check-sheet.json',
      ...items.map(({ fileName }) => `files/${fileName}.glb`),
      'manifest.json',
      ...items.map(({ fileName }) => `recipes/${fileName}.recipe.json`),
    ]);
    // Any other program that reads the format finds no error in it, and the recipe gives the same bits anywhere.
    const files: Record<string, MotionFile> = {};
    for (const [name, bytes] of [
      ['ebb', walkBvh(1, 60)],
      ['flood', walkBvh(2, 60)],
    ] as const)
      files[name] = await readMotionFile(bytes, `${name}.bvh`);
    for (const [name, seed] of [
      ['short', 5],
      ['tall', 6],
    ] as const)
      files[name] = await readMotionFile(await puppet(seed), `${name}.glb`);
    for (const { fileName, takeName, characterName, bytes } of items) {
      const written = parts[`files/${fileName}.glb`];
      expect(written.length).toBe(bytes!);
      expect((await validateBytes(written)).issues.numErrors).toBe(0);
      const recipe = parseRecipe(strFromU8(parts[`recipes/${fileName}.recipe.json`]));
      const again = runJob({ take: files[takeName], clip: 0, character: files[characterName], recipe });
      expect(Buffer.compare(Buffer.from(again.bytes), Buffer.from(written))).toBe(0);
    }
    const html = strFromU8(parts['check-sheet.html']);
    expect(html).toContain('ebb on short');
    expect(html).not.toMatch(/<script|https?:/);
    const manifest = JSON.parse(strFromU8(parts['manifest.json'])) as { items: { state: string }[] };
    expect(manifest.items.map(({ state }) => state)).toEqual(['done', 'done', 'done', 'done']);
  });

  it('do not solve again what was solved with the same inputs, whatever the files are called', async () => {
    await finished((await start('first', { tolerance: 2 })).id);
    const { id } = await start('second', { tolerance: 2, pattern: '{number}-{take}' });
    const { items } = await finished(id);
    expect(items.map(({ seconds }) => seconds)).toEqual([0, 0, 0, 0]);
    expect(items.map(({ fileName }) => fileName)).toEqual(['1-ebb', '2-ebb', '3-flood', '4-flood']);
    for (const { reduced } of items) {
      expect(reduced!.worst).toBeLessThan(2);
      expect(reduced!.share).toBeLessThan(0.7);
    }
  });

  it('are paused, cancelled and retried, and one that fails says why and stops nothing', async () => {
    const { id } = await start('stopped', { loop: 0.2 });
    await served.send('POST', `/api/runs/${id}/pause`, null);
    await served.send('POST', `/api/runs/${id}/cancel`, null);
    const cancelled = await finished(id);
    expect(cancelled.run.state).toBe('cancelled');
    expect(cancelled.run.cancelled + cancelled.run.done).toBe(4);
    await served.send('POST', `/api/runs/${id}/retry`, null);
    expect((await finished(id)).run.done).toBe(4);
    // A take whose range is empty cannot be solved: the others can.
    await served.edit('PATCH', `/api/takes/${takes[1]}/settings`, {
      choices: { ...(await served.takes()).takes.find((t) => t.id === takes[1])!.choices, from: 900 },
    });
    const { items, run } = await finished((await start('broken')).id);
    expect([run.done, run.failed]).toEqual([2, 2]);
    expect(items.find(({ state }) => state === 'failed')!.fault!.message).not.toBe('');
    await served.edit('PATCH', `/api/takes/${takes[1]}/settings`, {
      choices: { ...(await served.takes()).takes.find((t) => t.id === takes[1])!.choices, from: null },
    });
    // Decisions made at its start hold for it: a retry fails as before.
    await served.send('POST', `/api/runs/${run.id}/retry`, null);
    expect((await finished(run.id)).run.failed).toBe(2);
  });

  it('put all takes of a character into one file where that is wanted, and write into the server’s folder whole', async () => {
    const { id } = await start('as one', { together: true, bare: true });
    await finished(id);
    const parts = await zipOf(id);
    const names = Object.keys(parts).filter((name) => name.startsWith('files/'));
    expect(names.sort()).toEqual(['files/short.glb', 'files/tall.glb']);
    for (const name of names) {
      expect((await validateBytes(parts[name])).issues.numErrors).toBe(0);
      const { clips } = await readMotionFile(parts[name], name);
      expect(clips.map((clip) => [clip.name, clip.frames])).toEqual([
        ['ebb', 60],
        ['flood', 60],
      ]);
    }
    const response = await served.send('POST', `/api/runs/${id}/folder`, null);
    const { files } = (await response.json()) as { files: string[] };
    const out = join(served.folder, 'out', 'as-one');
    expect(files.every((file) => existsSync(join(out, file)))).toBeTrue();
    expect(Buffer.compare(readFileSync(join(out, 'files/short.glb')), Buffer.from(parts['files/short.glb']))).toBe(0);
    expect(readdirSync(out, { recursive: true }).filter((name) => String(name).endsWith('.part'))).toEqual([]);
  });

  it('play the lanes of reels: as files with their figures, and with the reel that gives the same again', async () => {
    const clip = (take: number, start: number, more = {}) => ({ name: `clip ${take}`, take: takes[take], start, ...more });
    const lane = (name: string, character: number, clips: object[], more = {}) => ({
      name,
      character: characters[character],
      clips,
      ...more,
    });
    const content = {
      fps: 30,
      lanes: [
        lane('off', 0, [clip(0, 0)], { on: false }),
        lane('both', 0, [clip(0, 0), clip(1, 0.7)]),
        lane('cut', 1, [clip(0, 0, { to: 0.4 }), clip(1, 0.5, { hold: 0.2, joined: false })]),
        lane('alone', 1, [clip(1, 0)], { place: [3, 0] }),
      ],
      touches: [{ a: { lane: 1, end: 'left.hand' }, b: { lane: 2, end: 'right.hand' }, from: 0.3, to: 0.5 }],
    };
    const reel = (await (await served.send('POST', '/api/reels', { name: 'fair', content })).json()) as { id: string };
    const asked = { name: 'reels', takes: [], characters: [], reels: [reel.id], output: { ...DEFAULT_OUTPUT, pattern: '{take}-{frames}' } };
    const { id } = v.parse(runSchema, await (await served.send('POST', '/api/runs', asked)).json());
    const { items, run } = await finished(id);
    expect([run.done, run.failed]).toEqual([3, 0]);
    expect(items.map(({ takeName, lane: at }) => [takeName, at])).toEqual([
      ['fair: both', { reel: reel.id, index: 1 }],
      ['fair: cut', { reel: reel.id, index: 2 }],
      ['fair: alone', { reel: reel.id, index: 3 }],
    ]);
    // A clip that comes in at once elsewhere jumps, and only there.
    expect(items.map(({ summary }) => [summary!.marks?.slide, summary!.marks?.jumps])).toEqual([
      ['good', 'unseen'],
      ['good', 'fault'],
      ['good', 'unseen'],
    ]);
    const parts = await zipOf(id);
    const manifest = JSON.parse(strFromU8(parts['manifest.json'])) as DeliveryRecord;
    const files = new Map<string, MotionFile>();
    for (const [name, bytes] of [
      ['ebb.bvh', walkBvh(1, 60)],
      ['flood.bvh', walkBvh(2, 60)],
      ['short.glb', await puppet(5)],
      ['tall.glb', await puppet(6)],
    ] as const)
      files.set(name, await readMotionFile(bytes, name));
    for (const { file, recipe, sources } of manifest.items) {
      // Its frames were known before it was solved.
      expect(file!.path).toBe(`files/fair-${file!.motion}-${file!.frames}.glb`);
      expect(sources.map(({ name }) => name).every((name) => files.has(name))).toBeTrue();
      const again = parseReel(strFromU8(parts[recipe!]));
      const played = again.lanes.map((one) => {
        const ready = [...new Set(one.clips.map(({ take }) => take))].map((take) => {
          const name = `${take.replace('.bvh', '')}-on-${one.character.replace('.glb', '')}`;
          const own = parseRecipe(strFromU8(parts[`recipes/${name}.recipe.json`]));
          return [take, prepare({ take: files.get(take)!, clip: 0, character: files.get(one.character)!, recipe: own })] as const;
        });
        const sourceOf = new Map(ready.map(([take, one_]) => [take, reelSource(one_)]));
        const rig = ready[0][1].character;
        return { name: one.name, rig, clip: playLane(rig, one, again.fps, (take) => sourceOf.get(take)!).clip };
      });
      const at = played.findIndex(({ name }) => name === file!.motion);
      const expected = withTouches(played, again.touches, again.fps)[at]!;
      const written = clipOf(await readMotionFile(parts[file!.path], file!.path), played[at].rig, 0);
      const [a, b] = [expected, written].map((one) => new ClipReader(played[at].rig.skeleton, one));
      for (let f = 0; f < expected.frames; f++) {
        const [p, q] = [a.at(f).positions, b.at(f).positions];
        expect(Math.max(...p.map((value, i) => Math.abs(value - q[i])))).toBeLessThan(1e-4);
      }
    }
    // What a lane does not depend on changes nothing in it: the same lane is not solved again.
    await served.edit('PATCH', `/api/reels/${reel.id}`, {
      content: { ...content, lanes: [lane('gone', 1, []), ...content.lanes.slice(1)] },
    });
    const second = v.parse(runSchema, await (await served.send('POST', '/api/runs', asked)).json());
    expect((await finished(second.id)).items.map(({ seconds }) => seconds)).toEqual([0, 0, 0]);
  });

  it('keep what a person says of an item, and list all runs', async () => {
    const { id } = await start('reviewed');
    const { items } = await finished(id);
    const response = await served.edit('PATCH', `/api/runs/items/${items[0].id}`, { review: 'returned', note: 'left foot' });
    expect(((await response.json()) as { review: string }).review).toBe('returned');
    const whole = v.parse(itemWholeSchema, await (await fetch(`${served.base}/api/runs/items/${items[0].id}`)).json());
    expect(whole.item.note).toBe('left foot');
    expect(whole.report!.looked!.series.map(({ name }) => name)).toContain('left knee, bend');
    expect(whole.report!.looked!.pictures.length).toBeGreaterThan(0);
    const list = v.parse(runListSchema, await (await fetch(`${served.base}/api/runs`)).json());
    expect(list.runs.map(({ name }) => name)).toContain('reviewed');
  });

  it('removed from the rack long ago are forgotten at a start, and what they alone had written with them', async () => {
    const { db } = served.services.library;
    const results = new Blobs(join(served.folder, 'results'));
    const [kept, old] = [await start('kept', {}, takes.slice(0, 1)), await start('old', { inPlace: true })];
    await finished(kept.id);
    await finished(old.id);
    const contents = async (): Promise<number> => (await resultFiles(db)).size;
    const before = await contents();
    await served.edit('PATCH', `/api/runs/${old.id}`, { removed: true });
    const quiet = pino({ level: 'silent' });
    await recoverRuns(db, results, quiet);
    expect(await contents())
      .withContext('it can be brought back')
      .toBe(before);
    await db
      .update(runs)
      .set({ removedAt: new Date(Date.now() - 8 * 24 * 3600_000) })
      .where(eq(runs.id, old.id));
    await recoverRuns(db, results, quiet);
    const left = await resultFiles(db);
    expect(left.size).toBe(before - 4);
    expect(
      readdirSync(join(served.folder, 'results'))
        .filter((name) => name.length === 64)
        .sort(),
    ).toEqual([...left].sort());
    expect(await served.refusal(await fetch(`${served.base}/api/runs/${old.id}`), 404)).toContain('no such run');
    expect((await fetch(`${served.base}/api/runs/${kept.id}`)).status).toBe(200);
  });

  it('are refused where they cannot be', async () => {
    const body = { name: 'x', takes, characters, output: DEFAULT_OUTPUT };
    const refused = async (change: object, status: number): Promise<string> =>
      served.refusal(await served.send('POST', '/api/runs', { ...body, ...change }), status);
    expect(await refused({ takes: [] }, 400)).toContain('choose a take and a character, or a reel');
    expect(await refused({ reels: [characters[0]] }, 404)).toContain('a reel of the run is not on the rack');
    expect(await refused({ output: { ...DEFAULT_OUTPUT, pattern: '{tkae}' } }, 400)).toContain('{tkae} is unknown');
    expect(await refused({ takes: [characters[0]] }, 404)).toContain('not on the rack');
    expect(await served.refusal(await fetch(`${served.base}/api/runs/${characters[0]}`), 404)).toContain('no such run');
  });
});
