import { closeSync, existsSync, mkdirSync, openSync, readdirSync, rmSync, statSync } from 'node:fs';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { tryLock, unlock } from 'fs-native-extensions';

const LOCK = 'lock';
/** A folder without a lock may have been made just now: it is left alone for so long, ms. */
const FRESH = 60_000;

/** A folder that one process works in. */
export interface Claimed {
  readonly folder: string;
  /** Removes it with all in it. */
  release(): void;
}

/**
 * Makes a folder of this process's own among those of others, and removes those whose process has ended: their locks, which are the
 * operating system's, went with it. Claims of a living process are left alone, whoever started later.
 */
export function claimFolder(among: string): Claimed {
  mkdirSync(among, { recursive: true });
  for (const entry of readdirSync(among, { withFileTypes: true })) {
    const path = join(among, entry.name);
    if (!entry.isDirectory() || isLeft(path)) rmSync(path, { force: true, recursive: true });
  }
  const folder = join(among, randomUUID());
  mkdirSync(folder);
  const handle = openSync(join(folder, LOCK), 'a+');
  if (!tryLock(handle)) throw new Error(`${folder} is locked by another process`);
  let held = true;
  return {
    folder,
    release: () => {
      if (!held) return;
      held = false;
      rmSync(folder, { recursive: true, force: true });
      unlock(handle);
      closeSync(handle);
    },
  };
}

/** True when no living process holds a folder. */
function isLeft(folder: string): boolean {
  const lock = join(folder, LOCK);
  let handle: number;
  try {
    if (!existsSync(lock)) return Date.now() - statSync(folder).mtimeMs > FRESH;
    handle = openSync(lock, 'r+');
  } catch {
    // Its process has just taken it away.
    return false;
  }
  try {
    const free = tryLock(handle);
    if (free) unlock(handle);
    return free;
  } finally {
    closeSync(handle);
  }
}
