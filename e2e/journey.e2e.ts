import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from './app';
import {
  clipOf,
  DEFAULT_RECIPE,
  judge,
  makePairing,
  prepareRig,
  readMotionFile,
  runJob,
  type MotionFile,
  type Verdict,
} from '@hollow-stride/core';
import { characterFile, drop, takeFile } from './files';

// All figures are shown, not only the first.
test.beforeEach(({ page }) => page.addInitScript(() => localStorage.setItem('hollow-stride.figures.all', '1')));

const TAKE = takeFile('lantern-round.bvh', 41);

/** The figure of a row in the table of figures, as shown after pinning. */
async function figure(page: Page, name: string): Promise<number> {
  const row = page.locator('hs-figures-panel tbody tr').filter({ has: page.getByRole('rowheader', { name, exact: true }) });
  return parseFloat((await row.locator('td').nth(1).textContent()) ?? 'NaN');
}

/** The judge's verdict on a delivered file, read back, beside the take's file. */
async function judgedFile(bytes: Uint8Array, name: string, takeFile: MotionFile): Promise<Verdict> {
  const delivered = await readMotionFile(bytes, name);
  const performer = prepareRig(takeFile);
  const character = prepareRig(delivered);
  const { scale } = makePairing(performer, character);
  return judge({
    performer,
    take: clipOf(takeFile, performer),
    character,
    result: clipOf(delivered, character),
    skin: delivered.skin,
    scale,
    raised: 0,
    inPlace: false,
  });
}

const figureIn = ({ figures }: Verdict, id: string): number => figures.find((f) => f.id === id)!.value;

test('two dropped files become a delivered file whose feet stay put', async ({ page }) => {
  const character = await characterFile('stilt-puppet.glb', 42);
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Gather' })).toBeVisible();
  await page.locator('hs-item-row').nth(20).waitFor();
  const before = await page.locator('hs-item-row').count();

  await drop(page, TAKE, character);
  await expect(page.locator('hs-item-row')).toHaveCount(before + 2);
  await expect(page.locator('.notice')).toContainText('lantern-round.bvh, stilt-puppet.glb brought in');
  await expect(page.locator('hs-facts-panel')).toContainText('180 frames at');
  await expect(page.locator('hs-facts-panel')).toContainText('cm');

  await page.getByRole('link', { name: 'Label, match and solve lantern-round on stilt-puppet' }).click();
  await expect(page.locator('hs-roles-panel')).toContainText('Ready');
  await page.keyboard.press('4');
  await expect(page.locator('hs-figures-panel')).toBeVisible();
  expect(await figure(page, 'held, feet')).toBeGreaterThan(97);
  expect(await figure(page, 'sink')).toBeLessThan(8);
  expect(await figure(page, 'flips')).toBe(0);
  expect(await figure(page, 'likeness, arms')).toBeLessThan(3);

  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect.poll(async () => parseInt((await page.getByLabel('Frame', { exact: true }).textContent()) ?? '0', 10)).toBeGreaterThan(5);
  await page.keyboard.press('Space');
  await page.keyboard.press('Home');
  await expect(page.getByLabel('Frame', { exact: true })).toContainText('1 / 180');

  const take = await readMotionFile(TAKE.bytes, TAKE.name);
  await page.keyboard.press('7');
  await expect(page.getByRole('heading', { name: 'Deliver' })).toBeVisible();
  for (const format of ['GLB', 'BVH'] as const) {
    await page.getByRole('button', { name: format, exact: true }).click();
    const waiting = page.waitForEvent('download');
    await page.getByRole('button', { name: `Download ${format}` }).click();
    const download = await waiting;
    expect(download.suggestedFilename()).toBe(`lantern-round-on-stilt-puppet.${format.toLowerCase()}`);
    const bytes = await readFile(await download.path());
    const verdict = await judgedFile(bytes, download.suggestedFilename(), take);
    expect(figureIn(verdict, 'held.feet')).toBeGreaterThan(97);
    expect(figureIn(verdict, 'slide')).toBeLessThan(5);
    expect(verdict.rests.filter(({ kind }) => kind === 'feet').length).toBeGreaterThan(6);
    await expect(page.locator('.outcome')).toContainText(`${download.suggestedFilename()} written`);
  }
  await expect(page.getByRole('button', { name: 'lantern-round on stilt-puppet', exact: true })).toBeVisible();
});

test('the figures on the page are those that the core measures', async ({ page, request }) => {
  const rack = { ...(await (await request.get('/api/rack')).json()), ...(await (await request.get('/api/takes')).json()) } as {
    takes: { name: string; file: string }[];
    characters: { name: string; file: string }[];
  };
  const read = async (hash: string, name: string): Promise<MotionFile> =>
    readMotionFile(await (await request.get(`/api/files/${hash}`)).body(), name);
  const take = await read(rack.takes.find((t) => t.name === 'Slow bow')!.file, 'slow-bow.bvh');
  const character = await read(rack.characters.find((c) => c.name === 'Heron')!.file, 'heron.glb');
  const { verdict } = runJob({ take, clip: 0, character, recipe: DEFAULT_RECIPE }).report;
  await page.goto('/solve');
  await page
    .locator('hs-rack')
    .getByRole('button', { name: /Slow bow/ })
    .click();
  await page.locator('hs-rack').getByRole('button', { name: /Heron/ }).click();
  await expect(page.locator('hs-stage .tag.right')).toContainText('heron.glb');
  await expect.poll(() => figure(page, 'likeness, legs')).toBeCloseTo(figureIn(verdict, 'likeness.legs'), 0);
  expect(await figure(page, 'knees')).toBeCloseTo(figureIn(verdict, 'knees'), 1);
});

