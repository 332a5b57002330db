import { chromium } from '@playwright/test';
const [,, base, out, ...steps] = process.argv;
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--use-angle=swiftshader','--enable-unsafe-swiftshader','--ignore-gpu-blocklist','--disable-background-networking'] });
const size = (process.env.SIZE ?? '1280x800').split('x').map(Number);
const page = await browser.newPage({ viewport: { width: size[0], height: size[1] } });
page.on('console', m => { if (m.type()==='error') console.log('console:', m.text()); });
page.on('pageerror', e => console.log('pageerror:', e.message));
for (const s of steps) {
  const [cmd, ...rest] = s.split('='); const arg = rest.join('=');
  if (cmd==='goto') await page.goto(base+arg);
  else if (cmd==='click') await page.getByRole('button',{name:arg}).first().click();
  else if (cmd==='key') await page.keyboard.press(arg);
  else if (cmd==='wait') await page.waitForTimeout(Number(arg));
  else if (cmd==='down') await page.keyboard.down(arg);
  else if (cmd==='files') await page.locator('input[type=file]').setInputFiles(arg.split(','));
  else if (cmd==='shot') await page.screenshot({ path: `${out}-${arg}.png` });
}
await browser.close();
