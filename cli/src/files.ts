import { readFile, rename, stat, unlink, writeFile } from 'node:fs/promises';
import { existsSync, readFileSync } from 'node:fs';
import { basename, dirname, extname, join, relative, resolve } from 'node:path';
import { fail, joinAcclaim, MAX_FILE_BYTES, packGltf, readMotionFile, type MotionFile } from '@hollow-stride/core';

/**
 * Reads a motion file from disk: a glTF document with the parts beside it, Acclaim motion with its skeleton.
 * @param skeleton the .asf of an .amc, where it is not the one beside it with the same name
 * @throws FaultError with the file's name
 */
export async function load(path: string, skeleton?: string): Promise<MotionFile> {
  const bytes = await loadBytes(path);
  const name = basename(path);
  const kind = extname(path).toLowerCase();
  if (kind === '.gltf')
    return readMotionFile(
      packGltf(bytes, name, (part) => partBeside(path, part)),
      name,
    );
  if (kind === '.amc') {
    const beside = skeleton ?? skeletonBeside(path);
    return readMotionFile(beside === undefined ? bytes : joinAcclaim(await loadBytes(beside), bytes), name);
  }
  return readMotionFile(bytes, name);
}

/** A part of a glTF document, from its own folder or below only: a document cannot ask for files elsewhere. */
function partBeside(path: string, part: string): Uint8Array | undefined {
  const folder = resolve(dirname(path));
  const full = resolve(folder, part);
  return !relative(folder, full).startsWith('..') && existsSync(full) ? readFileSync(full) : undefined;
}

/** "walk_01.amc" stands beside "walk_01.asf" or "walk.asf". */
function skeletonBeside(path: string): string | undefined {
  const stem = path.replace(/\.[^.]*$/, '');
  return [stem, stem.replace(/[_-][^_-]*$/, '')].map((base) => `${base}.asf`).find((candidate) => existsSync(candidate));
}

/** Reads a text file of at most a few megabytes. */
export async function loadText(path: string): Promise<string> {
  return new TextDecoder().decode(await loadBytes(path));
}

async function loadBytes(path: string): Promise<Uint8Array> {
  const name = basename(path);
  const info = await stat(path).catch(() => undefined);
  if (!info?.isFile()) fail('option', `there is no file ${path}`);
  if (info.size > MAX_FILE_BYTES)
    fail('file/too-large', `the file has ${info.size} bytes; at most ${MAX_FILE_BYTES} are read`, { file: name });
  return readFile(path);
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
