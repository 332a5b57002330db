import { expect, test, type Locator, type Page } from './app';

test.beforeEach(({ page }) => page.addInitScript(() => localStorage.setItem('hollow-stride.figures.all', '1')));

const frame = async (page: Page): Promise<number> => parseInt((await page.getByLabel('Frame', { exact: true }).textContent()) ?? '0', 10);
const rack = (page: Page, name: RegExp): Locator => page.locator('hs-rack').getByRole('button', { name });

async function solved(page: Page): Promise<void> {
  await expect(page.locator('hs-figures-panel')).toBeVisible();
  await expect(page.locator('hs-solve .state')).not.toContainText('solving');
}

/** Sets a number of the settings, and waits until the server has it. */
async function setBalance(page: Page, value: string): Promise<void> {
  const saved = page.waitForResponse((answer) => answer.request().method() === 'PUT' && answer.url().includes('/api/pairings'));
  const field = page.getByLabel('balance, %');
  await field.fill(value);
  await field.press('Enter');
  expect((await saved).ok()).toBeTruthy();
}

test('an edited setting and its undo survive a reload, and two pages that change one pair lose nothing', async ({ page, context }) => {
  await page.goto('/solve');
  await rack(page, /Limp home/).click();
  await rack(page, /Heron/).click();
  await solved(page);
  await setBalance(page, '31');
  await solved(page);
  await page.reload();
  await solved(page);
  await expect(page.getByLabel('balance, %')).toHaveValue('31');

  // The same pair on a second page: what one sets, the other sees, and each may set something else.
  const other = await context.newPage();
  await other.goto(page.url());
  await solved(other);
  await expect(other.getByLabel('balance, %')).toHaveValue('31');
  await other.getByRole('button', { name: 'keep marks' }).click();
  await expect(page.getByRole('button', { name: 'keep marks' })).toHaveAttribute('aria-pressed', 'true');
  await setBalance(page, '17');
  await expect(other.getByLabel('balance, %')).toHaveValue('17');
  await expect(other.getByRole('button', { name: 'keep marks' })).toHaveAttribute('aria-pressed', 'true');
  await other.close();

  // Undone after another reload: first 17, then 31.
  await page.reload();
  await solved(page);
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('balance, %')).toHaveValue('31');
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('balance, %')).not.toHaveValue('31');
});

test('an address shows the same again: reloaded, gone back to, and pasted', async ({ page, context }) => {
  await page.goto('/solve');
  await rack(page, /Slow bow/).click();
  await rack(page, /Apprentice/).click();
  await solved(page);
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowRight');
  await expect(page).toHaveURL(/frame=41$/);
  const address = page.url();
  await page.reload();
  await solved(page);
  await expect.poll(() => frame(page)).toBe(41);
  await expect(rack(page, /Slow bow/)).toHaveAttribute('aria-pressed', 'true');

  await rack(page, /Quay walk/).click();
  await expect(page).not.toHaveURL(address);
  await page.goBack();
  await expect(rack(page, /Slow bow/)).toHaveAttribute('aria-pressed', 'true');
  await expect.poll(() => frame(page)).toBe(41);
  await page.goForward();
  await expect(rack(page, /Quay walk/)).toHaveAttribute('aria-pressed', 'true');

  const pasted = await context.newPage();
  await pasted.goto(address);
  await solved(pasted);
  await expect.poll(() => frame(pasted)).toBe(41);
  await expect(rack(pasted, /Apprentice/)).toHaveAttribute('aria-pressed', 'true');
});

test('the main job by keyboard alone, under 40 presses', async ({ page }) => {
  await page.goto('/');
  await expect(page.locator('hs-item-row').first()).toBeVisible();
  let presses = 0;
  const press = async (key: string): Promise<void> => {
    presses++;
    await page.keyboard.press(key);
  };
  // Until the focus is where a name is: one tab stop for each group.
  const tabTo = async (selector: string): Promise<void> => {
    for (let i = 0; i < 20; i++) {
      if (await page.evaluate((wanted) => document.activeElement?.matches(wanted) ?? false, selector)) return;
      await press('Tab');
    }
    throw new Error(`${selector} is not reached`);
  };
  await press('4');
  await solved(page);
  await tabTo('hs-rack .item.performer');
  await press('ArrowDown');
  await press('Enter');
  await press('Tab');
  await tabTo('hs-rack .item.character');
  await press('ArrowDown');
  await press('Enter');
  const chosen = page.locator('hs-rack .item[aria-pressed=true] .name');
  await expect(chosen).toHaveText([/Gangplank run/, /Heron/]);
  await solved(page);
  await press('Space');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await press('Space');
  await press('7');
  await expect(page.getByRole('heading', { name: 'Deliver' })).toBeVisible();
  await expect(chosen).toHaveText([/Gangplank run/, /Heron/]);
  const waiting = page.waitForEvent('download');
  await tabTo('.act .btn-primary');
  await press('Enter');
  expect((await waiting).suggestedFilename()).toMatch(/\.(glb|bvh)$/);
  expect(presses).toBeLessThan(40);
});

test('both whole bodies are in sight at first, after a resize, and when asked for', async ({ page }) => {
  await page.goto('/solve');
  await rack(page, /Lantern reach/).click();
  await rack(page, /Tide-King/).click();
  await solved(page);
  await page.keyboard.press('h');
  const stage = page.locator('hs-stage canvas');
  /** Heights of the highest and lowest handle as shares of the stage, and whether all of them lie on it. */
  const seen = async (): Promise<{ high: number; low: number; all: boolean }> => {
    const { x, y, width, height } = (await stage.boundingBox())!;
    const boxes = await page.locator('hs-handles button').evaluateAll((knobs) =>
      knobs.map((knob) => {
        const { left, top, width: w, height: h } = knob.getBoundingClientRect();
        return [left + w / 2, top + h / 2];
      }),
    );
    const ups = boxes.map(([, top]) => (top - y) / height);
    return {
      high: Math.min(...ups),
      low: Math.max(...ups),
      all: boxes.length > 6 && boxes.every(([left, top]) => left > x && left < x + width && top > y && top < y + height),
    };
  };
  const isFramed = async (): Promise<boolean> => {
    const { high, low, all } = await seen();
    return all && low - high > 0.3 && high > 0.02 && low < 0.98;
  };
  await expect.poll(isFramed).toBe(true);
  for (const size of [
    { width: 1024, height: 700 },
    { width: 1900, height: 800 },
    { width: 1280, height: 1000 },
  ]) {
    await page.setViewportSize(size);
    await expect.poll(isFramed, { message: `${size.width} × ${size.height}` }).toBe(true);
  }
  // Far too near, and back at a press.
  await stage.hover();
  for (let i = 0; i < 12; i++) await page.mouse.wheel(0, -240);
  await expect.poll(isFramed).toBe(false);
  await page.keyboard.press('x');
  await expect.poll(isFramed).toBe(true);
});
