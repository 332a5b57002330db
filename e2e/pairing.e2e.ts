import { readFile } from 'node:fs/promises';
import { expect, test, type Locator, type Page } from './app';
import { ClipReader, clipOf, parseRecipe, prepareRig, readMotionFile, runJob, type MotionFile } from '@hollow-stride/core';
import { drop, takeFile } from './files';

/** Chooses on the rack, or on Gather, which is the rack with more room. */
const rack = (page: Page, name: RegExp): Promise<void> =>
  page.locator('hs-rack .item, hs-item-row button.name').filter({ hasText: name }).click();
const joint = (page: Page, name: string): Locator =>
  page.locator('hs-joint-tree').getByRole('treeitem', { name: new RegExp(`^${name}( |$)`) });
const role = (page: Page, name: string): Locator => page.locator('hs-roles-panel').getByRole('button', { name: new RegExp(`^${name} `) });
const mistakes = (page: Page): Locator => page.locator('.mistakes li');

/** Opens Label on one of the two skeletons. */
async function label(page: Page, party: 'performer' | 'character'): Promise<void> {
  await page
    .locator('hs-trail')
    .getByRole('link', { name: /^Label/ })
    .click();
  await page.locator('.tools').getByRole('button', { name: party, exact: true }).click();
  await expect(page.locator('hs-roles-panel')).toBeVisible();
}

/** Gives a role to a joint as a person does: the role, then the joint. */
async function give(page: Page, name: string, to: string): Promise<void> {
  await role(page, name).click();
  await expect(page.locator('.hint')).toContainText(`Click the joint of ${name}`);
  await joint(page, to).click();
  await expect(page.locator('.hint')).toHaveCount(0);
}

async function download(page: Page, button: Locator): Promise<{ name: string; bytes: Uint8Array }> {
  const waiting = page.waitForEvent('download');
  await button.click();
  const file = await waiting;
  return { name: file.suggestedFilename(), bytes: await readFile(await file.path()) };
}

/** A file on the rack, read. */
async function onRack(page: Page, kind: 'takes' | 'characters', name: string): Promise<MotionFile> {
  const [rack, takes] = await Promise.all(
    ['/api/rack', '/api/takes'].map(async (path) => (await page.request.get(path)).json() as Promise<object>),
  );
  const list = { ...rack, ...takes } as Record<string, { name: string; file: string; fileName: string }[]>;
  const item = list[kind].find((i) => i.name === name)!;
  return readMotionFile(await (await page.request.get(`/api/files/${item.file}`)).body(), item.fileName);
}

