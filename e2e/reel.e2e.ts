import { expect, test, type Page } from './app';
import { readFile } from 'node:fs/promises';
import { unzipSync } from 'fflate';
import { readMotionFile } from '@hollow-stride/core';
import { plainName } from '@hollow-stride/core/testing/index';
import { characterFile, drop, takeFile } from './files';
import { readPlainBvh, type PlainMotion } from './plainBvh';

const FPS = 60;

async function played(page: Page): Promise<void> {
  await expect(page.locator('hs-reel .state .spinner-border')).toHaveCount(0, { timeout: 30_000 });
}

async function lane(page: Page): Promise<PlainMotion> {
  await played(page);
  const waiting = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download lane as BVH' }).click();
  return readPlainBvh(await readFile(await (await waiting).path()));
}

test('two walks are joined on a reel, one is looped, a second figure does the same later, and feet stand in the file', async ({ page }) => {
  const first = takeFile('paradeOne.bvh', 721, 300);
  const other = takeFile('paradeTwo.bvh', 722, 240);
  await page.goto('/');
  await page.locator('hs-item-row').nth(15).waitFor();
  await drop(page, first, other, await characterFile('marcher.glb', 723), await characterFile('drummer.glb', 724));
  await page.locator('hs-item-row button.name').filter({ hasText: 'drummer' }).waitFor();
  await page.keyboard.press('5');
  await page.getByRole('link', { name: 'reel', exact: true }).click();

  // By the keyboard: a reel, a lane, two clips.
  await page.getByLabel('Name of a new reel').fill('Parade of the test');
  await page.getByLabel('Name of a new reel').press('Enter');
  await page.getByLabel('Character of a new lane').selectOption({ label: 'marcher' });
  await page.getByRole('button', { name: 'Add lane' }).press('Enter');
  for (const name of ['paradeOne', 'paradeTwo']) {
    await page.locator('.lane-name').first().press('Enter');
    await page.getByLabel('Take to put on the lane').fill(name);
    await page.getByRole('option', { name }).waitFor();
    await page.getByLabel('Take to put on the lane').press('Enter');
    await page.getByRole('button', { name: 'Add clip' }).press('Enter');
    await played(page);
  }
  const bars = page.locator('hs-reel-lanes .clip');
  await expect(bars).toHaveCount(2);
  await page.getByRole('button', { name: 'Join at the best place' }).press('Enter');
  await expect(page.getByText(/joined where poses are \d+ mm apart/).first()).toBeVisible();
  await played(page);
  await expect(bars.nth(1)).toHaveAttribute('aria-label', /gone over into/);

  await page.locator('.lane-name').first().click();
  const joined = await lane(page);
  expect(joined.frameTime).toBeCloseTo(1 / FPS, 4);
  // Wherever a foot is, it either goes on or stands: no foot creeps where clips are mixed.
  expect(creeping(joined, plainName('left.foot'))).toBeLessThan(0.3);
  expect(creeping(joined, plainName('right.foot'))).toBeLessThan(0.3);

  // By the pointer: the second clip is dragged away, and the figure waits in between; undone again.
  const box = (await bars.nth(1).boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 60, box.y + box.height / 2, { steps: 5 });
  await page.mouse.up();
  await played(page);
  await expect(bars.nth(1)).not.toHaveAttribute('aria-label', /gone over into/);
  await page.keyboard.press('Control+z');
  await expect(bars.nth(1)).toHaveAttribute('aria-label', /gone over into/);

  // A cycle of the first walk, as often as it is told, and a drummer who does the same later.
  await bars.nth(1).click();
  await page.locator('hs-clip-panel').getByRole('button', { name: 'Remove' }).click();
  await bars.first().click();
  await page.getByRole('button', { name: 'Find a cycle' }).click();
  await expect(page.getByText(/a cycle of 1\.\d+ s/).first()).toBeVisible();
  await played(page);
  await page.locator('.lane-name').first().click();
  await page.getByLabel('Character that does the same').selectOption({ label: 'drummer' });
  await page.getByRole('button', { name: 'Does the same' }).click();
  await expect(page.locator('.lane-name')).toHaveCount(2);
  await played(page);
  const looped = await lane(page);
  // Four times the cycle: each takes the hips as far as the one before.
  const period = (looped.frames - 1) / 4;
  const at = (f: number): readonly number[] => looped.place(plainName('hips'), Math.round(f));
  const ways = [1, 2, 3, 4].map((i) =>
    Math.hypot(at(i * period)[0] - at((i - 1) * period)[0], at(i * period)[2] - at((i - 1) * period)[2]),
  );
  expect(Math.min(...ways)).toBeGreaterThan(0);
  expect(Math.max(...ways) / Math.min(...ways)).toBeLessThan(1.03);

  // The same by a run of the server: a file for each figure, judged, from whose cell the lane is opened again.
  await page.keyboard.press('7');
  const builder = page.locator('hs-run-builder');
  await builder.getByRole('button', { name: 'none', exact: true }).press('Enter');
  await builder.getByLabel('Parade of the test').check();
  await builder.getByLabel('Name of the run').fill('Parade run');
  await builder.getByRole('button', { name: 'Start: 2 lanes' }).press('Enter');
  const run = page.getByRole('article', { name: 'Parade run' });
  await expect(run.getByRole('status')).toHaveText('2 of 2 done', { timeout: 30_000 });
  const zip = page.waitForEvent('download');
  await run.getByRole('link', { name: 'zip' }).click();
  const parts = unzipSync(new Uint8Array(await readFile(await (await zip).path())));
  const written = Object.keys(parts).filter((name) => name.startsWith('files/'));
  expect(written).toHaveLength(2);
  const frames = await Promise.all(written.map(async (name) => (await readMotionFile(parts[name], name)).clips[0].frames));
  expect(frames).toContain(looped.frames);
  await run.getByRole('button', { name: 'check' }).press('Enter');
  await page.getByRole('button', { name: /^Parade of the test: .+ on drummer/ }).press('Enter');
  await page.getByRole('button', { name: /^Open at the worst frame/ }).press('Enter');
  await expect(page).toHaveURL(/mend\/reel/);
});

/** Most that a foot goes in a sixth of a second in which it is lowest, as a share of its height over a stride: told by the file alone. */
function creeping(motion: PlainMotion, foot: string): number {
  const places = Array.from({ length: motion.frames }, (_, f) => motion.place(foot, f));
  const low = [...places.map(([, y]) => y)].sort((a, b) => a - b);
  const [floor, top] = [low[Math.floor(low.length * 0.1)], low[low.length - 1]];
  const WINDOW = 10;
  let worst = 0;
  for (let f = 3; f + WINDOW + 3 < places.length; f++) {
    if (places.slice(f - 3, f + WINDOW + 3).some(([, y]) => y > floor + 0.01 * (top - floor))) continue;
    const [a, b] = [places[f], places[f + WINDOW]];
    worst = Math.max(worst, Math.hypot(a[0] - b[0], a[2] - b[2]) / (top - floor));
  }
  return worst;
}
