import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';
import { takeLock } from './lock';

describe('the lock of a data folder', () => {
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'hollow-stride-lock-'))));
  afterEach(() => rmSync(folder, { recursive: true }));

  it('keeps a second holder out until it is given free', () => {
    const lock = takeLock(folder);
    expect(() => takeLock(folder)).toThrowError(new RegExp(`in use by process ${process.pid}`));
    lock.release();
    lock.release();
    takeLock(folder).release();
  });

  it('is not held by what a file says: a number that is another program’s now keeps nobody out', () => {
    writeFileSync(join(folder, 'lock'), String(process.ppid));
    takeLock(folder).release();
  });

  it('has one holder of many that start at once, and goes with it however it ends', async () => {
    const script = `const { takeLock } = await import(${JSON.stringify(new URL('./lock.ts', import.meta.url).href)});
      try { takeLock(${JSON.stringify(folder)}); console.log('held'); setInterval(() => {}, 1000); } catch { console.log('kept out'); }`;
    const start = async () => {
      const child = spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', script], {
        stdio: ['ignore', 'pipe', 'inherit'],
      });
      const [said] = (await once(child.stdout, 'data')) as [Buffer];
      return { child, said: said.toString().trim() };
    };
    const all = await Promise.all(Array.from({ length: 20 }, start));
    const holders = all.filter(({ said }) => said === 'held');
    expect([holders.length, all.length - holders.length]).toEqual([1, 19]);
    const ended = once(holders[0].child, 'exit');
    holders[0].child.kill('SIGKILL');
    await ended;
    takeLock(folder).release();
  });
});
