import { expect, test } from './app';
import { ClipReader, prepare, readMotionFile, solveReady, type Transfer } from '@hollow-stride/core';
import { recipeOf, settled, toSolve } from './solving';

/** Where the left foot is in the middle of its stands. */
function stands({ pairing: { character }, clip, contacts }: Transfer): { x: number; z: number }[] {
  const reader = new ClipReader(character.skeleton, clip);
  const foot = character.roles.get('left.foot')! * 3;
  return contacts.plants
    .filter(({ side, part }) => side === 'left' && part === 'ball')
    .map(({ first, last }) => {
      const { positions } = reader.at((first + last) >> 1);
      return { x: positions[foot], z: positions[foot + 2] };
    });
}

test('a step is dragged on the stride map, compared with the version before, and taken over part by part', async ({ page }) => {
  const { take, character } = await toSolve(page, 'dragged', 591);
  const solved = async (): Promise<Transfer> => {
    const recipe = await recipeOf(page);
    await page.keyboard.press('4');
    await settled(page);
    const files = { take: await readMotionFile(take.bytes, take.name), character: await readMotionFile(character.bytes, character.name) };
    return solveReady(prepare({ ...files, clip: 0, recipe }));
  };
  const before = stands(await solved());
  await page.getByLabel('Name of the new version').fill('as it came');
  await page.getByRole('button', { name: 'Keep as version' }).click();
  await expect(page.getByRole('button', { name: 'Compare with as it came' })).toBeVisible();

  const print = page.locator('.character .print.solid').nth(1);
  await print.scrollIntoViewIfNeeded();
  const box = (await print.locator('polygon').first().boundingBox())!;
  const at = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  for (let i = 1; i <= 4; i++) await page.mouse.move(at.x + i, at.y - i * 2);
  await page.mouse.up();
  await settled(page);
  await expect(page.getByLabel(/^left step out at [\d.]+ s, cm$/)).toHaveValue(/[1-9]/);
  // The map shows it where it was put.
  await expect(page.locator('.character .print.solid').nth(1)).not.toHaveAttribute('transform', /./);
  const after = stands(await solved());
  const moved = after.map((place, i) => Math.hypot(place.x - before[i].x, place.z - before[i].z));
  expect(moved.filter((way) => way > 0.03)).toHaveLength(1);
  expect(moved.filter((way) => way < 0.002)).toHaveLength(moved.length - 1);

  await page.getByRole('button', { name: 'Compare with as it came' }).click();
  await expect(page.getByRole('columnheader', { name: 'as it came' })).toBeVisible();
  await expect(page.getByText('as it came as a ghost')).toBeVisible();
  await page.getByLabel('Take a part over from as it came').selectOption({ label: 'its legs' });
  await settled(page);
  const back = stands(await solved());
  back.forEach((place, i) => expect(Math.hypot(place.x - before[i].x, place.z - before[i].z)).toBeLessThan(1e-6));
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByLabel(/^left step out at [\d.]+ s, cm$/)).toBeVisible();
});

test('a hand is held where it rests by two presses on the stage', async ({ page }) => {
  await toSolve(page, 'pressed', 597);
  await page.keyboard.press('u');
  await page.getByRole('button', { name: 'right hand', exact: true }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'nothing else: it rests where it is' }).focus();
  await page.keyboard.press('Enter');
  await settled(page);
  const bar = page.locator('[data-lane="right hand"] .bar');
  await expect(bar).toHaveCount(1);
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(bar).toHaveCount(0);
});