test('an unlabelled performer and the Tide-King become a playing transfer, and a recipe that gives the same', async ({ page }) => {
  await page.goto('/');
  await expect(page.locator('hs-item-row').first()).toBeVisible();
  await rack(page, /Limp home/);
  await rack(page, /Tide-King/);

  // Both skeletons are found to be whole; the range check shows it, left first.
  await label(page, 'performer');
  await expect(page.locator('hs-roles-panel')).toContainText('Ready: all 14 needed roles');
  await expect(mistakes(page)).toHaveCount(0);
  await page.getByRole('button', { name: 'range check' }).click();
  await expect(page.locator('.step')).toHaveText('left arm forward');
  await expect(page.locator('.step')).toHaveText('right arm forward');
  await page.getByRole('button', { name: 'at rest' }).click();

  // The tail is no part of an upright body: it gets a name.
  await label(page, 'character');
  await expect(page.locator('hs-roles-panel')).toContainText('left.hock');
  await page.getByRole('button', { name: 'Whole chains' }).click();
  await page.getByRole('textbox', { name: 'Name of a chain of its own' }).fill('tail');
  await page.locator('.fill').nth(1).getByRole('button').click();
  await joint(page, 'tail_1').click();
  await joint(page, 'tail_6').click();
  await expect(page.locator('.extra')).toContainText('tail');

  // Other up axis, centimetres, hock legs: matched to under half a degree where the body allows it.
  await page.keyboard.press('3');
  await expect(page.locator('hs-pose-view')).toHaveCount(3);
  await expect(page.locator('main aside')).toContainText('the chain "tail" has no partner');
  const rows = page.locator('.plain tbody tr');
  await expect(rows.first()).toBeVisible();
  for (const row of await rows.all()) {
    const name = (await row.locator('th').textContent()) ?? '';
    if (/(upper|lower)(Arm|Leg)|hock|fetlock/.test(name))
      expect(parseFloat((await row.locator('td').nth(1).textContent()) ?? ''), name).toBeLessThan(0.5);
  }
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  const frame = page.getByLabel('Frame', { exact: true });
  await expect.poll(async () => parseInt((await frame.textContent()) ?? '0', 10)).toBeGreaterThan(5);

  await page.keyboard.press('4');
  const held = page.locator('hs-figures-panel tbody tr').filter({ has: page.getByRole('rowheader', { name: 'held, feet', exact: true }) });
  await expect(held).toBeVisible();
  expect(parseFloat((await held.locator('td').nth(1).textContent()) ?? '')).toBeGreaterThan(90);
  await page.getByRole('button', { name: /^(Play|Pause)$/ }).click();

  // The recipe, run without the interface, gives what the page delivers.
  await page.keyboard.press('3');
  await expect(page.locator('hs-pairing-panel')).toBeVisible();
  const recipe = await download(page, page.getByRole('button', { name: 'Export recipe' }));
  expect(recipe.name).toBe('to-tide-king.recipe.json');
  await page.keyboard.press('7');
  const delivered = await download(page, page.getByRole('button', { name: 'Download GLB' }));
  const { transfer, report } = runJob({
    recipe: parseRecipe(new TextDecoder().decode(recipe.bytes), recipe.name),
    take: await onRack(page, 'takes', 'Limp home'),
    clip: 0,
    character: await onRack(page, 'characters', 'Tide-King'),
  });
  const { pairing, clip: own } = transfer;
  expect(report.cautions.filter(({ code }) => code === 'option' || code.startsWith('label/'))).toEqual([]);
  expect([...pairing.character.roles.keys()]).toContain('extra.tail.6');
  const file = await readMotionFile(delivered.bytes, delivered.name);
  const theirs = prepareRig(file);
  const [a, b] = [
    new ClipReader(pairing.character.skeleton, own),
    new ClipReader(theirs.skeleton, clipOf(file, theirs, file.clips.length - 1)),
  ];
  for (const f of [0, 200, own.frames - 1]) {
    const [p, q] = [a.at(f).positions, b.at(f).positions];
    let worst = 0;
    pairing.character.skeleton.names.forEach((name, j) => {
      const k = theirs.skeleton.names.indexOf(name);
      for (const c of [0, 1, 2]) worst = Math.max(worst, Math.abs(p[j * 3 + c] - q[k * 3 + c]));
    });
    expect(worst, `frame ${f}`).toBeLessThan(1e-4);
  }
});

