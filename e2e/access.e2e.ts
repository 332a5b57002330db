import { expect, test, type Page } from './app';

interface Stop {
  readonly name: string;
  /** From the stop before, as a person goes there. */
  readonly go: (page: Page) => Promise<void>;
  /** What is there once the stop shows what it has. */
  readonly ready: string;
  /** Controls that must be seen without scrolling. */
  readonly important: readonly string[];
}

const press = (key: string) => (page: Page) => page.keyboard.press(key);
const follow = (name: string) => (page: Page) => page.getByRole('link', { name, exact: true }).click();

/** All stations of the demo in one walk: the page is loaded once. */
const WALK: readonly Stop[] = [
  {
    name: 'Gather',
    go: async (page) => void (await page.goto('/gather')),
    ready: 'hs-facts-panel',
    important: ['.drop', 'hs-item-row', 'hs-facts-panel'],
  },
  {
    name: 'the depot',
    go: follow('look in the motion depot'),
    ready: '.motion',
    important: ['[role=search]', '.motion', 'hs-figure-stage canvas'],
  },
  {
    name: 'Label',
    go: press('2'),
    ready: 'hs-roles-panel',
    important: ['hs-joint-tree', 'hs-figure-stage canvas', 'hs-rails', 'hs-roles-panel'],
  },
  {
    name: 'Match',
    go: press('3'),
    ready: 'hs-dials .dial',
    important: ['hs-pose-view', 'hs-figure-stage canvas', 'hs-transport .play', 'hs-dials .dial'],
  },
  {
    name: 'Solve',
    go: press('4'),
    ready: 'hs-figures-panel',
    important: ['hs-stage canvas', 'hs-transport .play', 'hs-lanes .area', 'hs-figures-panel table'],
  },
  { name: 'Mend', go: press('5'), ready: 'hs-layers-panel', important: ['hs-stage canvas', 'hs-transport .play', 'hs-layers-panel'] },
  {
    name: 'Check',
    go: press('6'),
    ready: 'hs-check-sheet table',
    important: ['hs-stage canvas', 'hs-transport .play', 'hs-check-sheet table', 'hs-chart canvas'],
  },
  { name: 'Deliver', go: press('7'), ready: '.figures', important: ['.figures', '.act .btn-primary'] },
  {
    name: 'a take',
    go: async (page) => {
      await page.keyboard.press('1');
      await page.getByRole('link', { name: 'Open the take Limp home' }).click();
    },
    ready: 'hs-curve canvas',
    important: ['hs-figure-stage canvas', 'hs-range-bar', 'hs-curve canvas', 'hs-transport .play'],
  },
  {
    name: 'the face',
    go: async (page) => {
      await page.keyboard.press('1');
      // A take that has a face, on a character that has shapes for it.
      for (const name of ["Town crier's call", 'Lantern Bearer'])
        await page.locator('hs-item-row button.name').filter({ hasText: name }).click();
      await page.keyboard.press('3');
      await page.getByRole('link', { name: 'face', exact: true }).click();
    },
    ready: 'hs-name-table li',
    important: ['hs-name-table li', 'hs-figure-stage canvas', 'hs-transport .play', 'hs-face-time .wave', 'hs-shape-panel'],
  },
];

const SIZES = [
  { width: 1920, height: 1080 },
  { width: 1024, height: 700 },
  { width: 1280, height: 800 },
];

test('at every station nothing important lies off the page, everything that can be pressed has a name, every text stands out', async ({
  page,
}) => {
  for (const { name, go, ready, important } of WALK) {
    await go(page);
    await expect(page.locator(ready).first(), name).toBeVisible();
    for (const size of SIZES) {
      await page.setViewportSize(size);
      const at = `${name} at ${size.width} × ${size.height}`;
      await expect
        .poll(() => page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth), { message: at })
        .toBe(0);
      for (const selector of important) {
        const box = await page.locator(selector).first().boundingBox();
        expect(box, `${at} ${selector}`).not.toBeNull();
        expect(box!.x, `${at} ${selector}`).toBeGreaterThanOrEqual(0);
        expect(box!.x + box!.width, `${at} ${selector}`).toBeLessThanOrEqual(size.width + 1);
        expect(box!.y, `${at} ${selector}`).toBeLessThan(size.height - 20);
      }
    }
    expect.soft(await page.evaluate(nameless), name).toEqual([]);
    expect.soft(await page.evaluate(faint), name).toEqual([]);
  }
});

/** Opens Solve and waits until it shows what it has. */
async function toSolve(page: Page): Promise<void> {
  await page.goto('/solve');
  await expect(page.locator('hs-figures-panel')).toBeVisible();
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
  await toSolve(page);
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
  await toSolve(page);
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
