import { readFile } from 'node:fs/promises';
import { expect, type Page } from './app';
import { parseRecipe, type Recipe } from '@hollow-stride/core';
import { characterFile, drop, takeFile, type TestFile } from './files';

/** Brings a walker and a character of other proportions in, and goes to Solve. */
export async function toSolve(page: Page, name: string, seed: number): Promise<{ take: TestFile; character: TestFile }> {
  const take = takeFile(`${name}.bvh`, seed);
  const character = await characterFile(`${name}-puppet.glb`, seed + 1);
  await page.goto('/');
  await page.locator('hs-item-row').nth(15).waitFor();
  await drop(page, take, character);
  await page.getByRole('link', { name: `Label, match and solve ${name} on ${name}-puppet` }).click();
  await page.keyboard.press('4');
  await expect(page.locator('hs-figures-panel')).toBeVisible();
  await settled(page);
  return { take, character };
}

/** No solve is under way. */
export async function settled(page: Page): Promise<void> {
  await expect(page.locator('.state .spinner-border')).toHaveCount(0);
}

/** The file that a press downloads. */
export async function download(page: Page, name: string): Promise<Uint8Array> {
  const waiting = page.waitForEvent('download');
  await page.getByRole('button', { name }).click();
  return readFile(await (await waiting).path());
}

/** The recipe of the pair, from Match. */
export async function recipeOf(page: Page): Promise<Recipe> {
  await page.keyboard.press('3');
  return parseRecipe(new TextDecoder().decode(await download(page, 'Export recipe')));
}
