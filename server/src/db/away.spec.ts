import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import * as v from 'valibot';
import { DEFAULT_OUTPUT, runItemsSchema, runSchema, uploadSchema, type RunItemsJson } from '@hollow-stride/contract';
import { readMotionFile } from '@hollow-stride/core';
import { Library } from '../library';
import { matchRack } from '../rackId';
import { startPostgres, type PostgresServer } from '../testing/postgres';
import { listenTo, programOf } from '../testing/program';
import { walkBvh } from '../testing/serve';
import { isAway, Patience } from './away';
import { openServerDatabase } from './server';

/** How often the database goes away while a run is worked on. */
const RESTARTS = 8;

describe('a database that goes away', () => {
  let postgres: PostgresServer | undefined;
  let data: string;
  const programs: ChildProcess[] = [];
  beforeAll(async () => {
    data = mkdtempSync(join(tmpdir(), 'hollow-stride-away-'));
    postgres = await startPostgres();
  });
  afterAll(async () => {
    for (const program of programs) program.kill('SIGKILL');
    await postgres?.stop();
    rmSync(data, { recursive: true, force: true });
  });

  async function start(
    name: 'main' | 'workMain',
    folder = data,
  ): Promise<{ child: ChildProcess; text: () => string; said: (pattern: RegExp) => Promise<string> }> {
    const env = {
      ...process.env,
      HOLLOW_STRIDE_DATABASE: postgres!.address,
      HOLLOW_STRIDE_DATA: folder,
      HOLLOW_STRIDE_PORT: '0',
      HOLLOW_STRIDE_DEMO: 'no',
      HOLLOW_STRIDE_LOG: 'info',
    };
    const child = spawn(process.execPath, [await programOf(name)], { env, stdio: ['ignore', 'pipe', 'pipe'] });
    programs.push(child);
    const { text, said } = listenTo(child);
    return { child, text, said };
  }

  it('is waited for: nobody ends, nothing is lost, nothing is done twice, however often it happens', async () => {
    if (!postgres) return pending('PostgreSQL is not installed here');
    // A worker may be there before its database and its server are.
    await postgres.restart();
    const early = await start('workMain');
    const server = await start('main');
    const base = await server.said(/(http:\/\/localhost:\d+)/);
    await early.said(/waits for runs/);
    const late = await start('workMain');
    await late.said(/waits for runs/);
    const form = new FormData();
    for (let i = 0; i < 6; i++) form.append('file', new Blob([walkBvh(i + 1, 200)]), `t${i}.bvh`);
    const { files } = v.parse(uploadSchema, await (await fetch(`${base}/api/files`, { method: 'POST', body: form })).json());
    const takes = files.map((file) => file.takes[0].id);
    const characters: string[] = [];
    for (const take of takes)
      characters.push(((await (await fetch(`${base}/api/takes/${take}/as-character`, { method: 'POST' })).json()) as { id: string }).id);
    const started = await fetch(`${base}/api/runs`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'storm', takes, characters, output: DEFAULT_OUTPUT }),
    });
    const { id } = v.parse(runSchema, await started.json());
    const look = async (): Promise<RunItemsJson | undefined> => {
      const response = await fetch(`${base}/api/runs/${id}`);
      // While it is away that is what is said, and nothing else.
      if (response.status === 503) return undefined;
      return v.parse(runItemsSchema, await response.json());
    };
    const until = async (done: number): Promise<RunItemsJson> => {
      for (;;) {
        const now = await look();
        if (now && now.run.done >= done) return now;
        await new Promise((resolve) => setTimeout(resolve, 30));
      }
    };
    const seconds = new Map<string, number | null>();
    for (let i = 0; i < RESTARTS; i++) {
      for (const item of (await until(2 + 3 * i)).items) if (item.state === 'done') seconds.set(item.id, item.seconds);
      await postgres.restart(i % 2 === 0 ? 0 : 600);
    }
    const { items, run } = await until(36);
    expect([run.done, run.failed, run.waiting, run.working]).toEqual([36, 0, 0, 0]);
    for (const item of items) if (seconds.has(item.id)) expect(item.seconds).toBe(seconds.get(item.id)!);
    const parts = unzipSync(new Uint8Array(await (await fetch(`${base}/api/runs/${id}/zip`)).arrayBuffer()));
    const names = Object.keys(parts).filter((name) => name.startsWith('files/'));
    expect(names.length).toBe(36);
    for (const name of names) expect((await readMotionFile(parts[name], name)).clips[0].frames).toBe(200);
    expect(((await (await fetch(`${base}/api/takes`)).json()) as { all: number }).all).toBe(6);
    for (const { child, text } of [early, server, late]) {
      expect([child.exitCode, child.signalCode]).withContext(text()).toEqual([null, null]);
      // Said once each time, not with every try.
      expect((text().match(/does not answer; waiting/g) ?? []).length).toBeLessThanOrEqual(RESTARTS + 1);
    }
    // A second server with another folder would show takes whose files it does not have.
    const other = mkdtempSync(join(tmpdir(), 'hollow-stride-other-'));
    const wrong = await start('main', other);
    expect(await wrong.said(/cannot start: (.*)/)).toMatch(/belongs to another data folder .* lacks 6 of its files/);
    const wrongWorker = await start('workMain', other);
    expect(await wrongWorker.said(/cannot start: (.*)/)).toContain('belongs to another data folder');
    // A copy of the folder, without its mark, is taken for what it is.
    const copy = mkdtempSync(join(tmpdir(), 'hollow-stride-copy-'));
    const database = await openServerDatabase(postgres.address);
    const library = new Library(database.db);
    await expectAsync(matchRack(library, copy)).toBeRejectedWithError(/lacks 6/);
    expect(existsSync(join(copy, 'rack-id'))).toBeFalse();
    await matchRack(library, data);
    await database.close();
    for (const { child } of [early, server, late]) {
      const ended = once(child, 'exit');
      child.kill('SIGTERM');
      expect((await ended)[0]).toBe(0);
    }
    expect(readdirSync(join(data, 'results', 'incoming'))).toEqual([]);
    for (const folder of [other, copy]) rmSync(folder, { recursive: true });
  });

  it('is told from one that refuses, whatever the error is wrapped in', () => {
    const coded = (code: string): Error => Object.assign(new Error('x'), { code });
    expect(isAway(new Error('query', { cause: new Error('inner', { cause: coded('57P01') }) }))).toBeTrue();
    expect(isAway(new AggregateError([coded('ECONNREFUSED')]))).toBeTrue();
    expect(isAway(new Error('Connection terminated unexpectedly'))).toBeTrue();
    expect([isAway(coded('23505')), isAway(coded('28P01')), isAway('no error'), isAway(new Error('other'))]).toEqual([
      false,
      false,
      false,
      false,
    ]);
  });

  it('is asked again until it answers, with one word when it goes and one when it is back; another error is not waited for', async () => {
    const said: boolean[] = [];
    const patience = new Patience((away) => said.push(away), 1);
    let tries = 0;
    const answer = await patience.of(() =>
      ++tries < 4 ? Promise.reject(Object.assign(new Error('gone'), { code: 'ECONNREFUSED' })) : Promise.resolve('here'),
    );
    expect([answer, tries, said]).toEqual(['here', 4, [true, false]]);
    await expectAsync(patience.of(() => Promise.reject(new Error('refused')))).toBeRejectedWithError('refused');
    const waiting = patience.of(() => Promise.reject(Object.assign(new Error('gone'), { code: 'ECONNREFUSED' })));
    patience.end();
    await expectAsync(waiting).toBeRejectedWithError('gone');
  });
});