test('a twist joint taken for the arm, exchanged sides and a ground joint taken for the hips are named before any solve', async ({
  page,
}) => {
  await page.goto('/');
  await rack(page, /Bellkeeper/);
  await label(page, 'character');
  await expect(page.locator('.whose')).toContainText('bellkeeper.glb');
  const names = await page.locator('hs-joint-tree .name').allTextContents();
  const of = async (name: string): Promise<string> => ((await role(page, name).locator('.joint').textContent()) ?? '').trim();
  const twist = names.find((name) => /twist/i.test(name) && /arm/i.test(name) && /(^|[._])l|left/i.test(name))!;

  await give(page, 'left.lowerArm', twist);
  await expect(mistakes(page).first()).toContainText(`${twist} is a twist joint by its name`);
  await expect(page.locator('hs-trail').getByRole('link', { name: /^Label/ })).toContainText('cautions');
  await mistakes(page)
    .filter({ hasText: 'left.lowerArm' })
    .getByRole('button', { name: /^give left.lowerArm to/ })
    .click();
  await expect(mistakes(page).filter({ hasText: 'twist joint' }).filter({ hasText: 'left.lowerArm' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Label automatically again' }).click();
  await expect(mistakes(page)).toHaveCount(0);

  // Mirrored: what is given left is given right, so one act exchanges a pair.
  const right = await of('right.upperLeg');
  await give(page, 'left.upperLeg', right);
  await expect(mistakes(page).first()).toContainText(/says (left|right) by its name and has the role (left|right)\.upperLeg/);
  await mistakes(page)
    .first()
    .getByRole('button', { name: /^exchange/ })
    .click();
  await expect(mistakes(page)).toHaveCount(0);
  expect(await of('right.upperLeg')).toBe(right);
  await page.keyboard.press('Control+z');
  await expect(mistakes(page)).not.toHaveCount(0);
  await page.keyboard.press('Control+Shift+z');
  await expect(mistakes(page)).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await page.getByRole('button', { name: 'Label automatically again' }).click();

  await drop(page, takeFile('on-the-ground.bvh', 71, 60, { ground: true }));
  await expect(page.locator('.notice')).toContainText('on-the-ground.bvh brought in');
  await label(page, 'performer');
  await expect(page.locator('.whose')).toContainText('on-the-ground.bvh');
  const [hips, ground] = [await of('hips'), await of('ground')];
  await give(page, 'hips', ground);
  await expect(mistakes(page).first()).toContainText('the label is on the ground joint');
  await mistakes(page)
    .first()
    .getByRole('button', { name: `give hips to ${hips} and ground to ${ground}` })
    .click();
  await expect(mistakes(page)).toHaveCount(0);
  expect(await of('hips')).toBe(hips);
});

test('labels are kept as a scheme, and a skeleton with other prefixes gets them at a press', async ({ page }) => {
  await page.goto('/');
  await drop(page, takeFile('first-day.bvh', 81, 60));
  await expect(page.locator('.notice')).toContainText('first-day.bvh brought in');
  await label(page, 'performer');
  await page.getByRole('textbox', { name: 'Name of the new scheme' }).fill('harbour suit');
  await page.getByRole('button', { name: 'Keep as scheme' }).click();
  await expect(page.locator('.scheme')).toContainText('harbour suit');

  await drop(page, takeFile('second-day.bvh', 82, 60, {}, 'night:'));
  await expect(page.locator('.notice').last()).toContainText('second-day.bvh brought in');
  await expect(page.locator('.whose')).toContainText('second-day.bvh');
  await role(page, 'left.hand').locator('xpath=..').getByRole('button', { name: 'Remove the role left.hand' }).click();
  await expect(page.locator('hs-roles-panel')).toContainText('2 of 14 needed roles missing');
  await expect(page.locator('hs-trail').getByRole('link', { name: /^Label/ })).toContainText('not done yet');
  await expect(page.locator('.scheme')).toContainText('100 % fits');
  await page.getByRole('button', { name: 'Apply the scheme harbour suit' }).click();
  await expect(page.locator('hs-roles-panel')).toContainText('Ready');

  // A chain between joints that hang on different limbs is refused, and nothing changes.
  await page.getByRole('button', { name: 'Whole chains' }).click();
  await page.getByRole('combobox', { name: 'Chain to fill' }).selectOption('left.arm');
  await page.locator('.fill').first().getByRole('button').click();
  await joint(page, '.*RightHand').click();
  await joint(page, '.*LeftUpperArm').click();
  await expect(page.locator('main aside [role=status].fault')).toContainText('Nothing was changed');
  await page.keyboard.press('Escape');
  await expect(page.locator('hs-roles-panel')).toContainText('Ready');
});

test('a segment is turned by its dial, mirrored, and taken back; rungs are cut and given back; the pairing is copied', async ({ page }) => {
  await page.goto('/');
  await rack(page, /Crate lift/);
  await rack(page, /Ferryman/);
  await page.keyboard.press('3');
  const dial = page.locator('hs-dials').getByRole('slider', { name: 'left.upperArm, off by' });
  await dial.focus();
  await expect(page.locator('hs-group').filter({ hasText: 'Turn by hand' })).toContainText('left.upperArm');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowUp');
  await expect(dial).toHaveAttribute('aria-valuetext', '20.0 degrees');
  await expect(page.locator('hs-dials').getByRole('slider', { name: 'right.upperArm, off by' })).toHaveAttribute(
    'aria-valuetext',
    '20.0 degrees',
  );
  await expect(page.locator('main aside')).toContainText(
    'left.upperArm is 20.0° off the performer after rest match: it was turned by hand',
  );
  await expect(page.locator('hs-trail').getByRole('link', { name: /^Match/ })).toContainText('cautions');
  const lift = page.getByRole('textbox', { name: 'lift aside, °' });
  await lift.fill('12,5');
  await lift.press('Enter');
  await expect(dial).toHaveAttribute('aria-valuetext', '12.5 degrees');
  await page.getByRole('button', { name: 'Align all' }).click();
  await expect(dial).toHaveAttribute('aria-valuetext', '0.0 degrees');
  await page.keyboard.press('Control+z');
  await expect(dial).toHaveAttribute('aria-valuetext', '12.5 degrees');

  await page.getByRole('button', { name: 'limb ladders' }).click();
  const rung = page.locator('hs-ladder').getByRole('slider', { name: 'rung of left.lowerArm' });
  await rung.focus();
  await page.keyboard.press('Delete');
  await expect(rung).toHaveCount(0);
  const loose = page.getByRole('button', { name: 'add a rung to left.lowerArm, which keeps its rest' });
  await loose.focus();
  await page.keyboard.press('Enter');
  await expect(rung).toBeVisible();

  await page.getByRole('combobox', { name: 'Character to copy the pairing to' }).selectOption({ label: 'Heron' });
  await page.getByRole('button', { name: 'Copy to it' }).click();
  await expect(page.locator('.notice').last()).toContainText('copied to Heron');
  await page.getByRole('button', { name: 'pose dials' }).click();
  await expect(dial).toHaveAttribute('aria-valuetext', '12.5 degrees');
});

test('a take is trimmed and cleaned on its own page, and the solve follows', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'Open the take Crate lift' }).click();
  await expect(page.locator('main aside')).toContainText('A rest pose stands in the first');
  const out = page.getByRole('slider', { name: /^Out/ });
  const whole = Number(await out.getAttribute('aria-valuemax'));
  await page.getByRole('button', { name: 'Drop the rest frames' }).click();
  const into = page.getByRole('slider', { name: /^In/ });
  await expect(into).not.toHaveAttribute('aria-valuenow', '1');
  const first = Number(await into.getAttribute('aria-valuenow'));
  expect(first).toBeGreaterThan(5);
  await out.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(out).toHaveAttribute('aria-valuenow', String(whole - 10));
  await page.getByRole('checkbox', { name: 'fill gaps' }).check();
  await page.getByRole('checkbox', { name: 'smooth the hips and legs' }).check();
  await page.getByRole('textbox', { name: 'legs, Hz' }).fill('5');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'tags, by commas' }).fill('crate, heavy');
  await page.keyboard.press('Tab');
  const left = whole - 10 - first + 1;
  await expect(page.getByRole('button', { name: /^Range/ })).toContainText(`${left} frames`);
  await page
    .locator('hs-trail')
    .getByRole('link', { name: /^Solve/ })
    .click();
  await expect(page.getByLabel('Frame', { exact: true })).toContainText(`/ ${left}`);
  await page.reload();
  await expect(page.getByLabel('Frame', { exact: true })).toContainText(`/ ${left}`);
  await page.keyboard.press('1');
  await expect(page.locator('hs-item-row').filter({ hasText: 'Crate lift' })).toContainText('heavy');
});

