import { readFile, rename, stat, unlink, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { fail, MAX_FILE_BYTES, readMotionFile, type MotionFile } from '@hollow-stride/core';

/** Reads a motion file from disk. @throws FaultError with the file's name */
export async function load(path: string): Promise<MotionFile> {
  const name = basename(path);
  const info = await stat(path).catch(() => undefined);
  if (!info?.isFile()) fail('option', `there is no file ${path}`);
  if (info.size > MAX_FILE_BYTES)
    fail('file/too-large', `the file has ${info.size} bytes; at most ${MAX_FILE_BYTES} are read`, { file: name });
  return readMotionFile(await readFile(path), name);
}

/** Writes a file whole or not at all: to a neighbour first, then renamed. */
export async function save(path: string, content: Uint8Array | string): Promise<void> {
  const neighbour = join(dirname(path), `.${basename(path)}.${process.pid}.part`);
  try {
    await writeFile(neighbour, content);
    await rename(neighbour, path);
  } catch (error) {
    await unlink(neighbour).catch(() => undefined);
    fail('option', `${path} cannot be written: ${error instanceof Error ? error.message : String(error)}`);
  }
}
