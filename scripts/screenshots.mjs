// Takes the pictures in docs/screenshots from the running application on a fresh rack of demo data.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { ROOT } from './bundle.mjs';
import { findChromium } from './chromium.mjs';

await build();
const { chromium } = await import('@playwright/test');
const port = 4795;
const base = `http://localhost:${port}`;
const data = mkdtempSync(join(tmpdir(), 'hollow-stride-shots-'));
const server = spawn(process.execPath, [join(ROOT, 'server/dist/main.js')], {
  env: { ...process.env, HOLLOW_STRIDE_PORT: String(port), HOLLOW_STRIDE_DATA: data, HOLLOW_STRIDE_LOG: 'error' },
  stdio: 'inherit',
});
try {
  for (
    let i = 0;
    i < 150 &&
    !(await fetch(`${base}/api/health`).then(
      (r) => r.ok,
      () => false,
    ));
    i++
  )
    await new Promise((r) => setTimeout(r, 200));
  const browser = await chromium.launch({
    executablePath: findChromium(),
    args: [
      '--no-sandbox',
      '--use-angle=swiftshader',
      '--enable-unsafe-swiftshader',
      '--ignore-gpu-blocklist',
      '--disable-background-networking',
    ],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const shot = (name) => page.screenshot({ path: join(ROOT, 'docs/screenshots', `${name}.png`) });
  const rack = (name) => page.locator('hs-rack .item, hs-item-row button.name').filter({ hasText: name }).click();
  /** The stage has drawn the character that is chosen, its mesh loaded. */
  const settled = async (file) => {
    await page.locator('hs-stage .tag').filter({ hasText: file }).waitFor();
    await page.locator('.state .spinner-border').waitFor({ state: 'detached' });
    await page.waitForTimeout(1500);
  };
  await page.goto(`${base}/gather`);
  await page.locator('hs-item-row').nth(15).waitFor();
  await rack(/Quay walk/);
  await rack(/Tide-King/);
  await page.locator('hs-gather .centre').evaluate((list) => list.scrollTo(0, 0));
  await page.waitForTimeout(1500);
  await shot('gather');
  await page.getByRole('link', { name: 'Open the take Crate lift' }).click();
  await page.locator('hs-curve canvas').waitFor();
  await page.getByRole('button', { name: 'Drop the rest frames' }).click();
  await page.getByRole('checkbox', { name: 'remove spikes' }).check();
  await page.getByRole('checkbox', { name: 'smooth the hips and legs' }).check();
  for (let i = 0; i < 14; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.waitForTimeout(2000);
  await shot('take');
  await page.goto(`${base}/gather/depot`);
  await page.getByRole('button', { name: /^Clap/ }).click();
  await page.locator('hs-transport').waitFor();
  await page.waitForTimeout(3000);
  await page.getByRole('button', { name: 'Pause' }).click();
  await page.waitForTimeout(500);
  await shot('depot');
  await page.goto(`${base}/gather/fit`);
  await page.getByRole('slider', { name: 'left.elbow, front' }).click();
  await page.waitForTimeout(2000);
  await shot('fit');
  await page.goto(`${base}/gather/desk`);
  await page.getByRole('combobox', { name: 'Motion' }).selectOption({ label: 'Quarter turn, left' });
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  for (const name of ['Tide-King', 'Heron', 'Apprentice']) {
    await page.getByRole('combobox', { name: 'Add a character' }).selectOption({ label: name });
  }
  await page
    .getByText(/^\s*delay/)
    .nth(2)
    .waitFor();
  await page.getByRole('button', { name: /Record take/ }).click();
  await page.getByRole('button', { name: 'Stop' }).waitFor();
  await page.waitForTimeout(2500);
  await shot('desk');
  await page.getByRole('button', { name: 'Stop' }).click();
  await page.getByText(/is on the rack: /).waitFor();
  await page.getByRole('button', { name: 'Disconnect' }).click();
  await page.goto(`${base}/label`);
  await rack(/Bellkeeper/);
  await page.locator('.tools').getByRole('button', { name: 'character', exact: true }).click();
  await page.getByRole('button', { name: /^left.lowerArm / }).click();
  await page.locator('hs-joint-tree').getByRole('treeitem', { name: /Twist/ }).first().click();
  await page.locator('.mistakes li').first().waitFor();
  await page.waitForTimeout(1500);
  await shot('label');
  await page.keyboard.press('Control+z');
  await page.waitForTimeout(800);
  await page.goto(`${base}/match`);
  await rack(/Limp home/);
  await rack(/Tide-King/);
  await page.locator('hs-dials .dial').first().waitFor();
  await page.locator('hs-dials').getByRole('slider', { name: 'left.upperArm' }).focus();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowUp');
  await page.getByRole('button', { name: 'Last frame' }).click();
  for (let i = 0; i < 40; i++) await page.getByRole('button', { name: 'One frame back' }).click();
  await page.waitForTimeout(2500);
  await shot('match');
  await page.getByRole('button', { name: 'Align all' }).click();
  await page.getByRole('button', { name: 'limb ladders' }).click();
  await page.waitForTimeout(2000);
  await shot('match-ladders');
  await page.goto(`${base}/solve`);
  await rack(/Heron/);
  await settled('heron.glb');
  for (let i = 0; i < 7; i++) await page.keyboard.press('n');
  await page.waitForTimeout(800);
  await shot('solve');
  await rack(/Crate lift/);
  await rack(/Ferryman/);
  await settled('ferryman.glb');
  await page.keyboard.press('Home');
  await page.keyboard.press('f');
  await page.keyboard.press('h');
  for (let i = 0; i < 8; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.getByLabel('Add a touch-up').selectOption('knees');
  await page.getByLabel('knees out, °').fill('14');
  await page.getByLabel('knees out, °').press('Enter');
  await page.getByRole('button', { name: 'Key of knees out' }).click();
  for (let i = 0; i < 14; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.getByLabel('knees out, °').fill('-6');
  await page.getByLabel('knees out, °').press('Enter');
  await page.getByRole('button', { name: /^right elbow/ }).focus();
  for (let i = 0; i < 9; i++) await page.keyboard.press('ArrowLeft');
  await page.locator('hs-lanes .bar').nth(7).click();
  await page.waitForTimeout(3000);
  await shot('solve-touch-ups');
  await rack(/Limp home/);
  await rack(/Heron/);
  await settled('heron.glb');
  await page.keyboard.press('h');
  await page.getByRole('button', { name: 'see-through' }).click();
  await page.getByRole('button', { name: 'character', exact: true }).click();
  await page.getByRole('button', { name: 'free', exact: true }).click();
  await page.getByRole('button', { name: 'look', exact: true }).click();
  for (const name of ['trails', 'footprints']) await page.getByLabel(name, { exact: true }).check();
  await page.keyboard.press('Escape');
  await page.getByLabel('Name of the new version').fill('as it came');
  await page.getByRole('button', { name: 'Keep as version' }).click();
  const step = page.locator('.character .print.solid').nth(2);
  await step.focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowUp');
  await page.getByLabel('Add a touch-up').selectOption('lean');
  await page.getByLabel('lean ahead, °').fill('9');
  await page.getByLabel('lean ahead, °').press('Enter');
  await page.getByRole('button', { name: 'Compare with as it came' }).click();
  await page.getByRole('columnheader', { name: 'as it came' }).waitFor();
  await page
    .locator('.notice')
    .first()
    .waitFor({ state: 'detached', timeout: 15_000 })
    .catch(() => undefined);
  await page.waitForTimeout(2500);
  await shot('solve-versions');
  await page.goto(`${base}/mend`);
  await rack(/Slow bow/);
  await rack(/Bellkeeper/);
  await settled('bellkeeper.glb');
  await page.keyboard.press('Home');
  for (let i = 0; i < 20; i++) await page.keyboard.press('Shift+ArrowRight');
  const layer = async (name) => {
    await page.getByRole('button', { name: 'Add a layer' }).click();
    await page.locator('.dropdown-menu.show').getByRole('button', { name }).click();
    await settled('bellkeeper.glb');
  };
  const drag = async (name, dx, dy) => {
    const knob = page.getByRole('button', { name });
    const { x, y } = await knob.boundingBox();
    await page.mouse.move(x + 7, y + 7);
    await page.mouse.down();
    await page.mouse.move(x + 7 + dx, y + 7 + dy, { steps: 8 });
    await page.mouse.up();
    await settled('bellkeeper.glb');
  };
  await layer(/^calm/);
  await layer(/^reach/);
  await drag('right.hand, drag', -40, -70);
  await page.getByRole('checkbox', { name: 'only for a time' }).check();
  await page.locator('hs-transport').getByRole('button', { name: 'Play' }).focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  await drag('right.hand, drag', 20, -30);
  await page.locator('hs-transport').getByRole('button', { name: 'Play' }).focus();
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await drag('right.hand, drag', -16, 26);
  await shot('mend');
  await page.getByRole('button', { name: 'curves' }).click();
  await page.locator('hs-curves canvas').focus();
  await page.keyboard.press('ArrowLeft');
  await page.waitForTimeout(1200);
  await shot('mend-curves');
  await page.goto(`${base}/mend/reel`);
  await page.getByLabel('Name of a new reel').fill('Parade');
  await page.getByRole('button', { name: 'New reel' }).click();
  await page.getByLabel('Character of a new lane').selectOption({ label: 'Ferryman' });
  await page.getByRole('button', { name: 'Add lane' }).click();
  await page.getByLabel('Take to put on the lane').fill('Quay walk');
  await page.getByRole('option', { name: 'Quay walk' }).click();
  await page.getByRole('button', { name: 'Add clip' }).click();
  await page.getByRole('button', { name: 'Find a cycle' }).click();
  await page.locator('hs-reel-lanes .clip').getByText('×4').waitFor({ timeout: 60_000 });
  await page.locator('.lane-name').first().click();
  await page.getByLabel('Take to put on the lane').fill('Limp home');
  await page.getByRole('option', { name: 'Limp home' }).click();
  await page.getByRole('button', { name: 'Add clip' }).click();
  await page.waitForTimeout(4000);
  await page.getByRole('button', { name: 'Join at the best place' }).click();
  await page.locator('hs-reel-lanes .overlap').waitFor({ timeout: 60_000 });
  await page.waitForTimeout(2000);
  await page.locator('.lane-name').first().click();
  for (const name of ['Heron', 'Apprentice', 'Lantern Bearer']) {
    await page.getByLabel('Character that does the same').selectOption({ label: name });
    await page.getByRole('button', { name: 'Does the same' }).click();
  }
  await page.locator('hs-reel .state .spinner-border').waitFor({ state: 'detached', timeout: 120_000 });
  await page.locator('hs-reel-lanes .clip').nth(1).click();
  for (let i = 0; i < 20; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.waitForTimeout(1500);
  await shot('reel');
  await page.goto(`${base}/match`);
  await rack(/Crane unloads/);
  await rack(/Little Crane/);
  await page.getByRole('button', { name: 'Pair joint by joint' }).click();
  await page.getByRole('list', { name: 'Joints of the character' }).getByRole('button', { name: /boom/ }).click();
  for (let i = 0; i < 24; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.waitForTimeout(2500);
  await shot('match-joints');
  // What comes behind looks at bodies alone.
  await page.keyboard.press('Control+z');
  await page.goto(`${base}/match/face`);
  await rack(/Town crier/);
  await rack(/Lantern Bearer/);
  await page.getByRole('button', { name: 'Find the clap' }).click();
  await page.locator('.notice').filter({ hasText: 'the clap is at one time' }).waitFor();
  await page.getByRole('option', { name: /leftSmile/ }).click();
  // The call is over: hands are down, and the face is proud of it.
  await page.locator('hs-face-time .curve').click({ position: { x: 700, y: 30 } });
  await page
    .getByRole('button', { name: 'Dismiss' })
    .first()
    .click()
    .catch(() => undefined);
  await page.waitForTimeout(2500);
  await shot('face');
  await page.goto(`${base}/check`);
  await rack(/Gangplank run/);
  await rack(/Apprentice/);
  await page.locator('hs-chart canvas').first().waitFor();
  await page.waitForTimeout(2500);
  const knee = page.getByRole('slider', { name: 'left knee, bend over the take' });
  await knee.focus();
  for (let i = 0; i < 20; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.waitForTimeout(1500);
  await shot('check');
  await rack(/Limp home/);
  await rack(/Ferryman/);
  await settled('ferryman.glb');
  await page.getByRole('button', { name: 'stride map', exact: true }).click();
  await page.getByRole('button', { name: 'measure' }).click();
  const prints = page.locator('hs-stride-map .character .print');
  for (const i of [4, 6]) {
    await prints.nth(i).focus();
    await page.keyboard.press('Enter');
  }
  await page.waitForTimeout(1000);
  await page.goto(`${base}/deliver`);
  await page.getByLabel('Name of the run').fill('Dress rehearsal');
  await page.getByRole('button', { name: /^Start: \d+ transfers$/ }).click();
  const run = page.getByRole('article', { name: 'Dress rehearsal' });
  await run.getByText(/(\d+) of \1 done/).waitFor({ timeout: 400_000 });
  await run.getByRole('button', { name: 'check' }).click();
  await page.locator('hs-check-grid .cell').nth(50).waitFor();
  await page.waitForTimeout(1500);
  await shot('check-grid');
  await page.goto(`${base}/deliver`);
  await page.getByRole('button', { name: /Download/ }).waitFor();
  await page.locator('.figures').waitFor();
  await page.getByLabel('Parade').check();
  await page.getByLabel('Name of the run').fill('Evening show');
  await page.getByLabel('fewer keys').last().check();
  await page.getByRole('button', { name: /^Start: \d+ transfers and \d+ lanes$/ }).click();
  await page
    .getByRole('article', { name: 'Evening show' })
    .getByText(/^[1-9]\d* of \d+ done/)
    .waitFor({ timeout: 60_000 });
  await page.locator('hs-deliver').evaluate((deliver) => deliver.scrollTo(0, deliver.querySelector('hs-run-builder').offsetTop - 60));
  await page.waitForTimeout(600);
  await shot('deliver');
  await browser.close();
} finally {
  server.kill('SIGTERM');
  await new Promise((resolve) => server.on('close', resolve));
  rmSync(data, { recursive: true, force: true });
}
