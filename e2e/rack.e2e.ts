import { expect, test, type Page } from './app';
import { animatedFile, drop, takeFile } from './files';

/** Motions in each of the two files, more than a page of the list and more than the server sends at once. */
const EACH = 200;

/** The files are in, whatever it takes. */
async function settled(page: Page): Promise<void> {
  await expect(page.getByRole('button', { name: 'End', exact: true })).toHaveCount(0);
}

test.describe.configure({ timeout: 150_000 });

test('hundreds of takes are listed as they are scrolled to, found, chosen together, tagged, taken off and brought back', async ({
  page,
}) => {
  await page.goto('/gather');
  const all = async (): Promise<number> => ((await (await page.request.get('/api/takes')).json()) as { all: number }).all;
  const before = await all();
  await drop(page, await animatedFile('tides.glb', 51, EACH, 'tide'), await animatedFile('bells.glb', 52, EACH, 'bell'));
  await settled(page);
  await expect(page.locator('.list-head [role=status]')).toHaveText(`${before + 2 * EACH} takes`);
  // Only what is in sight is drawn; what is far down is brought when it is scrolled to.
  const rows = page.locator('hs-take-rows hs-item-row');
  expect(await rows.count()).toBeLessThan(80);
  const list = page.locator('hs-take-rows cdk-virtual-scroll-viewport');
  await list.evaluate((viewport) => viewport.scrollTo(0, viewport.scrollHeight));
  await expect(rows.filter({ hasText: `bells: bell ${EACH}` })).toBeVisible();
  // The search is the server's: it finds what was never in sight.
  await page.getByPlaceholder('search by name').fill('TIDE 17');
  await expect(page.locator('.list-head [role=status]')).toHaveText(`11 of ${before + 2 * EACH} takes`);
  await page.getByRole('checkbox', { name: 'Choose tides: tide 17 together' }).click();
  await page.getByRole('checkbox', { name: 'Choose tides: tide 174 together' }).click({ modifiers: ['Shift'] });
  const bar = page.locator('hs-several-bar');
  await expect(bar).toContainText('6 takes chosen');
  await bar.getByLabel('tag').fill('spring');
  await bar.getByRole('button', { name: 'put on' }).click();
  await expect(rows.filter({ hasText: 'spring' })).toHaveCount(6);
  await page.getByPlaceholder('search by name').fill('');
  await page.locator('.list-head select').selectOption('spring');
  await expect(page.locator('.list-head [role=status]')).toHaveText(`6 of ${before + 2 * EACH} takes`);
  await page.locator('.list-head select').selectOption('');
  await bar.getByRole('button', { name: 'none' }).click();
  await page.getByPlaceholder('search by name').fill('bell');
  await page.getByRole('checkbox', { name: 'Choose bells: bell 1 together' }).click();
  await bar.getByRole('button', { name: /choose all/ }).click();
  await bar.getByRole('button', { name: 'remove from the rack' }).click();
  await expect.poll(all).toBeLessThanOrEqual(before + EACH);
  await page.keyboard.press('Escape');
  await page.locator('h1').click();
  await page.keyboard.press('Control+z');
  await expect.poll(all).toBe(before + 2 * EACH);
  // For the journeys that come after: the rack as it was.
  await page.getByPlaceholder('search by name').fill('s: ');
  await page.getByRole('checkbox', { name: 'Choose tides: tide 1 together' }).click();
  await bar.getByRole('button', { name: /choose all/ }).click();
  await bar.getByRole('button', { name: 'remove from the rack' }).click();
  await expect.poll(all).toBe(before);
});

test('a bringing in can be ended, and a backup brought back doubles nothing', async ({ page }) => {
  await page.goto('/gather');
  const all = async (): Promise<number> => ((await (await page.request.get('/api/takes')).json()) as { all: number }).all;
  await drop(page, takeFile('first-light.bvh', 61), takeFile('second-light.bvh', 62));
  await settled(page);
  await page.getByPlaceholder('search by name').fill('light');
  await expect(page.locator('hs-take-rows')).toContainText('second-light');
  const before = await all();
  const archive = await page.request.get('/api/backup');
  expect(archive.headers()['content-disposition']).toContain('.zip');
  await drop(page, { name: 'rack.zip', bytes: await archive.body() });
  await settled(page);
  await expect(page.locator('.refused')).toHaveCount(0);
  expect(await all()).toBe(before);
});
