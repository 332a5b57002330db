import { expect, test } from './app';
import { validateBytes } from 'gltf-validator';
import { faceCsv, random, writeWav } from '@hollow-stride/core';
import { makeFaceTrack, withFace } from '@hollow-stride/core/testing/face';
import { makeGlb } from '@hollow-stride/core/testing/glb';
import { makeFile, randomShape } from '@hollow-stride/core/testing/index';
import { drop } from './files';
import { readPlainFace } from './plainGlb';
import { download, recipeOf, settled } from './solving';

const CHANNELS = ['jawOpen', 'eyeBlinkLeft', 'eyeBlinkRight', 'tongueOut', 'cheekPuff'];
const recording = makeFaceTrack(CHANNELS, { seconds: 8, seed: 741 });
const at = (seconds: number, channel: string): number => {
  const f = seconds * 60;
  const [a, b] = [Math.floor(f), Math.floor(f) + 1].map((frame) => recording.values[frame * CHANNELS.length + CHANNELS.indexOf(channel)]);
  return a + (b - a) * (f - Math.floor(f));
};
/** Second of the recorder at which the hands are heard; the crier's meet at 1.2 s of the take. */
const HEARD = 0.55;
const OFFSET = 1.2 - HEARD;

function sound(): Uint8Array {
  const { normal } = random(742);
  const samples = Float32Array.from({ length: 8 * 16_000 }, (_, i) => {
    const t = i / 16_000;
    const slap = t >= HEARD && t < HEARD + 0.1 ? 0.5 * Math.exp((HEARD - t) / 0.012) * normal() : 0;
    return slap + 0.1 * Math.sin(t * 900) * (t > 2 ? 1 : 0) + 0.002 * normal();
  });
  return writeWav({ rate: 16_000, samples });
}

test('a face recorded apart is brought to the clap, corrected by hand, and its every channel is in the file', async ({ page }) => {
  await page.goto('/');
  await page.locator('hs-item-row').nth(15).waitFor();
  const body = makeFile(randomShape(743, { spine: 3, neck: 1, clavicles: true })).skeleton;
  const times = Array.from({ length: recording.frames }, (_, f) => f / 60);
  const table = faceCsv({ channels: CHANNELS, times, values: recording.values });
  await drop(
    page,
    { name: 'herald.glb', bytes: await withFace(await makeGlb(body), [['mouthOpen', 'lid_L', 'lid_R', 'kiss']]) },
    { name: 'herald-face.csv', bytes: new TextEncoder().encode(table) },
    { name: 'herald-voice.wav', bytes: sound() },
    { name: 'guest-list.csv', bytes: new TextEncoder().encode('name,seat\nHerald,1\n') },
  );
  await expect(page.locator('.notice')).toContainText('no column is headed "time"');
  await page.locator('hs-item-row button.name').filter({ hasText: "Town crier's call" }).click();
  await page
    .locator('hs-item-row button.name')
    .filter({ hasText: /^\s*herald\s*$/ })
    .click();
  await page.keyboard.press('3');
  await page.getByRole('link', { name: 'face', exact: true }).click();
  await page.getByRole('combobox', { name: 'Face recording' }).selectOption({ label: 'herald-face' });
  await page.getByRole('combobox', { name: 'Sound' }).selectOption({ label: 'herald-voice' });

  // By the keyboard: the clap is found, and is where it is to within a frame of the body's recorder.
  await page.getByRole('button', { name: 'Find the clap' }).press('Enter');
  const begins = page.getByRole('textbox', { name: 'begins at, s' });
  await expect.poll(async () => Math.abs(Number(await begins.inputValue()) - OFFSET)).toBeLessThan(0.021);
  await begins.fill(OFFSET.toFixed(3));
  await begins.press('Enter');

  // By the pointer: a shape that no name speaks for, and half of a channel that drives it.
  const rows = page.getByRole('listbox', { name: 'Face shapes and what drives them' }).getByRole('option');
  await expect(rows).toHaveCount(4);
  await expect(rows.filter({ hasText: 'mouthOpen' })).toContainText('jawOpen');
  await expect(rows.filter({ hasText: 'kiss' })).toContainText('stays at rest');
  await rows.filter({ hasText: 'kiss' }).click();
  await page.getByRole('combobox', { name: 'Channel that drives kiss too' }).selectOption('tongueOut');
  const share = page.getByRole('textbox', { name: 'share of tongueOut' });
  await share.fill('0.5');
  await share.press('Enter');
  await page.getByRole('button', { name: 'left ↔ right' }).click();
  await page.getByRole('textbox', { name: 'Name of the name table' }).fill('heralds');
  await page.getByRole('button', { name: 'Keep as table' }).click();
  await expect(page.getByRole('button', { name: 'Use the name table heralds' })).toBeVisible();
  await expect(page.locator('hs-group').filter({ hasText: 'Left over' })).toContainText('1 channels drive nothing: cheekPuff');
  await settled(page);

  // The table alone.
  const alone = new TextDecoder().decode(await download(page, 'CSV')).split('\n');
  expect(alone[0]).toBe('time,mouthOpen,lid_L,lid_R,kiss');

  await page.keyboard.press('4');
  await settled(page);
  const panel = page.locator('hs-figures-panel');
  await expect(panel).toContainText('face, shapes');
  await page.getByRole('link', { name: /^Deliver/ }).click();
  const bytes = await download(page, 'Download GLB');
  const made = readPlainFace(bytes);
  let worst = 0;
  for (let t = OFFSET + 0.1; t < 8; t += 0.037) {
    const wanted = {
      mouthOpen: at(t - OFFSET, 'jawOpen'),
      lid_L: at(t - OFFSET, 'eyeBlinkRight'),
      lid_R: at(t - OFFSET, 'eyeBlinkLeft'),
      kiss: at(t - OFFSET, 'tongueOut') / 2,
    };
    for (const [shape, value] of Object.entries(wanted)) worst = Math.max(worst, Math.abs(made.weight(shape, t) - value));
  }
  expect(worst).toBeLessThan(0.002);
  const checked = await validateBytes(bytes);
  expect(checked.issues.numErrors).toBe(0);

  const recipe = await recipeOf(page);
  expect(recipe.take.face?.offset).toBe(Number(OFFSET.toFixed(3)));
  expect(recipe.pairing.face?.rows['kiss'].from).toEqual([{ channel: 'tongueOut', weight: 0.5 }]);
});
