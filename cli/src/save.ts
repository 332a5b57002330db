import { randomBytes } from 'node:crypto';
import { unlinkSync } from 'node:fs';
import { chmod, lstat, open, readlink, realpath, rename, stat, unlink, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { asFault, fail } from '@hollow-stride/core';

/** Files that are being written, under names of their own. */
const unfinished = new Set<string>();

/** Removes what an ended program has written half. */
export function removeUnfinished(): void {
  for (const path of unfinished) {
    try {
      unlinkSync(path);
    } catch {
      // It was finished just then, or its folder is gone.
    }
  }
}

export type Content = Uint8Array | string | AsyncIterable<Uint8Array> | Iterable<Uint8Array>;

/**
 * Writes a file whole or not at all: to a neighbour, synced, then renamed over the old one, whose mode stays. Through a link the
 * file that it points to is written, and the link stays; a device or a pipe is written to as it is.
 * @throws FaultError option that says why it cannot be written; the old file is then untouched
 */
export async function save(path: string, content: Content): Promise<void> {
  try {
    const target = await follow(path);
    const old = await stat(target).catch(() => undefined);
    if (old && !old.isFile()) {
      if (old.isDirectory()) fail('option', `${path} is a folder`);
      await writeFile(target, content);
      return;
    }
    // A short name: the file's own may be as long as names can be.
    const neighbour = join(dirname(target), `.${randomBytes(6).toString('hex')}.part`);
    unfinished.add(neighbour);
    try {
      const file = await open(neighbour, 'wx', old ? old.mode & 0o777 : 0o666);
      try {
        await writeFile(file, content);
        await file.sync();
      } finally {
        await file.close();
      }
      if (old) await chmod(neighbour, old.mode & 0o7777);
      await rename(neighbour, target);
      await syncFolder(dirname(target));
    } catch (error) {
      await unlink(neighbour).catch(() => undefined);
      throw error;
    } finally {
      unfinished.delete(neighbour);
    }
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === undefined) throw error;
    fail('option', `${path} cannot be written: ${code === 'ENOSPC' ? 'the disk is full; make room' : asFault(error).message}`);
  }
}

/** Where a path leads once links are followed, to a file that may not be there yet. */
async function follow(path: string): Promise<string> {
  let at = resolve(path);
  for (let i = 0; i < 40; i++) {
    const info = await lstat(at).catch(() => undefined);
    if (!info?.isSymbolicLink()) return info ? realpath(at) : at;
    at = resolve(dirname(at), await readlink(at));
  }
  return fail('option', `${path} is a link that leads in a circle`);
}

async function syncFolder(path: string): Promise<void> {
  if (process.platform === 'win32') return;
  const folder = await open(path, 'r');
  await folder.sync().finally(() => folder.close());
}
