import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, request as httpRequest, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import * as v from 'valibot';
import { errorSchema, rackSchema, uploadSchema, type RackJson, type SaveTransfer, type UploadJson } from '@hollow-stride/contract';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON, DEFAULT_TAKE, writeBvh, type BvhLayout } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { makeApp } from './app';
import { Blobs } from './blobs';
import { readConfig } from './config';
import { Depot } from './depot/depot';
import { openDatabase, type OpenDatabase } from './db/open';
import { Library } from './library';
import { takeLock } from './lock';
import { makePool, type Pool } from './pool';
import { seedDemo } from './seed';

function bvh(seed: number, frames: number): Uint8Array<ArrayBuffer> {
  const shape = randomShape(seed, { spine: 2, neck: 1, clavicles: true });
  const file = makeFile(shape, { metres: 0.01 }, walk(shape, { seed, frames }));
  return writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout);
}

describe('the server', () => {
  let folder: string;
  let database: OpenDatabase;
  let pool: Pool;
  let server: Server;
  let base: string;

  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'hollow-stride-'));
    database = await openDatabase(undefined);
    pool = makePool();
    const services = { blobs: new Blobs(join(folder, 'files')), library: new Library(database.db), pool, depot: new Depot(1) };
    server = createServer(makeApp(services, pino({ level: 'silent' }), join(folder, 'no-web')));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  }, 60_000);

  afterAll(async () => {
    await new Promise((resolve) => server.close(resolve));
    await pool.close();
    await database.close();
    rmSync(folder, { recursive: true });
  });

  const rack = async (): Promise<RackJson> => v.parse(rackSchema, await (await fetch(`${base}/api/rack`)).json());

  async function upload(...files: readonly (readonly [string, Uint8Array<ArrayBuffer> | string])[]): Promise<UploadJson> {
    const form = new FormData();
    for (const [name, content] of files) form.append('file', new Blob([content]), name);
    const response = await fetch(`${base}/api/files`, { method: 'POST', body: form });
    expect(response.status).toBe(201);
    return v.parse(uploadSchema, await response.json());
  }

  const send = (method: string, path: string, body: unknown): Promise<Response> =>
    fetch(`${base}${path}`, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

  async function refusal(response: Response, status: number): Promise<string> {
    expect(response.status).toBe(status);
    return v.parse(errorSchema, await response.json()).error.message;
  }

  it('takes files in, says what they hold, and gives their content back', async () => {
    const content = bvh(1, 30);
    const { files } = await upload(['walk one.bvh', content]);
    const [take] = files[0].takes;
    expect([take.name, take.facts.clips[0].frames, take.facts.body?.unit.unit]).toEqual(['walk one', 30, 'cm']);
    expect(files[0].characters).toEqual([]);
    const back = await fetch(`${base}/api/files/${take.file}`);
    expect(new Uint8Array(await back.arrayBuffer())).toEqual(content);
    expect(back.headers.get('content-disposition')).toContain('walk%20one.bvh');
  }, 30_000);

  it('knows the same content again', async () => {
    const first = await upload(['a.bvh', bvh(2, 20)]);
    const second = await upload(['b.bvh', bvh(2, 20)]);
    expect([first.files[0].known, second.files[0].known]).toEqual([false, true]);
    expect(second.files[0].takes[0].id).toBe(first.files[0].takes[0].id);
  });

  it('refuses a broken file with reason and place, and keeps the good ones beside it', async () => {
    const { files } = await upload(['good.bvh', bvh(3, 20)], ['bad.bvh', 'HIERARCHY\nROOT a\n{\n OFFSET x 0 0'], ['empty.glb', '']);
    expect(files.map((f) => f.takes.length)).toEqual([1, 0, 0]);
    expect(files[1].error).toEqual({
      code: 'bvh/number',
      message: jasmine.any(String) as never,
      where: { file: 'bad.bvh', line: 4, joint: 'a' },
    });
    expect(files[2].error?.code).toBe('file/empty');
    expect(readdirSync(join(folder, 'files', 'incoming'))).toEqual([]);
  });

  it('renames, removes and brings back', async () => {
    const [take] = (await upload(['c.bvh', bvh(4, 20)])).files[0].takes;
    expect((await send('PATCH', `/api/takes/${take.id}`, { name: '  Night watch ' })).status).toBe(204);
    expect((await rack()).takes.find((t) => t.id === take.id)?.name).toBe('Night watch');
    await send('PATCH', `/api/takes/${take.id}`, { removed: true });
    expect((await rack()).takes.some((t) => t.id === take.id)).toBeFalse();
    await send('PATCH', `/api/takes/${take.id}`, { removed: false });
    expect((await rack()).takes.some((t) => t.id === take.id)).toBeTrue();
  });

  it('makes a character of a performer, keeps a transfer once a pair, and remembers its choices', async () => {
    const [take] = (await upload(['d.bvh', bvh(5, 20)])).files[0].takes;
    const made = await fetch(`${base}/api/takes/${take.id}/as-character`, { method: 'POST' });
    const character = (await made.json()) as { id: string };
    const request: SaveTransfer = {
      take: take.id,
      character: character.id,
      choices: { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS },
      summary: {
        frames: 20,
        good: 18,
        cautions: 1,
        faults: 0,
        unseen: 2,
        worst: 'slide is 6.0 mm/s',
        figures: { slide: 6, 'held.hands': null },
      },
    };
    expect((await send('PUT', '/api/transfers', request)).status).toBe(200);
    await send('PUT', '/api/transfers', { ...request, choices: { ...request.choices, stride: 'marks' } });
    const now = await rack();
    expect(now.transfers.filter((t) => t.take === take.id).map((t) => t.choices.stride)).toEqual(['marks']);
    expect(now.pairings.find((p) => p.performer === take.skeleton)?.choices.stride).toBe('marks');
  });

  it('puts takes of one performer together, whatever their prefix, and keeps what is decided about the skeleton for all', async () => {
    const shape = randomShape(71, { clavicles: true, spine: 2 });
    const styled = (prefix: string, seed: number): Uint8Array<ArrayBuffer> => {
      const file = makeFile(shape, { metres: 0.01, names: (role) => prefix + role }, walk(shape, { seed, frames: 20 }));
      return writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout);
    };
    const { files } = await upload(['one.bvh', styled('one:', 1)], ['two.bvh', styled('two:', 2)]);
    const [one, two] = files.map((f) => f.takes[0]);
    expect(one.skeleton).toBe(two.skeleton);
    const labels = { hips: 'hips' };
    expect((await send('PATCH', `/api/skeletons/${one.skeleton}`, { choices: { ...DEFAULT_SKELETON, labels } })).status).toBe(204);
    expect((await rack()).skeletons.find((k) => k.id === two.skeleton)?.choices.labels).toEqual(labels);
    expect(await refusal(await send('PATCH', `/api/skeletons/${one.skeleton}`, { choices: { labels: 3 } }), 400)).toContain('choices');
  });

  it('keeps tags, a note and settings of a take, and refuses handles that are crossed', async () => {
    const [take] = (await upload(['t.bvh', bvh(8, 20)])).files[0].takes;
    const choices = { ...DEFAULT_TAKE, from: 0.1, to: 0.4 };
    expect((await send('PATCH', `/api/takes/${take.id}/settings`, { tags: ['quay'], note: 'second try', choices })).status).toBe(204);
    const now = (await rack()).takes.find((t) => t.id === take.id)!;
    expect([now.tags, now.note, now.choices]).toEqual([['quay'], 'second try', choices]);
    const crossed = { choices: { ...choices, from: 0.5 } };
    expect(await refusal(await send('PATCH', `/api/takes/${take.id}/settings`, crossed), 400)).toContain('before the out handle');
  });

  it('keeps naming schemes', async () => {
    const scheme = { format: 'hollow-stride/naming-scheme', version: 1, name: 'guild', roles: { hips: 'seat' } };
    const made = (await (await send('POST', '/api/schemes', scheme)).json()) as { id: string };
    expect((await rack()).schemes.find(({ id }) => id === made.id)?.scheme.name).toBe('guild');
    await send('PATCH', `/api/schemes/${made.id}`, { name: 'old guild' });
    expect((await rack()).schemes.find(({ id }) => id === made.id)?.scheme.name).toBe('old guild');
    await send('PATCH', `/api/schemes/${made.id}`, { removed: true });
    expect((await rack()).schemes.some(({ id }) => id === made.id)).toBeFalse();
    expect(await refusal(await send('POST', '/api/schemes', { ...scheme, roles: {} }), 400)).toContain('holds no role');
  });

  it('answers bad requests with a reason', async () => {
    expect(await refusal(await send('PATCH', '/api/takes/not-an-id', { name: 'x' }), 400)).toContain('UUID');
    expect(await refusal(await send('PATCH', '/api/takes/00000000-0000-4000-8000-000000000000', { name: 'x' }), 404)).toContain(
      'not on the rack',
    );
    expect(await refusal(await send('PATCH', '/api/takes/00000000-0000-4000-8000-000000000000', {}), 400)).toContain('nothing to change');
    expect(await refusal(await send('PATCH', '/api/spoons/00000000-0000-4000-8000-000000000000', { name: 'x' }), 400)).toContain('spoons');
    expect(await refusal(await send('PUT', '/api/transfers', { take: 1 }), 400)).toContain('take');
    expect(await refusal(await fetch(`${base}/api/files/../../etc`), 404)).toContain('nothing at');
    expect(await refusal(await fetch(`${base}/api/files/abc`), 400)).toContain('SHA-256');
    expect(await refusal(await send('POST', '/api/files', {}), 415)).toContain('multipart');
    expect(
      (await fetch(`${base}/api/transfers`, { method: 'PUT', headers: { 'content-type': 'application/json' }, body: '{' })).status,
    ).toBe(400);
    expect(
      (
        await fetch(`${base}/api/schemes`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify('x'.repeat(70_000)),
        })
      ).status,
    ).toBe(413);
  });

  it('answers on its own names and to its own page only', async () => {
    const status = (headers: Record<string, string>, method = 'GET'): Promise<number> =>
      new Promise((resolve, reject) => {
        const call = httpRequest(`${base}/api/rack`, { method, headers }, (response) => {
          response.resume();
          resolve(response.statusCode ?? 0);
        });
        call.on('error', reject);
        call.end();
      });
    expect(await status({ host: 'evil.example' })).toBe(403);
    expect(await status({ host: 'localhost:1234' })).toBe(200);
    expect(await status({ origin: 'http://evil.example' }, 'POST')).toBe(403);
    expect(await status({ 'sec-fetch-site': 'cross-site' }, 'POST')).toBe(403);
    const response = await fetch(`${base}/api/health`);
    expect(response.headers.get('content-security-policy')).toContain("default-src 'self'");
  });

  it('leaves nothing behind of an upload that is broken off', async () => {
    const before = (await rack()).takes.length;
    await new Promise<void>((resolve) => {
      const call = httpRequest(`${base}/api/files`, {
        method: 'POST',
        headers: { 'content-type': 'multipart/form-data; boundary=b', 'content-length': '100000' },
      });
      call.on('error', () => resolve());
      call.write('--b\r\nContent-Disposition: form-data; name="file"; filename="half.bvh"\r\n\r\nHIERARCHY\n', () => call.destroy());
    });
    const incoming = join(folder, 'files', 'incoming');
    while (readdirSync(incoming).length > 0) await new Promise((resolve) => setImmediate(resolve));
    expect((await fetch(`${base}/api/health`)).status).toBe(200);
    expect((await rack()).takes.length).toBe(before);
  });

  it('fills an empty rack with the demo production, once', async () => {
    const own = await openDatabase(undefined);
    const services = { blobs: new Blobs(join(folder, 'demo')), library: new Library(own.db), pool, depot: new Depot(1) };
    await seedDemo(services, pino({ level: 'silent' }));
    await seedDemo(services, pino({ level: 'silent' }));
    const { takes, characters } = await services.library.rack();
    expect([takes.length, takes[0].name, takes[11].name]).toEqual([12, 'Quay walk', "Town crier's call"]);
    expect(characters.map((c) => c.name)).toEqual(['Ferryman', 'Heron', 'Apprentice', 'Bellkeeper', 'Tide-King', 'Lantern Bearer']);
    // One performer plays all takes; the characters each stand on a skeleton of their own.
    expect(new Set(takes.map((t) => t.skeleton)).size).toBe(1);
    expect(new Set([...takes, ...characters].map((t) => t.skeleton)).size).toBe(7);
    expect(takes.every((t) => t.isDemo)).toBeTrue();
    await own.close();
  }, 60_000);
});

describe('the lock of a data folder', () => {
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'hollow-stride-lock-'))));
  afterEach(() => rmSync(folder, { recursive: true }));

  it('keeps a second process out, and is taken over from one that is gone', () => {
    writeFileSync(join(folder, 'lock'), String(process.ppid));
    expect(() => takeLock(folder)).toThrowError(new RegExp(`in use by process ${process.ppid}`));
    writeFileSync(join(folder, 'lock'), '999999999');
    const lock = takeLock(folder);
    expect(existsSync(join(folder, 'lock'))).toBeTrue();
    lock.release();
    expect(existsSync(join(folder, 'lock'))).toBeFalse();
  });
});

describe('the configuration', () => {
  it('takes ports only', () => {
    expect(readConfig({ HOLLOW_STRIDE_PORT: '0' }).port).toBe(0);
    expect(() => readConfig({ HOLLOW_STRIDE_PORT: 'door' })).toThrowError(/port number/);
  });
});
