import { once } from 'node:events';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import { threadOf } from './threads';

describe('a worker thread', () => {
  it('imports its module and cannot require it: one that is ended while it requires takes the process with it', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'hollow-stride-thread-'));
    try {
      const path = join(folder, 'tide.mjs');
      writeFileSync(path, 'export const height = 3;');
      const code = `
        const { parentPort, workerData: { path, url } } = require('node:worker_threads');
        let code;
        try { require(path); } catch (error) { code = error.code; }
        import(url).then(({ height }) => parentPort.postMessage([code, height]));`;
      const { execArgv } = threadOf('worker', 'file:///server.js');
      const worker = new Worker(code, { eval: true, execArgv, workerData: { path, url: pathToFileURL(path).href } });
      expect(((await once(worker, 'message')) as unknown[])[0]).toEqual(['ERR_REQUIRE_ESM', 3]);
      await worker.terminate();
    } finally {
      rmSync(folder, { recursive: true });
    }
  });

  it('is started from its source beside a source, from its bundle beside a bundle', () => {
    expect(threadOf('worker', 'file:///a/src/runs/runner.ts', '..').filename).toBe('file:///a/src/worker.ts');
    expect(threadOf('worker', 'file:///a/dist/main.js', '..').filename).toBe('file:///a/dist/worker.js');
  });
});
