import { spawn } from 'node:child_process';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from './app';
import { ClipReader, readMotionFile } from '@hollow-stride/core';
import { validateBytes } from 'gltf-validator';
import { characterFile, drop, takeFile } from './files';
import { readPlainBvh } from './plainBvh';
import { download, settled } from './solving';

test('a take is sent from another process, goes onto a character as it comes, is recorded, and is on the rack with its numbers', async ({
  page,
  baseURL,
}) => {
  await page.goto('/gather');
  await page.locator('hs-item-row').nth(15).waitFor();
  await drop(page, await characterFile('rope-maker.glb', 782));
  await expect(page.locator('.notice')).toContainText('rope-maker.glb brought in');
  await page.goto('/gather/desk');
  await expect(page.getByText('Nobody is on the line')).toBeVisible();
  const folder = await mkdtemp(join(tmpdir(), 'hollow-stride-desk-'));
  const path = join(folder, 'ropewalk.bvh');
  const { bytes } = takeFile('ropewalk.bvh', 781, 240);
  await writeFile(path, bytes);
  const cli = join(import.meta.dirname, '..', 'cli', 'bin', 'hollow-stride.mjs');
  const sender = spawn(process.execPath, [cli, 'send', path, '--server', baseURL!, '--times', '12', '--name', 'rope loft line'], {
    stdio: 'ignore',
  });
  try {
    await expect(page.getByRole('combobox', { name: 'Stream' })).toContainText('rope loft line', { timeout: 30_000 });
    await expect(page.getByRole('group', { name: 'Frames' })).toContainText(/\d+ received/);
    await page.getByRole('combobox', { name: 'Add a character' }).selectOption({ label: 'rope-maker' });
    const live = page.getByRole('group', { name: 'rope-maker' });
    await expect(live).toContainText(/delay \d+ ms, 99 % under \d+ ms/, { timeout: 30_000 });
    await expect(live).toContainText(/work \d+\.\d ms/);
    await page.getByRole('textbox', { name: 'Name of the recording' }).fill('Ropewalk');
    await page.getByRole('textbox', { name: 'Tags, with commas' }).fill('desk');
    await page.getByRole('button', { name: 'Record take 1' }).press('Enter');
    await expect(page.getByRole('status').filter({ hasText: 'recording begins in' })).toBeVisible();
    await expect(page.locator('.state')).toContainText(/Ropewalk 1: \d\d\d+ frames kept/, { timeout: 20_000 });
    await page.getByRole('button', { name: 'Stop' }).click();
    await expect(page.getByText(/Ropewalk 1 is on the rack: \d+ frames, none lost/)).toBeVisible();
    await expect(page.getByRole('button', { name: 'Record take 2' })).toBeVisible();
    await page.getByRole('button', { name: 'Take rope-maker off' }).press('Enter');
    await expect(live).toBeHidden();
  } finally {
    sender.kill();
  }
  await page.goto('/gather');
  const row = page.locator('.row-line').filter({ hasText: 'Ropewalk 1' });
  const waiting = page.waitForEvent('download');
  await row.getByRole('link', { name: 'Download Ropewalk 1' }).click();
  const made = readPlainBvh(await readFile(await (await waiting).path()));
  const sent = readPlainBvh(bytes);
  // Played round and round: the recording begins somewhere in the take, and goes on frame by frame from there.
  const [, joint] = /ROOT (\S+)/.exec(new TextDecoder().decode(bytes))!;
  const gap = (f: number, g: number): number => Math.hypot(...made.place(joint, f).map((v, c) => v - sent.place(joint, g)[c]));
  let [begin, least] = [0, Infinity];
  for (let f = 0; f < sent.frames; f++) {
    const far = gap(0, f);
    if (far < least) [begin, least] = [f, far];
  }
  let worst = 0;
  for (let f = 0; f < made.frames; f++) worst = Math.max(worst, gap(f, (begin + f) % sent.frames));
  expect(made.frames).toBeGreaterThan(100);
  expect(worst).toBeLessThan(0.01);

  // Solved afterwards and delivered: a file that the validator accepts, and feet that stand where the sent ones do.
  await page.goto('/solve');
  const rack = page.locator('hs-rack .item');
  await rack.filter({ hasText: 'Ropewalk 1' }).click();
  await rack.filter({ hasText: 'rope-maker' }).click();
  await settled(page);
  await page.keyboard.press('7');
  await page.getByRole('button', { name: 'GLB', exact: true }).click();
  const delivered = await download(page, 'Download GLB');
  expect((await validateBytes(delivered)).issues.numErrors).toBe(0);
  const body = await readMotionFile(delivered, 'delivered.glb');
  const clip = body.clips.at(-1)!;
  expect(clip.frames).toBe(made.frames);
  const reader = new ClipReader(body.skeleton, clip);
  // What a foot moves by is told in shares of its shin: both files have units of their own.
  const places = (joint: number, f: number): number[] => [...reader.at(f).positions.slice(joint * 3, joint * 3 + 3)];
  const shinOf = Math.hypot(...made.place('LeftFoot', 0).map((v, c) => v - made.place('LeftShin', 0)[c]));
  let [stood, slid] = [0, 0];
  for (const foot of ['LeftFoot', 'RightFoot']) {
    const ankle = body.skeleton.names.indexOf(foot);
    const shin = Math.hypot(...body.skeleton.restT.slice(ankle * 3, ankle * 3 + 3));
    for (let f = 3; f < made.frames; f++) {
      const moved = [0, 1, 2].map((back) => {
        const [a, b] = [f - back, f - back - 1].map((g) => made.place(foot, g));
        return Math.hypot(...a.map((v, c) => v - b[c]));
      });
      if (Math.max(...moved) > 0.001 * shinOf) continue;
      stood++;
      const [a, b] = [f, f - 1].map((g) => places(ankle, g));
      slid = Math.max(slid, Math.hypot(...a.map((v, c) => v - b[c])) / shin);
    }
  }
  expect(stood).toBeGreaterThan(20);
  expect(slid).toBeLessThan(0.005);
});
