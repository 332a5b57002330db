import { defineConfig } from '@playwright/test';

/** Pages that the browser opens for its own address bar beside each page of a test. */
const OWN_PAGES = ['WebUIOmniboxPopup', 'WebUIOmniboxAimPopup', 'WebUIOmniboxFullPopup'];
/** What Playwright leaves out by the same switch, of which only the last counts. */
const ANY_PAGE = ['AvoidUnnecessaryBeforeUnloadCheckSync', 'DestroyProfileOnBrowserClose', 'HttpsUpgrades', 'MediaRouter', 'PaintHolding'];

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  outputDir: '../test-results',
  workers: 2,
  timeout: 300_000,
  expect: { timeout: 60_000 },
  reporter: [['list'], ['json', { outputFile: '../test-results/e2e.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    // No test looks at single pixels of the picture, which the processor has to draw.
    deviceScaleFactor: 0.5,
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
        // Drawn by the processor anyhow, a page costs a fifth less where it is not put together as if by a graphics card.
        '--disable-gpu-compositing',
        `--disable-features=${[...OWN_PAGES, ...ANY_PAGE].join(',')}`,
      ],
    },
  },
});
