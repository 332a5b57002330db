// The real application, one for each worker: journeys of two files run side by side, and neither sees what the other leaves behind.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test as base, type APIRequestContext } from '@playwright/test';

export { expect } from '@playwright/test';
export type { Locator, Page } from '@playwright/test';

/** Ports from this one on, one for each worker. */
const PORT = Number(process.env['HOLLOW_STRIDE_E2E_PORT'] ?? 4791);
/** A first start makes the demo, seconds. */
const STARTS = 120;

export const test = base.extend<object, { readonly address: string }>({
  address: [
    async ({ playwright }, use, { parallelIndex }) => {
      const data = mkdtempSync(join(process.env['HOLLOW_STRIDE_E2E_DATA'] ?? tmpdir(), 'hollow-stride-e2e-'));
      const port = PORT + parallelIndex;
      const server = spawn(process.execPath, [join(import.meta.dirname, '..', 'server', 'dist', 'main.js')], {
        env: { ...process.env, HOLLOW_STRIDE_PORT: String(port), HOLLOW_STRIDE_DATA: data, HOLLOW_STRIDE_LOG: 'warn' },
        stdio: 'inherit',
      });
      const ended = once(server, 'exit');
      const address = `http://localhost:${port}`;
      const api = await playwright.request.newContext();
      try {
        await answering(api, `${address}/api/health`, ended);
        await use(address);
      } finally {
        await api.dispose();
        server.kill('SIGTERM');
        await ended;
        rmSync(data, { recursive: true, force: true });
      }
    },
    { scope: 'worker', auto: true, timeout: STARTS * 1000 },
  ],
  baseURL: ({ address }, use) => use(address),
});

/** Waits until a server answers; fails where it ends before that. */
async function answering(api: APIRequestContext, url: string, ended: Promise<unknown>): Promise<void> {
  let isOver = false;
  void ended.then(() => (isOver = true));
  for (;;) {
    if (isOver) throw new Error('the server ended before it answered');
    const response = await api.get(url).catch(() => undefined);
    if (response?.ok()) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}
