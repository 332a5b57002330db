import { expect, test, type Page } from './app';
import { flattenRest, fromBasis, makeBasis, clipFromBasis, restClip, writeBvh, type Clip, type Skeleton } from '@hollow-stride/core';
import { randomMachine, runMachine, stateMachine } from '@hollow-stride/core/testing/machines';
import { drop } from './files';
import { readPlainBvh, type PlainMotion } from './plainBvh';
import { download, recipeOf, settled } from './solving';

const SEED = 702;
/** A chain, so that what hangs on a joint shows how it is turned; the same machine twice, as two workshops built it. */
const machine = { joints: randomMachine(SEED, 7).joints.map((joint, j) => ({ ...joint, parent: j - 1 })) };
const SIZE = 0.5;
const dredger = stateMachine(machine, { axes: 1, names: (name) => `dredger_${name}` });
const names: Readonly<Record<string, string>> = {
  gantry: 'base',
  mast: 'Mast01',
  jib: 'arm',
  hook: 'HOOK',
  winch: 'drum',
  rope: 'line',
  wheel: 'wheel.front',
};
const model = stateMachine(machine, { axes: 2, size: SIZE, names: (name) => `model:${names[name]}` });
const run = runMachine(dredger, SEED, 90, 30);
const take: Clip = { ...run, moves: run.moves.filter(({ joint }) => joint === 0) };

/** As a file in centimetres, Z up. */
function file(skeleton: Skeleton, clip: Clip): Uint8Array {
  const basis = makeBasis(0.01, '+Z');
  const flat = flattenRest(fromBasis(skeleton, basis), clipFromBasis(skeleton, clip, basis));
  return writeBvh(flat.skeleton, flat.clip, flat.layout);
}

async function deliver(page: Page): Promise<PlainMotion> {
  await page.getByRole('link', { name: /^Deliver/ }).click();
  await page.getByRole('button', { name: 'BVH', exact: true }).click();
  return readPlainBvh(await download(page, 'Download BVH'));
}

test('a machine is paired with its model by names, by rules and by hand, and its joints stand where they should in the file', async ({
  page,
}) => {
  await page.goto('/');
  await page.locator('hs-item-row').nth(15).waitFor();
  const bytes = file(dredger.skeleton, take);
  await drop(page, { name: 'dredging.bvh', bytes }, { name: 'dredger-model.bvh', bytes: file(model.skeleton, restClip(model.skeleton)) });
  await page.locator('hs-item-row button.name').filter({ hasText: 'dredging' }).click();
  await page.locator('hs-item-row button.name').filter({ hasText: 'dredger-model' }).click();
  await page.keyboard.press('3');
  await page.getByRole('button', { name: 'Pair joint by joint' }).click();
  const theirs = page.getByRole('list', { name: 'Joints of the performer' });
  const mine = page.getByRole('list', { name: 'Joints of the character' });
  await expect(mine.getByRole('button')).toHaveCount(7);
  const state = page.locator('hs-joints-match .state');

  // By the keyboard: a rule for a name that says nothing, typed, and told at once what it fits.
  await page.getByRole('button', { name: 'Add a rule' }).press('Enter');
  await page.getByLabel('Rule 1, name of the performer').fill('*jib*');
  await page.getByLabel('Rule 1, name on the character').fill('arm');
  await expect(page.locator('hs-rules-panel .fits').first()).toContainText('fits 1: dredger_jib');

  // By the pointer and a key: two joints that have nothing in common but a person's word.
  await mine.getByRole('button', { name: /base/ }).click();
  await theirs.getByRole('button', { name: /gantry/ }).click();
  await page.keyboard.press('p');
  await mine.getByRole('button', { name: /drum/ }).click();
  await theirs.getByRole('button', { name: /winch/ }).click();
  await page.getByRole('button', { name: 'Pair', exact: true }).click();
  await mine.getByRole('button', { name: /line/ }).click();
  await theirs.getByRole('button', { name: /rope/ }).click();
  await page.getByRole('button', { name: 'Pair', exact: true }).click();
  await expect(state).toHaveText('7 pairs, 0 and 0 left over');
  await page.getByLabel('Name of the joint scheme').fill('dredgers');
  await page.getByRole('button', { name: 'Keep as scheme' }).click();
  await expect(page.getByRole('button', { name: 'Use the joint scheme dredgers' })).toBeVisible();

  await page.keyboard.press('4');
  await settled(page);
  await expect(page.locator('hs-figures-panel')).toContainText('turns carried');
  const recipe = await recipeOf(page);
  expect(recipe.pairing.byJoint?.pairs['base']).toEqual([{ joint: 'gantry', weight: 1 }]);

  const [source, made] = [readPlainBvh(bytes), await deliver(page)];
  expect(made.frames).toBe(90);
  let worst = 0;
  for (const frame of [0, 20, 45, 89]) {
    for (const { name } of machine.joints) {
      const [a, b] = [source.place(`dredger_${name}`, frame), made.place(`model:${names[name]}`, frame)];
      worst = Math.max(worst, Math.hypot(...a.map((x, c) => x * SIZE - b[c])));
    }
  }
  // Centimetres: a tenth of a millimetre.
  expect(worst).toBeLessThan(0.01);

  // What is taken back is gone from the file too, and the scheme brings all of it again.
  await page.keyboard.press('3');
  await mine.getByRole('button', { name: /Mast01/ }).click();
  await page.keyboard.press('Delete');
  await expect(state).toHaveText('6 pairs, 1 and 1 left over');
  await page.getByRole('button', { name: 'Use the joint scheme dredgers' }).click();
  await expect(state).toHaveText('7 pairs, 0 and 0 left over');
});
