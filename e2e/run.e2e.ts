import { readFile } from 'node:fs/promises';
import { expect, test } from './app';
import { strFromU8, unzipSync } from 'fflate';
import { clipOf, ClipReader, judge, makePairing, parseRecipe, prepareRig, prepareTake, readMotionFile } from '@hollow-stride/core';
import { characterFile, drop, takeFile } from './files';

test('from dropped files to the zip on disk: a run, its grid, its worst frame, its files', async ({ page }) => {
  const takes = [takeFile('first-watch.bvh', 611), takeFile('second-watch.bvh', 612)];
  const character = await characterFile('watch-puppet.glb', 613);
  await page.goto('/');
  await page.locator('hs-item-row').nth(15).waitFor();
  await drop(page, ...takes, character);
  for (const name of ['first-watch', 'second-watch']) await page.getByRole('checkbox', { name: `Choose ${name} together` }).click();

  await page.keyboard.press('7');
  await page.getByRole('button', { name: 'chosen on Gather (2)' }).click();
  const builder = page.locator('hs-run-builder');
  await builder.getByRole('button', { name: 'none', exact: true }).click();
  await expect(builder.getByRole('button', { name: 'Start: 0 transfers' })).toBeDisabled();
  await builder.getByLabel('watch-puppet').check();
  await builder.getByLabel('fewer keys').check();
  await builder.getByLabel('file names').fill('{number}-{take}');
  await builder.getByLabel('Name of the run').fill('Night run');
  await builder.getByRole('button', { name: 'Start: 2 transfers' }).click();
  const run = page.getByRole('article', { name: 'Night run' });
  await expect(run.getByRole('status')).toHaveText('2 of 2 done');

  const waiting = page.waitForEvent('download');
  await run.getByRole('link', { name: 'zip' }).click();
  const download = await waiting;
  expect(download.suggestedFilename()).toBe('night-run.zip');
  const parts = unzipSync(new Uint8Array(await readFile(await download.path())));
  expect(Object.keys(parts).sort()).toEqual([
    'check-sheet.csv',
    'check-sheet.html',
    'check-sheet.json',
    'files/1-first-watch.glb',
    'files/2-second-watch.glb',
    'manifest.json',
    'recipes/1-first-watch.recipe.json',
    'recipes/2-second-watch.recipe.json',
  ]);
  // Numbers of the delivered file, found without what made it.
  const body = prepareRig(await readMotionFile(character.bytes, character.name));
  for (const [i, { bytes, name }] of takes.entries()) {
    const file = await readMotionFile(bytes, name);
    const performer = prepareRig(file);
    const stem = `${i + 1}-${name.replace('.bvh', '')}`;
    const written = await readMotionFile(parts[`files/${stem}.glb`], `${stem}.glb`);
    const result = clipOf(written, body, written.clips.length - 1);
    const take = prepareTake(file, performer, 0, parseRecipe(strFromU8(parts[`recipes/${stem}.recipe.json`])).take);
    const { scale } = makePairing(performer, body);
    const verdict = judge({ performer, take, character: body, result, skin: undefined, scale, raised: 0, inPlace: false });
    expect(verdict.figures.find(({ id }) => id === 'held.feet')!.value).toBeGreaterThan(95);
    const reader = new ClipReader(body.skeleton, result);
    expect(reader.at(result.frames - 1).positions.every(Number.isFinite)).toBeTruthy();
  }

  // The grid: a cell, then its worst frame.
  await run.getByRole('button', { name: 'check' }).click();
  const cells = page.locator('hs-check-grid .cell');
  await expect(cells).toHaveCount(2);
  await cells.first().click();
  const open = page.getByRole('button', { name: /^Open at the worst frame, / });
  const frame = /(\d+)$/.exec((await open.textContent())!.trim())![1];
  await page.getByRole('button', { name: 'accept', exact: true }).click();
  await expect(cells.first()).toHaveAccessibleName(/accepted/);
  await open.click();
  await expect(page.getByLabel('Frame', { exact: true })).toContainText(new RegExp(`^${frame} / `));

  // The check sheet of that transfer: a limit of the production turns it, and it is given back.
  await page.keyboard.press('6');
  await page.getByRole('button', { name: 'this transfer' }).click();
  const row = page.getByRole('row').filter({ has: page.getByRole('rowheader', { name: 'held, feet', exact: true }) });
  await expect(row).toContainText('good');
  await page.getByLabel('held, feet, good from').fill('101');
  await page.getByLabel('held, feet, good from').press('Enter');
  await expect(row).toContainText('look at it');
  await page.reload();
  await expect(row).toContainText('look at it');
  await page.getByRole('button', { name: 'Reset all' }).click();
  await expect(row).toContainText('good');
  const chart = page.getByRole('slider', { name: 'left knee, bend over the take' });
  await chart.focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByLabel('Frame', { exact: true })).toContainText(/^11 \//);
});
