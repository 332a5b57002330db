import { expect, test } from './app';
import { validateBytes } from 'gltf-validator';
import { clayBody, clayObj, clayShape } from '@hollow-stride/core/testing/clay';
import { drop, takeFile } from './files';
import { readPlainSkin } from './plainSkin';
import { download, settled } from './solving';

const body = clayBody(clayShape(11), 0.026);

test('a mesh without a skeleton becomes a character: landmarks, skin, range check, takes, and the delivered file', async ({ page }) => {
  await page.goto('/');
  await page.locator('hs-item-row').nth(15).waitFor();
  // In inches, with Z up and looking back.
  const obj = clayObj(body, ([x, y, z]) => [-x / 0.0254, z / 0.0254, y / 0.0254]);
  await drop(page, { name: 'driftwood.obj', bytes: obj }, takeFile('driftwood-walk.bvh', 761, 240));
  const row = page.locator('hs-meshes hs-item-row').filter({ hasText: 'driftwood' });
  await expect(row).toContainText('no skeleton');
  await row.getByRole('button', { name: 'Fit', exact: true }).click();
  const marks = page.getByRole('group', { name: 'front' }).getByRole('slider');
  await expect(marks).toHaveCount(21);
  await expect(page.locator('hs-stand-panel')).toContainText('two legs rise along +Z');

  // By the keyboard: a knee is moved up by two centimetres, on both sides; in numbers it is where it should be.
  const knee = page.getByRole('slider', { name: 'left.knee, front' });
  await knee.focus();
  const up = page.getByRole('textbox', { name: 'up of left.knee, metres' });
  const before = Number(await up.inputValue());
  expect(Math.abs(before - body.joints['knee'][1])).toBeLessThan(0.03 * body.height);
  await knee.press('ArrowUp');
  await knee.press('ArrowUp');
  await expect.poll(async () => Number(await up.inputValue())).toBeCloseTo(before + 0.02, 2);
  await page.getByRole('combobox', { name: 'fingers' }).selectOption('0');

  await page.getByRole('button', { name: 'Bind the skin' }).click();
  await expect(page.locator('.state')).toContainText('joints, pull', { timeout: 60_000 });
  await page.getByRole('button', { name: 'skin', exact: true }).click();
  await page
    .locator('hs-weights-panel')
    .getByRole('button', { name: /^leftLowerArm/ })
    .first()
    .click();

  // By the pointer: a stroke over the left shoulder evens the skin out there, and binds it anew.
  await page.getByRole('checkbox', { name: 'the pointer draws' }).check();
  const canvas = page.locator('hs-fit-view canvas').first();
  const box = (await canvas.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.45);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.53, box.y + box.height * 0.45, { steps: 4 });
  await page.mouse.up();
  await expect(page.locator('hs-group').filter({ hasText: 'Brush' })).toContainText(/[1-9] strokes?/);
  await expect(page.locator('.state')).toContainText('joints, pull', { timeout: 60_000 });
  await page.getByRole('button', { name: 'try', exact: true }).click();
  await page.getByRole('button', { name: '3 takes' }).click();
  await expect(page.locator('.results li')).toHaveCount(3, { timeout: 120_000 });

  await page.getByRole('button', { name: 'Put on the rack' }).click();
  await expect(page.locator('.notice')).toContainText('driftwood.glb brought in');
  await page.locator('hs-rack .item').filter({ hasText: 'driftwood-walk' }).click();
  await page
    .locator('hs-rack .item')
    .filter({ hasText: /^driftwood(?!-)/ })
    .click();
  await page.keyboard.press('4');
  await settled(page);
  await page.getByRole('link', { name: /^Deliver/ }).click();
  const bytes = await download(page, 'Download GLB');

  const checked = await validateBytes(bytes);
  expect(checked.issues.numErrors).toBe(0);
  const made = await readPlainSkin(bytes);
  expect(made.joints.length).toBe(22);
  expect(made.worstSum).toBeLessThan(1e-5);
  // At rest every point is where the mesh had it, in metres, upright, its front ahead.
  const rest = made.places();
  let off = 0;
  expect(made.triangles.length).toBe(body.triangles.length);
  made.triangles.forEach((point, i) => {
    for (let c = 0; c < 3; c++) off = Math.max(off, Math.abs(rest[point * 3 + c] - body.positions[body.triangles[i] * 3 + c]));
  });
  expect(off).toBeLessThan(2e-4);
  // And it walks: on the floor with its soles, the whole way, no limb torn off.
  let [lowest, highest, longest] = [Infinity, -Infinity, 0];
  for (let t = 0; t < made.seconds; t += 0.1) {
    const now = made.places(t);
    let low = Infinity;
    for (let i = 1; i < now.length; i += 3) low = Math.min(low, now[i]);
    [lowest, highest] = [Math.min(lowest, low), Math.max(highest, low)];
    for (let k = 0; k < made.triangles.length; k += 30) {
      const [a, b] = [made.triangles[k] * 3, made.triangles[k + 1] * 3];
      longest = Math.max(longest, Math.hypot(now[a] - now[b], now[a + 1] - now[b + 1], now[a + 2] - now[b + 2]));
    }
  }
  expect(lowest).toBeGreaterThan(-0.03);
  expect(highest).toBeLessThan(0.03);
  expect(longest).toBeLessThan(0.1);
});
