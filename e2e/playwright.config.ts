import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';

const port = Number(process.env['HOLLOW_STRIDE_E2E_PORT'] ?? 4791);
const data = (process.env['HOLLOW_STRIDE_E2E_DATA'] ??= mkdtempSync(join(tmpdir(), 'hollow-stride-e2e-')));

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  outputDir: '../test-results',
  workers: 1,
  timeout: 300_000,
  expect: { timeout: 60_000 },
  reporter: [['list'], ['json', { outputFile: '../test-results/e2e.json' }]],
  use: {
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: process.env['CHROME_BIN'] ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--ignore-gpu-blocklist',
        '--disable-background-networking',
      ],
    },
  },
  webServer: {
    command: 'node ../server/dist/main.js',
    url: `http://localhost:${port}/api/health`,
    timeout: 120_000,
    reuseExistingServer: false,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 5000 },
    env: { HOLLOW_STRIDE_PORT: String(port), HOLLOW_STRIDE_DATA: data, HOLLOW_STRIDE_LOG: 'warn' },
  },
});