test('looking writes nothing; a transfer is kept when a person keeps it', async ({ page, request }) => {
  const kept = async (): Promise<number> => ((await (await request.get('/api/rack')).json()) as { transfers: unknown[] }).transfers.length;
  await page.goto('/solve');
  const before = await kept();
  for (const [take, character] of [
    [/Side shuffle/, /Apprentice/],
    [/Turn on the spot/, /Lantern Bearer/],
  ] as const) {
    await page.locator('hs-rack').getByRole('button', { name: take }).click();
    await page.locator('hs-rack').getByRole('button', { name: character }).click();
    await expect(page.locator('hs-figures-panel')).toBeVisible();
    await expect(page.locator('hs-trail').getByRole('link', { name: /^Solve/ })).toBeVisible();
    await expect.poll(() => figure(page, 'flips')).toBe(0);
  }
  expect(await kept()).toBe(before);
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect.poll(kept).toBe(before + 1);
  await page.keyboard.press('7');
  const row = page.getByRole('row').filter({ hasText: 'Turn on the spot on Lantern Bearer' });
  await expect(row).toContainText(/good|to look at|over the limit/);
});

test('settings take effect at once, can be undone, and are remembered with the pair', async ({ page }) => {
  await page.goto('/solve');
  await page
    .locator('hs-rack')
    .getByRole('button', { name: /Quay walk/ })
    .click();
  await page
    .locator('hs-rack')
    .getByRole('button', { name: /Ferryman/ })
    .click();
  const scale = page.locator('hs-settings-panel .scale b');
  await expect(scale.nth(1)).not.toHaveText('1.000');
  await page.getByRole('button', { name: 'keep marks' }).click();
  await expect(scale.nth(1)).toHaveText('1.000');
  await page.keyboard.press('Control+z');
  await expect(scale.nth(1)).not.toHaveText('1.000');
  await page.keyboard.press('Control+Shift+z');
  await expect(scale.nth(1)).toHaveText('1.000');
  expect(await figure(page, 'held, feet')).toBeGreaterThan(90);
  await page.reload();
  await expect(page.getByRole('button', { name: 'keep marks' })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'by legs' }).click();
  await expect(scale.nth(1)).not.toHaveText('1.000');
});

test('a broken file is refused with its place, and nothing else is lost', async ({ page }) => {
  await page.goto('/gather');
  const rows = page.locator('hs-item-row');
  await expect(rows.first()).toBeVisible();
  const before = await rows.count();
  const bytes = new TextEncoder().encode(new TextDecoder().decode(TAKE.bytes).replace(/(Frame Time.*\n.*\n\S+ )\S+/, '$1oops'));
  await drop(page, { name: 'torn.bvh', bytes }, takeFile('sound.bvh', 43, 60));
  await expect(page.getByRole('heading', { name: 'Not taken in' })).toBeVisible();
  const refusal = page.locator('.refused li');
  await expect(refusal).toContainText('torn.bvh, line');
  await expect(refusal).toContainText('frame 2');
  await expect(refusal).toContainText('"oops" is not a number');
  await expect(rows).toHaveCount(before + 1);
  await page.getByRole('button', { name: 'Dismiss' }).click();
  await expect(refusal).toHaveCount(0);
});

test('names change, things come off the rack and back, by keyboard too', async ({ page }) => {
  await page.goto('/gather');
  await drop(page, takeFile('spare.bvh', 44, 60));
  await page.getByRole('button', { name: 'Rename spare' }).click();
  await page.getByRole('textbox', { name: 'New name of spare' }).fill('Bell rope');
  await page.keyboard.press('Enter');
  const row = page.locator('hs-item-row').filter({ hasText: 'Bell rope' });
  await expect(row).toHaveCount(1);
  await row.getByRole('button', { name: 'Remove Bell rope from the rack' }).focus();
  await page.keyboard.press('Enter');
  await expect(row).toHaveCount(0);
  await page.locator('.notice').filter({ hasText: 'removed from' }).getByRole('button', { name: 'Undo' }).click();
  await expect(row).toHaveCount(1);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('play or pause');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('a pair that cannot be solved says why and what is missing', async ({ page }) => {
  const stump =
    'HIERARCHY\nROOT Hips\n{\n OFFSET 0 90 0\n CHANNELS 3 Zrotation Xrotation Yrotation\n JOINT Spine\n {\n  OFFSET 0 20 0\n  CHANNELS 3 Zrotation Xrotation Yrotation\n  End Site\n  {\n   OFFSET 0 30 0\n  }\n }\n}\nMOTION\nFrames: 2\nFrame Time: 0.02\n0 0 0 0 0 0\n0 0 0 0 0 1\n';
  await page.goto('/gather');
  await drop(page, { name: 'stump.bvh', bytes: new TextEncoder().encode(stump) });
  await expect(page.locator('hs-item-row').filter({ hasText: 'stump' })).toBeVisible();
  await page.goto('/solve');
  await page.locator('hs-rack').getByRole('button', { name: /stump/ }).click();
  await expect(page.getByRole('alert')).toContainText('This pair cannot be solved');
  await expect(page.getByRole('alert')).toContainText('left.upperLeg');
});
