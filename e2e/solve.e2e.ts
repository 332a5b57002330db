import { expect, test, type Page } from './app';
import { runJob, readMotionFile } from '@hollow-stride/core';
import { download, recipeOf, settled, toSolve } from './solving';

const frame = async (page: Page): Promise<number> => parseInt((await page.getByLabel('Frame', { exact: true }).textContent()) ?? '0', 10);

/** The figure's row: its value and whether it is good. */
function row(page: Page, name: string) {
  return page.locator('hs-figures-panel tbody tr').filter({ has: page.getByRole('rowheader', { name, exact: true }) });
}
const figure = async (page: Page, name: string): Promise<number> =>
  parseFloat((await row(page, name).locator('td').nth(1).textContent()) ?? '');

/** Where a handle stands on the screen. */
async function handleAt(page: Page, name: string): Promise<{ x: number; y: number }> {
  const box = await page.getByRole('button', { name: new RegExp(`^${name},`) }).boundingBox();
  return { x: box!.x + box!.width / 2, y: box!.y + box!.height / 2 };
}

test('a shoulder is dragged while the take plays, and the feet do not move by a pixel', async ({ page }) => {
  const { take, character } = await toSolve(page, 'raised', 561);
  await page.keyboard.press('f');
  await page.keyboard.press('h');
  const feet = async (): Promise<{ x: number; y: number }[]> => {
    const places: { x: number; y: number }[] = [];
    await page.getByRole('button', { name: 'First frame' }).click();
    for (let step = 0; step < 8; step++) {
      await expect.poll(() => frame(page)).toBe(step * 20 + 1);
      // The stage draws with the next frame of the screen.
      await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
      places.push(await handleAt(page, 'left foot'), await handleAt(page, 'right foot'));
      await page.keyboard.press('Shift+ArrowRight');
      await page.keyboard.press('Shift+ArrowRight');
    }
    return places;
  };
  const before = await feet();
  await page.keyboard.press('Home');
  const shoulder = (await handleAt(page, 'left shoulder')).y;
  // Slowly, as a handle goes along with the body.
  await page.locator('hs-transport').getByLabel('speed').selectOption('0.1×');
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  // The body walks on between the look and the press: pressed is only what is under the pointer, as anywhere else the stage is turned.
  let at = await handleAt(page, 'left shoulder');
  await expect(async () => {
    at = await handleAt(page, 'left shoulder');
    await page.mouse.move(at.x, at.y);
    const under = await page.evaluate(({ x, y }) => document.elementFromPoint(x, y)?.getAttribute('aria-label') ?? '', at);
    expect(under).toContain('left shoulder');
  }).toPass();
  await page.mouse.down();
  for (let i = 1; i <= 10; i++) await page.mouse.move(at.x, at.y - i * 6);
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  const now = await frame(page);
  await expect.poll(() => frame(page)).not.toBe(now);
  await page.mouse.up();
  await page.keyboard.press('Space');
  await settled(page);
  await expect(page.getByLabel('shoulders up, °')).toHaveValue(/1[5-9]|2\d/);
  const after = await feet();
  before.forEach((place, i) => {
    expect(Math.abs(after[i].x - place.x)).toBeLessThan(1);
    expect(Math.abs(after[i].y - place.y)).toBeLessThan(1);
  });
  await page.keyboard.press('Home');
  await expect.poll(async () => (await handleAt(page, 'left shoulder')).y).toBeLessThan(shoulder - 3);
  expect(await figure(page, 'held, feet')).toBeGreaterThan(97);

  // Touch-ups travel with the recipe: a job of the core gives the motion of the delivered file, bit for bit.
  const recipe = await recipeOf(page);
  expect(recipe.touchUps.map(({ kind }) => kind)).toEqual(['shoulders']);
  await page.keyboard.press('7');
  await page.getByRole('button', { name: 'BVH', exact: true }).click();
  const delivered = await download(page, 'Download BVH');
  const { bytes } = runJob({
    take: await readMotionFile(take.bytes, take.name),
    clip: 0,
    character: await readMotionFile(character.bytes, character.name),
    recipe: { ...recipe, delivery: { ...recipe.delivery, format: 'bvh', title: 'raised' } },
  });
  expect(Buffer.compare(Buffer.from(bytes), Buffer.from(delivered))).toBe(0);
});

test('a rest that is not held is held with one press, and the figure turns green', async ({ page }) => {
  await toSolve(page, 'lane', 571);
  expect(await figure(page, 'held, feet')).toBeGreaterThan(97);
  const lane = (name: string) => page.locator(`[data-lane="${name}"]`);
  for (const name of ['left heel', 'left ball']) {
    const bars = lane(name).locator('.bar');
    for (let count = await bars.count(); count > 0; count--) {
      await bars.first().focus();
      await page.keyboard.press('Delete');
      await expect(bars).toHaveCount(count - 1);
    }
  }
  await expect(row(page, 'held, feet')).toContainText(/look at it|fault/);
  const spoiled = await figure(page, 'held, feet');
  expect(spoiled).toBeLessThan(97);

  const lost = page.locator('.rest.lost');
  await expect(lost.first()).toBeVisible();
  for (let left = await lost.count(); left > 0; left = await lost.count()) {
    const text = await lost.first().getAttribute('aria-label');
    await lost.first().click();
    await expect(page.getByRole('button', { name: text! })).toHaveCount(0);
    await settled(page);
  }
  await expect(row(page, 'held, feet')).toContainText('good');
  expect(await figure(page, 'held, feet')).toBeGreaterThan(97);
  expect((await lane('left ball').locator('.bar').count()) + (await lane('left heel').locator('.bar').count())).toBeGreaterThan(1);

  // Back and forth through the steps, and nothing is lost on reload.
  const bars = page.locator('hs-lanes .bar');
  const all = await bars.count();
  await page.keyboard.press('Control+z');
  await expect(bars).toHaveCount(all - 1);
  const saved = page.waitForResponse((response) => response.request().method() === 'PATCH' && response.url().includes('/api/takes/'));
  await page.keyboard.press('Control+Shift+z');
  await expect(bars).toHaveCount(all);
  await saved;
  await page.reload();
  await expect(bars).toHaveCount(all);
  await expect(row(page, 'held, feet')).toContainText('good');
});

test('a touch-up is keyed over time and moved on its lane', async ({ page }) => {
  await toSolve(page, 'keyed', 581);
  await page.getByLabel('Add a touch-up').selectOption('head');
  const amount = page.getByLabel('head nod, °');
  await amount.fill('12');
  await amount.press('Enter');
  await page.getByRole('button', { name: 'Key of head nod' }).click();
  for (let i = 0; i < 6; i++) await page.keyboard.press('Shift+ArrowRight');
  await amount.fill('-8');
  await amount.press('Enter');
  const keys = page.locator('hs-key-lane button');
  await expect(keys).toHaveCount(2);
  await expect(keys.nth(1)).toHaveAccessibleName('head nod -8° at frame 61');
  await keys.nth(1).focus();
  await page.keyboard.press('ArrowRight');
  await expect(keys.nth(1)).toHaveAccessibleName('head nod -8° at frame 62');
  await page.keyboard.press('Home');
  await expect(amount).toHaveValue('12');
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(keys.nth(1)).toHaveAccessibleName('head nod -8° at frame 61');
});
