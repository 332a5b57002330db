import { mkdirSync, openSync, readFileSync, rmSync, writeSync, closeSync } from 'node:fs';
import { join } from 'node:path';

/** Holds a data folder for one process: two on one database lose rows. */
export interface Lock {
  release(): void;
}

/**
 * Takes the lock of a data folder. A lock whose process is gone is taken over.
 * @throws Error naming the process that holds it
 */
export function takeLock(folder: string): Lock {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'lock');
  for (let attempt = 0; attempt < 2; attempt++) {
    try {
      const handle = openSync(path, 'wx');
      writeSync(handle, String(process.pid));
      closeSync(handle);
      return { release: () => rmSync(path, { force: true }) };
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const holder = Number(readFileSync(path, 'utf8'));
      if (isAlive(holder))
        throw new Error(`the data folder ${folder} is in use by process ${holder}; stop that one first or set HOLLOW_STRIDE_DATA`);
      rmSync(path, { force: true });
    }
  }
  throw new Error(`the data folder ${folder} cannot be locked`);
}

function isAlive(pid: number): boolean {
  if (!Number.isInteger(pid) || pid <= 0 || pid === process.pid) return false;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
