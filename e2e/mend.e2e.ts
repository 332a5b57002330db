import { expect, test, type Locator, type Page } from './app';
import { runJob, readMotionFile } from '@hollow-stride/core';
import { readPlainBvh, type PlainMotion } from './plainBvh';
import { download, recipeOf, settled, toSolve } from './solving';

async function addLayer(page: Page, kind: RegExp): Promise<void> {
  await page.getByRole('button', { name: 'Add a layer' }).click();
  await page.locator('.dropdown-menu.show').getByRole('button', { name: kind }).click();
  await settled(page);
}

async function drag(page: Page, what: Locator, dx: number, dy: number): Promise<void> {
  let [x, y] = [0, 0];
  // Handles stand where the stage has drawn their joints: one that moves on as it is pressed is pressed again, as a person would.
  await expect(async () => {
    const now = (await what.boundingBox())!;
    await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))));
    const box = (await what.boundingBox())!;
    expect(box.x).toBeGreaterThan(200);
    expect(Math.hypot(now.x - box.x, now.y - box.y)).toBeLessThan(0.5);
    [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    const isHeld = await what.evaluate((handle) => handle.hasPointerCapture(1));
    if (!isHeld) await page.mouse.up();
    expect(isHeld).toBe(true);
  }).toPass({ timeout: 60_000 });
  for (let i = 1; i <= 6; i++) await page.mouse.move(x + (dx * i) / 6, y + (dy * i) / 6);
  await page.mouse.up();
  await settled(page);
}

const away = (a: PlainMotion, b: PlainMotion, joint: string, frame: number): number =>
  Math.hypot(...a.place(joint, frame).map((x, c) => x - b.place(joint, frame)[c]));

test('a hand is raised and the hips are lowered by layers, and the delivered feet stay where they stand', async ({ page }) => {
  const { take, character } = await toSolve(page, 'raising', 651);
  const deliver = async (): Promise<PlainMotion> => {
    await page.getByRole('link', { name: /^Deliver/ }).click();
    await page.getByRole('button', { name: 'BVH', exact: true }).click();
    return readPlainBvh(await download(page, 'Download BVH'));
  };
  const before = await deliver();

  // By the pointer: a layer for one second, in which the left hand is taken along.
  await page.keyboard.press('5');
  await expect(page.locator('hs-layers-panel')).toBeVisible();
  await settled(page);
  await page.keyboard.press('f');
  // Another frame has the hand elsewhere, where another handle may lie over it.
  await expect(page.locator('hs-transport')).toContainText('/ 180');
  await page.keyboard.press('Home');
  for (let i = 0; i < 9; i++) await page.keyboard.press('Shift+ArrowRight');
  await expect(page.locator('hs-transport')).toContainText('91 / 180');
  await addLayer(page, /^reach/);
  await expect(page.locator('hs-layer-panel').getByLabel('name')).toHaveValue('reach');
  await drag(page, page.getByRole('button', { name: 'left.hand, drag' }), 0, -40);
  await expect(page.getByLabel('left.hand up, cm')).not.toHaveValue('0');
  await page.getByRole('checkbox', { name: 'only for a time' }).check();
  await expect(page.locator('hs-layer-lanes .time')).toHaveAttribute('aria-label', /reach, \d/);
  await settled(page);

  // By the keyboard alone: hips 4 cm lower, always.
  await page.getByRole('button', { name: 'Add a layer' }).press('Enter');
  await page
    .locator('.dropdown-menu.show')
    .getByRole('button', { name: /^reach/ })
    .press('Enter');
  await expect(page.locator('hs-layer-panel').getByLabel('name')).toHaveValue('reach 2');
  await page.getByLabel('Key a limb end').selectOption('hips');
  await page.getByLabel('hips up, cm').fill('-4');
  await page.getByLabel('hips up, cm').press('Enter');
  await settled(page);
  await expect(page.locator('hs-layers-panel li')).toHaveCount(2);
  const bar = page.locator('hs-layer-lanes .time').nth(1);
  await expect(bar).toHaveAttribute('aria-label', /reach, \d/);

  const after = await deliver();
  expect(after.frames).toBe(before.frames);
  const recipe = await recipeOf(page);
  const outcome = runJob({
    take: await readMotionFile(take.bytes, take.name),
    clip: 0,
    character: await readMotionFile(character.bytes, character.name),
    recipe: { ...recipe, delivery: { ...recipe.delivery, format: 'bvh' } },
  });
  const { contacts, pairing, clip } = outcome.transfer;
  const nameOf = (role: string): string => pairing.character.skeleton.names[pairing.character.roles.get(role)!];
  const unit = 100 * unitOf(before, nameOf('hips'), clip.frames, pairing.character.hipHeight);
  for (const { side, first, last } of contacts.plants) {
    for (const frame of [first, (first + last) >> 1, last]) {
      expect(away(before, after, nameOf(`${side}.foot`), frame) * unit).toBeLessThan(0.3);
    }
  }
  expect(away(before, after, nameOf('hips'), 30) * unit).toBeCloseTo(4, 0);
  expect(away(before, after, nameOf('left.hand'), 90) * unit).toBeGreaterThan(8);
  expect(recipe.layers.map(({ does }) => does.kind)).toEqual(['reach', 'reach']);

  // Every step is one that can be taken back.
  await page.keyboard.press('5');
  await page.locator('hs-layers-panel').getByRole('button', { name: 'reach', exact: true }).last().press('Delete');
  await expect(page.locator('hs-layers-panel .layers button.name')).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(page.locator('hs-layers-panel .layers button.name')).toHaveCount(2);
});

/** Metres that the file's unit is worth, by how high the hips of a walker are. */
function unitOf(motion: PlainMotion, hips: string, frames: number, height: number): number {
  let sum = 0;
  for (let f = 0; f < frames; f += 10) sum += Math.max(...motion.place(hips, f).map(Math.abs));
  const high = sum / Math.ceil(frames / 10);
  return [1, 0.01, 0.001].reduce((best, unit) => (Math.abs(high * unit - height) < Math.abs(high * best - height) ? unit : best), 1);
}
