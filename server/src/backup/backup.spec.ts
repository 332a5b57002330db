import { createHash } from 'node:crypto';
import { copyFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DEFAULT_OUTPUT } from '@hollow-stride/contract';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON, DEFAULT_TAKE, makeLayer, makeTouchUp, random } from '@hollow-stride/core';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { animatedGlb } from '@hollow-stride/core/testing/index';
import {
  characters,
  files,
  jointSchemes,
  pairings,
  poses,
  presets,
  schemes,
  sets,
  settings,
  skeletons,
  takes,
  transfers,
  versions,
} from '../db/schema';
import { Served, walkBvh } from '../testing/serve';
import { MANIFEST, MANIFEST_HASH } from './manifest';
import { readBackup } from './read';
import { readManifest } from './write';

describe('a backup of the rack', () => {
  let from: Served;
  let to: Served;
  let archive: Uint8Array<ArrayBuffer>;
  beforeAll(async () => {
    [from, to] = await Promise.all([Served.start(), Served.start()]);
    const { files } = await from.upload(
      ['ebb.bvh', walkBvh(1)],
      ['flood.bvh', walkBvh(2)],
      [
        'songs.glb',
        await animatedGlb(3, [
          { name: 'low', times: [0, 0.5, 1] },
          { name: 'high', times: [0, 1, 2] },
        ]),
      ],
    );
    const [ebb, flood, songs] = files.map(({ takes }) => takes);
    const choices = { ...DEFAULT_TAKE, from: 0.05 };
    await from.edit('PATCH', `/api/takes/${ebb[0].id}/settings`, { tags: ['tide'], note: 'with the gulls', choices });
    await from.edit('PATCH', `/api/takes/${ebb[0].id}`, { name: 'Ebb at dawn' });
    await from.edit('PATCH', `/api/takes/${songs[0].id}`, { removed: true });
    await from.edit('PATCH', `/api/skeletons/${ebb[0].skeleton}`, { name: 'guild walker', choices: { ...DEFAULT_SKELETON, facing: 12 } });
    const character = (await (await from.send('POST', `/api/takes/${flood[0].id}/as-character`, {})).json()) as { id: string };
    const summary = { frames: 20, good: 3, cautions: 0, faults: 1, unseen: 0, worst: 'slide', figures: { slide: 9 } };
    const decided = { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS, stride: 'marks' as const };
    await from.edit('PUT', '/api/transfers', { take: ebb[0].id, character: character.id, choices: decided, summary });
    await from.send('POST', '/api/schemes', {
      format: 'hollow-stride/naming-scheme',
      version: 1,
      name: 'guild',
      roles: { hips: 'seat' },
    });
    const lean = makeTouchUp({ kind: 'lean', value: 4 });
    const calm = makeLayer({ name: 'calm', does: { kind: 'calm' } });
    const touched = { ...decided, touchUps: [{ touchUp: lean, take: ebb[0].id }], layers: [{ layer: calm, take: ebb[0].id }] };
    await from.send('POST', '/api/versions', { name: 'leaning', performer: ebb[0].skeleton, character: character.id, choices: touched });
    await from.send('POST', '/api/sets', { name: 'lean', touchUps: [lean] });
    await from.send('POST', '/api/poses', { name: 'salute', pose: { 'right.upperArm': [0, 10, 60] } });
    await from.send('POST', '/api/joint-schemes', { name: 'cranes', byJoint: { by: 'shape' } });
    const { takes: some } = await from.takes();
    const [puppet] = (await from.rack()).characters;
    const lanes = [{ name: 'lane', character: puppet.id, clips: [{ name: 'in', take: some[0].id, start: 0 }] }];
    await from.send('POST', '/api/reels', { name: 'parade', content: { lanes } });
    await from.send('POST', '/api/presets', { name: 'for the harbour', output: { ...DEFAULT_OUTPUT, fps: 24, loop: 0.5 } });
    await from.edit('PUT', '/api/limits', { limits: { slide: { good: 3, fault: 9 } } });
    archive = new Uint8Array(await (await fetch(`${from.base}/api/backup`)).arrayBuffer());
  });
  afterAll(() => Promise.all([from.stop(), to.stop()]));

  it('brought in elsewhere gives the same rack, and brought in again nothing more', async () => {
    const whole = await readManifest(from.services.library.db);
    expect([whole.takes.length, whole.characters.length, whole.pairings.length, whole.transfers.length, whole.schemes.length]).toEqual([
      3, 1, 1, 1, 1,
    ]);
    expect([whole.versions.length, whole.sets.length, whole.presets.length, whole.poses.length, whole.jointSchemes.length]).toEqual([
      1, 1, 1, 1, 1,
    ]);
    expect(whole.reels.map(({ name }) => name)).toEqual(['parade']);
    expect(whole.limits).toEqual({ slide: { good: 3, fault: 9 } });
    for (let time = 0; time < 2; time++) {
      await to.upload(['rack.zip', archive]);
      const there = await readManifest(to.services.library.db);
      const nameOf = (of: typeof whole, take: string | null) => of.takes.find(({ id }) => id === take)?.name;
      const sorted = (of: typeof whole) => ({
        ...of,
        files: [...of.files].sort((a, b) => (a.hash < b.hash ? -1 : 1)).map(({ hash, name }) => ({ hash, name })),
        skeletons: [...of.skeletons].sort((a, b) => (a.name < b.name ? -1 : 1)),
        pairings: of.pairings.map(({ performer, ...rest }) => ({ ...rest, performer: of.skeletons[performer].name })),
        transfers: of.transfers.map(({ performer, ...rest }) => ({ ...rest, performer: of.skeletons[performer].name })),
        takes: of.takes.map(({ id: _, ...rest }) => rest),
        reels: of.reels.map(({ name, content }) => ({
          name,
          content: content.lanes.map((lane) => ({ ...lane, clips: lane.clips.map((clip) => ({ ...clip, take: nameOf(of, clip.take) })) })),
        })),
        // A touch-up, or a layer, of one take holds for the same take there, which has another id.
        versions: of.versions.map(({ performer, choices, ...rest }) => ({
          ...rest,
          performer: of.skeletons[performer].name,
          choices: {
            ...choices,
            touchUps: choices.touchUps.map((one) => ({ ...one, take: nameOf(of, one.take) })),
            layers: choices.layers.map((one) => ({ ...one, take: nameOf(of, one.take) })),
          },
        })),
      });
      const [{ choices }] = sorted(whole).versions;
      expect([choices.touchUps[0].take, choices.layers[0].take]).toEqual(['Ebb at dawn', 'Ebb at dawn']);
      expect(sorted(there)).withContext(`time ${time}`).toEqual(sorted(whole));
      expect((await to.takes()).takes.map(({ name }) => name).sort()).toEqual(['Ebb at dawn', 'flood', 'songs: high']);
      // A reel plays the takes and characters that are there.
      const { characters: puppets, reels } = await to.rack();
      const ids = (await to.takes()).takes.map(({ id }) => id);
      expect(reels.map(({ content }) => content.lanes[0].character)).toEqual([puppets[0].id]);
      expect(ids).toContain(reels[0].content.lanes[0].clips[0].take);
    }
    const { takes } = await to.takes({ text: 'Ebb' });
    const content = new Uint8Array(await (await fetch(`${to.base}/api/files/${takes[0].file}`)).arrayBuffer());
    expect(Buffer.from(content).equals(Buffer.from(walkBvh(1)))).toBeTrue();
  });

  it('leaves what the rack had decided already as it was', async () => {
    const other = await Served.start();
    const { files } = await other.upload(['mine.bvh', walkBvh(1)]);
    await other.edit('PATCH', `/api/takes/${files[0].takes[0].id}`, { name: 'Mine' });
    await other.edit('PUT', '/api/limits', { limits: { sink: { good: 1, fault: 2 } } });
    await other.upload(['rack.zip', archive]);
    expect((await other.rack()).limits.limits).toEqual({ sink: { good: 1, fault: 2 } });
    const page = await other.takes();
    expect(page.takes.map(({ name }) => name).sort()).toEqual(['Mine', 'flood', 'songs: high']);
    // Its skeleton had no decision of its own, so that of the backup is taken.
    expect((await other.rack()).skeletons.find(({ id }) => id === files[0].takes[0].skeleton)?.choices.facing).toBe(12);
    await other.stop();
  });

  it('that is damaged says so, and a list of nonsense brings nothing in', async () => {
    const parts = unzipSync(archive);
    const before = (await to.takes()).all;
    const brought = async (change: (parts: Record<string, Uint8Array>) => void): Promise<string | undefined> => {
      const copy = { ...parts };
      change(copy);
      const { [MANIFEST]: list, ...rest } = copy;
      const { files } = await from.upload(['rack.zip', zipSync({ [MANIFEST]: list, ...rest }) as Uint8Array<ArrayBuffer>]);
      return files.find(({ error }) => error)?.error?.message;
    };
    const listed = (list: unknown): ((p: Record<string, Uint8Array>) => void) => {
      const text = typeof list === 'string' ? list : JSON.stringify(list);
      return (p) => {
        p[MANIFEST] = strToU8(text);
        p[MANIFEST_HASH] = strToU8(createHash('sha256').update(text).digest('hex'));
      };
    };
    expect(await brought(listed('{'))).toContain('list cannot be read');
    const list = JSON.parse(strFromU8(parts[MANIFEST])) as { takes: { note: unknown }[]; files: { hash: string }[] };
    expect(await brought(listed({ ...list, takes: [{ ...list.takes[0], note: 7 }] }))).toMatch(/not as it should be at takes\.0\.note/);
    // A list that was changed on its way is not what was written, though it can be read.
    expect(await brought((p) => (p[MANIFEST] = strToU8(strFromU8(p[MANIFEST]).replace('with the gulls', 'with the crabs'))))).toContain(
      'is damaged',
    );
    expect(await brought((p) => void Reflect.deleteProperty(p, MANIFEST_HASH))).toContain('lacks its part');
    const empty = await Served.start();
    const cut = { ...parts };
    cut[`files/${list.files[0].hash}`] = strToU8('HIERARCHY');
    const { [MANIFEST]: first, ...rest } = cut;
    const { files } = await empty.upload(['rack.zip', zipSync({ [MANIFEST]: first, ...rest }) as Uint8Array<ArrayBuffer>]);
    expect(files[0].error?.message).toContain('is damaged');
    expect([(await empty.takes()).all, (await to.takes()).all]).toEqual([0, before]);
    await empty.stop();
  });

  it('damaged anywhere is refused or brought in whole, never by half, and never breaks the server', async () => {
    const rng = random(7);
    const other = await Served.start();
    for (let i = 0; i < 40; i++) {
      const copy = archive.slice();
      const at = rng.integer(0, copy.length - 1);
      if (i % 4 === 0) copy.fill(0, at, at + rng.integer(1, 400));
      else copy[at] ^= 1 << rng.integer(0, 7);
      const given = i % 4 === 3 ? copy.slice(0, at) : copy;
      const response = await other.post(['rack.zip', given]);
      expect([201, 422]).withContext(`damage ${i} at ${at}`).toContain(response.status);
      const { all } = await other.takes();
      expect([0, 3]).withContext(`damage ${i} at ${at}`).toContain(all);
      if (all === 3) {
        // Bytes that do not affect the contents, like a date, may differ.
        const [a, b] = [await readManifest(from.services.library.db), await readManifest(other.services.library.db)];
        expect(b.takes.map(({ name, note }) => [name, note]).sort()).toEqual(a.takes.map(({ name, note }) => [name, note]).sort());
        await empty(other);
      }
      expect(other.onTheWay()).toEqual([]);
    }
    await other.stop();
  });

  it('that is ended half way leaves nothing, and the same archive then brings everything', async () => {
    const other = await Served.start();
    const path = join(other.folder, 'rack.zip');
    writeFileSync(path, archive);
    for (const after of [1, 2, 3]) {
      const ending = new AbortController();
      let heard = 0;
      try {
        for await (const event of readBackup(path, 'rack.zip', other.services, ending.signal))
          if (event.kind !== 'failed' && ++heard === after) ending.abort();
      } catch (error) {
        expect(ending.signal.aborted).withContext(String(error)).toBeTrue();
      }
      expect([(await other.takes()).all, (await other.rack()).characters.length])
        .withContext(`ended after ${after}`)
        .toEqual([0, 0]);
    }
    // A kill between contents and rows leaves contents that nothing names: they are no rack.
    const whole = await readManifest(from.services.library.db);
    for (const { hash } of whole.files) copyFileSync(from.services.blobs.path(hash), other.services.blobs.path(hash));
    await other.upload(['rack.zip', archive]);
    expect((await other.takes()).takes.map(({ name }) => name).sort()).toEqual(['Ebb at dawn', 'flood', 'songs: high']);
    expect((await other.rack()).transfers.length).toBe(1);
    await other.stop();
  });
});

/** Takes everything off a rack, as if it had never been there. */
async function empty({ services }: Served): Promise<void> {
  const { db } = services.library;
  for (const table of [transfers, pairings, versions, takes, characters]) await db.delete(table);
  await db.update(skeletons).set({ referenceFile: null });
  for (const table of [files, skeletons, schemes, sets, poses, jointSchemes, presets, settings]) await db.delete(table);
}
