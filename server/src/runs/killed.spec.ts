import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import * as v from 'valibot';
import { DEFAULT_OUTPUT, runItemsSchema, runSchema, uploadSchema, type RunItemsJson } from '@hollow-stride/contract';
import { readMotionFile } from '@hollow-stride/core';
import { programOf } from '../testing/program';
import { walkBvh } from '../testing/serve';

/** The server as a process of its own, that can be killed as a power cut kills it. */
class Process {
  private child: ChildProcess | undefined;

  constructor(
    private readonly folder: string,
    readonly port: number,
  ) {}

  get base(): string {
    return `http://localhost:${this.port}`;
  }

  async start(): Promise<void> {
    const env = {
      ...process.env,
      HOLLOW_STRIDE_PORT: String(this.port),
      HOLLOW_STRIDE_DATA: this.folder,
      HOLLOW_STRIDE_DEMO: 'no',
      HOLLOW_STRIDE_LOG: 'error',
    };
    this.child = spawn(process.execPath, [await programOf('main')], { env, stdio: 'ignore' });
    const gone = new Promise<never>((_, reject) => this.child!.once('exit', (code) => reject(new Error(`the server ended: ${code}`))));
    gone.catch(() => undefined);
    while (
      !(await Promise.race([
        fetch(`${this.base}/api/health`).then(
          (r) => r.ok,
          () => false,
        ),
        gone,
      ]))
    )
      await new Promise((resolve) => setTimeout(resolve, 50));
  }

  async kill(): Promise<void> {
    const ended = new Promise((resolve) => this.child!.once('exit', resolve));
    this.child!.kill('SIGKILL');
    await ended;
  }
}

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  await new Promise((resolve) => server.close(resolve));
  return port;
}

describe('a run whose server is killed on the way', () => {
  const folder = mkdtempSync(join(tmpdir(), 'hollow-stride-killed-'));
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  it('goes on where it was: every file is right at the end, nothing twice, nothing half-written', async () => {
    const server = new Process(folder, await freePort());
    await server.start();
    const form = new FormData();
    for (const [i, seed] of [1, 2, 3].entries()) form.append('file', new Blob([walkBvh(seed, 300)]), `take-${i}.bvh`);
    const { files } = v.parse(uploadSchema, await (await fetch(`${server.base}/api/files`, { method: 'POST', body: form })).json());
    const takes = files.map((file) => file.takes[0].id);
    const characters: string[] = [];
    for (const take of takes.slice(0, 3)) {
      const response = await fetch(`${server.base}/api/takes/${take}/as-character`, { method: 'POST' });
      characters.push(((await response.json()) as { id: string }).id);
    }
    const started = await fetch(`${server.base}/api/runs`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'storm', takes, characters, output: DEFAULT_OUTPUT }),
    });
    const { id } = v.parse(runSchema, await started.json());
    const look = async (): Promise<RunItemsJson> => v.parse(runItemsSchema, await (await fetch(`${server.base}/api/runs/${id}`)).json());
    const until = async (done: number): Promise<RunItemsJson> => {
      for (;;) {
        const now = await look();
        if (now.run.done >= done) return now;
        await new Promise((resolve) => setTimeout(resolve, 30));
      }
    };
    const before = new Map<string, number | null>();
    for (const done of [1, 4]) {
      for (const item of (await until(done)).items) if (item.state === 'done') before.set(item.id, item.seconds);
      await server.kill();
      await server.start();
    }
    const { items, run } = await until(9);
    expect([run.done, run.failed, run.waiting, run.working]).toEqual([9, 0, 0, 0]);
    // Items done before the power went were not done again.
    for (const item of items) if (before.has(item.id)) expect(item.seconds).toBe(before.get(item.id)!);
    const parts = unzipSync(new Uint8Array(await (await fetch(`${server.base}/api/runs/${id}/zip`)).arrayBuffer()));
    const names = Object.keys(parts).filter((name) => name.startsWith('files/'));
    expect(names.length).toBe(9);
    for (const name of names) expect((await readMotionFile(parts[name], name)).clips[0].frames).toBe(300);
    await server.kill();
  });
});
