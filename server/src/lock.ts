import { closeSync, ftruncateSync, mkdirSync, openSync, readFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { tryLock, unlock } from 'fs-native-extensions';

/** Holds a data folder for one process: two on one database lose rows. */
export interface Lock {
  release(): void;
}

/**
 * Takes the lock of a data folder. It is the operating system's own, on an open file: it goes with the process that holds it,
 * however that ends, and what the file says is for people only.
 * @throws Error naming the process that holds it
 */
export function takeLock(folder: string): Lock {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'lock');
  const handle = openSync(path, 'a+');
  if (!tryLock(handle)) {
    closeSync(handle);
    const holder = readFileSync(path, 'utf8').trim();
    const who = /^\d+$/.test(holder) ? `process ${holder}` : 'another process';
    throw new Error(`the data folder ${folder} is in use by ${who}; stop that one first or set HOLLOW_STRIDE_DATA`);
  }
  ftruncateSync(handle);
  writeSync(handle, `${process.pid}\n`);
  let held = true;
  return {
    release: () => {
      if (!held) return;
      held = false;
      ftruncateSync(handle);
      unlock(handle);
      closeSync(handle);
    },
  };
}