test('a motion is found in the depot, looked at and fetched over a line that drops; a dead line leaves nothing behind', async ({
  page,
}) => {
  await page.goto('/gather/depot');
  await expect(page.locator('.motion')).toHaveCount(12);
  await page.getByRole('searchbox', { name: 'Search the depot' }).fill('curtsey');
  await expect(page.locator('.motion')).toHaveCount(1);
  await page.locator('.motion').click();
  await expect(page.locator('hs-depot').getByLabel('Frame', { exact: true })).not.toContainText('/ 0');
  await page.getByRole('button', { name: 'goes dead' }).click();
  await page.getByRole('button', { name: 'Fetch to the rack' }).click();
  await expect(page.locator('.progress-note')).toContainText('failed');
  await expect(page.locator('.progress-note')).toContainText('nothing was brought in');
  await expect(page.locator('hs-rack')).not.toContainText('Curtsey');
  await page.getByRole('button', { name: 'drops once' }).click();
  await page.getByRole('button', { name: 'in place' }).click();
  await page.getByRole('button', { name: 'Fetch to the rack' }).click();
  await expect(page.locator('.progress-note')).toContainText('on the rack');
  await expect(page.locator('.progress-note')).toContainText('was taken up again');
  await expect(page.locator('hs-rack')).toContainText('Curtsey');
  const take = await onRack(page, 'takes', 'Curtsey');
  const body = prepareRig(take);
  const reader = new ClipReader(body.skeleton, clipOf(take, body));
  const hips = body.roles.get('hips')! * 3;
  const start = reader.at(0).positions.slice(hips, hips + 3);
  const end = reader.at(take.clips[0].frames - 1).positions.slice(hips, hips + 3);
  expect(Math.hypot(end[0] - start[0], end[2] - start[2])).toBeLessThan(0.02);
});
