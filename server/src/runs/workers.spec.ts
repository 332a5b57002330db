import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { unzipSync } from 'fflate';
import * as v from 'valibot';
import { DEFAULT_OUTPUT, runItemsSchema, runSchema, type RunItemsJson } from '@hollow-stride/contract';
import { openServerDatabase } from '../db/server';
import { startPostgres, type PostgresServer } from '../testing/postgres';
import { programOf } from '../testing/program';
import { Served, walkBvh } from '../testing/serve';

describe('worker processes on one PostgreSQL server', () => {
  let postgres: PostgresServer | undefined;
  const workers: ChildProcess[] = [];
  beforeAll(async () => (postgres = await startPostgres()), 60_000);
  afterAll(async () => {
    for (const worker of workers) worker.kill('SIGKILL');
    await postgres?.stop();
  });

  it('share a run: each item is done once, and what a killed one held is taken up by the others', async () => {
    if (!postgres) return pending('PostgreSQL is not installed here');
    const database = await openServerDatabase(postgres.address);
    const served = await Served.start(database);
    const { files } = await served.upload(...Array.from({ length: 10 }, (_, i) => [`t${i}.bvh`, walkBvh(i + 1, 120)] as const));
    const all = files.map((file) => file.takes[0].id);
    const takes = all.slice(0, 6);
    const characters: string[] = [];
    for (const take of all)
      characters.push(((await (await served.send('POST', `/api/takes/${take}/as-character`, {})).json()) as { id: string }).id);
    const env = { ...process.env, HOLLOW_STRIDE_DATABASE: postgres.address, HOLLOW_STRIDE_DATA: served.folder, HOLLOW_STRIDE_LOG: 'error' };
    for (let i = 0; i < 3; i++) {
      const worker = spawn(process.execPath, [await programOf('workMain')], { env, stdio: ['ignore', 'pipe', 'ignore'] });
      workers.push(worker);
      await once(worker.stdout!, 'data');
    }
    const started = await served.send('POST', '/api/runs', { name: 'sixty', takes, characters, output: { ...DEFAULT_OUTPUT, loop: 0.1 } });
    const { id } = v.parse(runSchema, await started.json());
    const look = async (): Promise<RunItemsJson> => v.parse(runItemsSchema, await (await fetch(`${served.base}/api/runs/${id}`)).json());
    const until = async (done: number): Promise<RunItemsJson> => {
      for (;;) {
        const now = await look();
        if (now.run.done >= done) return now;
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
    };
    await until(8);
    workers[0].kill('SIGKILL');
    const { items, run } = await until(60);
    expect([run.done, run.failed]).toEqual([60, 0]);
    expect(new Set(items.map(({ fileName }) => fileName)).size).toBe(60);
    const parts = unzipSync(new Uint8Array(await (await fetch(`${served.base}/api/runs/${id}/zip`)).arrayBuffer()));
    expect(Object.keys(parts).filter((name) => name.startsWith('files/')).length).toBe(60);
    for (const worker of workers.slice(1)) {
      const ended = once(worker, 'exit');
      worker.kill('SIGTERM');
      await ended;
    }
    const { folder } = served;
    await served.stop();
    await database.close();
    rmSync(folder, { recursive: true, force: true });
  });
});
