import { expect, test, type Page } from './app';

const STATIONS = ['gather', 'gather/depot', 'gather/take', 'label', 'match', 'match/face', 'solve', 'mend', 'check', 'deliver'] as const;

/** Walks to a station and waits until it shows what it has. */
async function open(page: Page, station: (typeof STATIONS)[number]): Promise<void> {
  if (station === 'gather/take') {
    await page.goto('/gather');
    await page.getByRole('link', { name: 'Open the take Limp home' }).click();
  } else if (station === 'match/face') {
    // A take that has a face, on a character that has shapes for it.
    await page.goto('/gather');
    for (const name of ["Town crier's call", 'Lantern Bearer'])
      await page.locator('hs-item-row button.name').filter({ hasText: name }).click();
    await page.goto('/match/face');
  } else await page.goto(`/${station}`);
  await expect(page.locator('hs-rack .item, hs-item-row').first()).toBeVisible();
  const ready = {
    gather: 'hs-facts-panel',
    'gather/depot': '.motion',
    'gather/take': 'hs-curve canvas',
    label: 'hs-roles-panel',
    match: 'hs-dials .dial',
    'match/face': 'hs-name-table li',
    solve: 'hs-figures-panel',
    mend: 'hs-layers-panel',
    check: 'hs-check-sheet table',
    deliver: '.figures',
  }[station];
  await expect(page.locator(ready).first()).toBeVisible();
}

const SIZES = [
  { width: 1024, height: 700 },
  { width: 1280, height: 800 },
  { width: 1920, height: 1080 },
];

/** Controls that must be seen without scrolling. */
const IMPORTANT: Readonly<Record<(typeof STATIONS)[number], readonly string[]>> = {
  gather: ['.drop', 'hs-item-row', 'hs-facts-panel'],
  'gather/depot': ['[role=search]', '.motion', 'hs-figure-stage canvas'],
  'gather/take': ['hs-figure-stage canvas', 'hs-range-bar', 'hs-curve canvas', 'hs-transport .play'],
  label: ['hs-joint-tree', 'hs-figure-stage canvas', 'hs-rails', 'hs-roles-panel'],
  match: ['hs-pose-view', 'hs-figure-stage canvas', 'hs-transport .play', 'hs-dials .dial'],
  'match/face': ['hs-name-table li', 'hs-figure-stage canvas', 'hs-transport .play', 'hs-face-time .wave', 'hs-shape-panel'],
  mend: ['hs-stage canvas', 'hs-transport .play', 'hs-layers-panel'],
  solve: ['hs-stage canvas', 'hs-transport .play', 'hs-lanes .area', 'hs-figures-panel table'],
  check: ['hs-stage canvas', 'hs-transport .play', 'hs-check-sheet table', 'hs-chart canvas'],
  deliver: ['.figures', '.act .btn-primary'],
};

for (const station of STATIONS) {
  test(`${station}: nothing important lies off the page, everything that can be pressed has a name, every text stands out`, async ({
    page,
  }) => {
    await open(page, station);
    for (const size of SIZES) {
      await page.setViewportSize(size);
      const at = `at ${size.width} × ${size.height}`;
      await expect
        .poll(() => page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth), { message: at })
        .toBe(0);
      for (const selector of IMPORTANT[station]) {
        const box = await page.locator(selector).first().boundingBox();
        expect(box, `${at} ${selector}`).not.toBeNull();
        expect(box!.x, `${at} ${selector}`).toBeGreaterThanOrEqual(0);
        expect(box!.x + box!.width, `${at} ${selector}`).toBeLessThanOrEqual(size.width + 1);
        expect(box!.y, `${at} ${selector}`).toBeLessThan(size.height - 20);
      }
    }
    expect(await page.evaluate(nameless)).toEqual([]);
    expect(await page.evaluate(faint)).toEqual([]);
  });
}

/** Controls without an accessible name. Runs in the page. */
function nameless(): string[] {
  const nameOf = (element: Element): string =>
    [
      element.getAttribute('aria-label') ?? '',
      ...(element.getAttribute('aria-labelledby') ?? '').split(' ').map((id) => document.getElementById(id)?.textContent ?? ''),
      ['BUTTON', 'A'].includes(element.tagName) ? (element.textContent ?? '') : '',
      element instanceof HTMLInputElement || element instanceof HTMLSelectElement || element instanceof HTMLTextAreaElement
        ? [...(element.labels ?? [])].map((l) => l.textContent ?? '').join('')
        : '',
    ]
      .join('')
      .trim();
  return [
    ...document.querySelectorAll('button, a, input, select, textarea, [role=group], [role=slider], [role=button], [role=tree], canvas'),
  ]
    .filter((element) => nameOf(element) === '')
    .map((element) => element.outerHTML.slice(0, 120));
}

/** Text that stands out from its ground by less than 4.5 to 1. Runs in the page. */
function faint(): string[] {
  const parse = (text: string): number[] => (/rgba?\(([^)]+)\)/.exec(text)?.[1] ?? '0,0,0,0').split(/[ ,/]+/).map(Number);
  const light = (rgb: number[]): number => {
    const [r, g, b] = rgb.slice(0, 3).map((v) => (v / 255 <= 0.03928 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4));
    return 0.2126 * r + 0.7152 * g + 0.0722 * b;
  };
  const ground = (element: Element | null): number[] => {
    for (let e = element; e; e = e.parentElement) {
      const colour = parse(getComputedStyle(e).backgroundColor);
      if ((colour[3] ?? 1) > 0.8) return colour;
    }
    return [255, 255, 255];
  };
  const found: string[] = [];
  for (const element of document.querySelectorAll('body *')) {
    const own = [...element.childNodes].filter((n) => n.nodeType === Node.TEXT_NODE && (n.textContent ?? '').trim() !== '');
    const box = element.getBoundingClientRect();
    if (
      own.length === 0 ||
      box.width < 2 ||
      (element as HTMLButtonElement).disabled ||
      element.closest('[disabled], .visually-hidden, .cdk-visually-hidden')
    )
      continue;
    const [a, b] = [light(parse(getComputedStyle(element).color)), light(ground(element))].sort((x, y) => y - x);
    const ratio = (a + 0.05) / (b + 0.05);
    if (ratio < 4.5) found.push(`${ratio.toFixed(2)} ${element.tagName} ${(element.textContent ?? '').trim().slice(0, 40)}`);
  }
  return found;
}

test('the keyboard reaches everything, and focus is seen', async ({ page }) => {
  await open(page, 'solve');
  const reached = new Set<string>();
  for (let i = 0; i < 60; i++) {
    await page.keyboard.press('Tab');
    const { name, outline } = await page.evaluate(() => {
      const element = document.activeElement!;
      const style = getComputedStyle(element);
      const around = getComputedStyle(element.closest('label') ?? element);
      return {
        name: (element.getAttribute('aria-label') ?? element.textContent ?? (element as HTMLInputElement).type ?? '').trim().slice(0, 40),
        outline: element === document.body ? 'body' : `${style.outlineStyle} ${style.boxShadow} ${around.outlineStyle}`,
      };
    });
    if (outline === 'body') continue;
    reached.add(name);
    expect(outline.includes('solid') || outline.includes('auto') || outline.includes('px'), `focus on "${name}" is seen`).toBe(true);
  }
  const all = [...reached].join('|');
  for (const name of [
    'Gather',
    'Label',
    'Match',
    'Solve',
    'Deliver',
    'keys',
    'Quay walk',
    'Ferryman',
    'Width of the rack',
    'Fold the rack',
  ])
    expect(all).toContain(name);
});

test('the transport answers to its keys', async ({ page }) => {
  await open(page, 'solve');
  const frame = page.getByLabel('Frame', { exact: true });
  await page.locator('body').press('End');
  await expect(frame).toContainText(/^(\d+) \/ \1$/);
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(frame).toContainText('12 /');
  await page.keyboard.press('n');
  await expect(frame).not.toContainText('12 /');
  await page.keyboard.down('b');
  await expect(page.getByText('plain, before pinning')).toBeVisible();
  await page.keyboard.up('b');
  await expect(page.getByText('plain, before pinning')).toHaveCount(0);
  await page.keyboard.press('f');
  await expect(page.getByRole('button', { name: 'front', exact: true })).toHaveAttribute('aria-pressed', 'true');
  const slider = page.getByRole('slider', { name: 'Frame, over the lanes' });
  const box = (await page.locator('hs-lanes .area').boundingBox())!;
  // Above the first lane, where no bar is pressed.
  await page.mouse.click(box.x + box.width / 2, box.y + 4);
  const frames = Number(await slider.getAttribute('aria-valuemax'));
  await expect.poll(async () => Math.abs(Number(await slider.getAttribute('aria-valuenow')) - frames / 2)).toBeLessThan(3);
});
