import { realpathSync, statSync, existsSync, readFileSync } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { basename, dirname, extname, join, relative, resolve, sep } from 'node:path';
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

/** A part of a glTF document: a plain file in its own folder or below, links followed. A document cannot ask for files elsewhere. */
function partBeside(path: string, part: string): Uint8Array | undefined {
  const full = resolve(dirname(path), part);
  if (!existsSync(full)) return undefined;
  const inside = relative(realpathSync(dirname(path)), realpathSync(full));
  if (inside === '..' || inside.startsWith(`..${sep}`) || resolve(inside) === inside) {
    fail('gltf/parts', `its part ${part} lies outside its folder; put it beside the document`, { file: basename(path) });
  }
  const info = statSync(full);
  if (!info.isFile()) fail('gltf/parts', `its part ${part} is not a plain file`, { file: basename(path) });
  if (info.size > MAX_FILE_BYTES)
    fail('file/too-large', `its part ${part} has ${info.size} bytes; at most ${MAX_FILE_BYTES} are read`, { file: basename(path) });
  return readFileSync(full);
}

/** "walk_01.amc" stands beside "walk_01.asf" or "walk.asf". */
function skeletonBeside(path: string): string | undefined {
  const stem = path.replace(/\.[^.]*$/, '');
  return [stem, stem.replace(/[_-][^_-]*$/, '')].map((base) => `${base}.asf`).find((candidate) => existsSync(candidate));
}

const MAX_TEXT_BYTES = 8 * 1024 * 1024;

/** Reads a text file: a recipe or a naming scheme. */
export async function loadText(path: string): Promise<string> {
  return new TextDecoder().decode(await loadBytes(path, MAX_TEXT_BYTES));
}

async function loadBytes(path: string, most = MAX_FILE_BYTES): Promise<Uint8Array> {
  const name = basename(path);
  const info = await stat(path).catch(() => undefined);
  if (!info?.isFile()) fail('option', `there is no file ${path}`);
  if (info.size > most) fail('file/too-large', `the file has ${info.size} bytes; at most ${most} are read`, { file: name });
  return readFile(path);
}

/**
 * Refuses outputs that would overwrite an input or each other, told by the files themselves, through links.
 * @param inputs and outputs by the option that names them; undefined ones are passed over
 * @throws FaultError option, before anything is written
 */
export function keepApart(
  inputs: Readonly<Record<string, string | undefined>>,
  outputs: Readonly<Record<string, string | undefined>>,
): void {
  const seen = new Map<string, string>();
  for (const [option, path] of Object.entries(inputs)) if (path !== undefined) seen.set(identity(path), option);
  for (const [option, path] of Object.entries(outputs)) {
    if (path === undefined) continue;
    const before = seen.get(identity(path));
    if (before !== undefined) fail('option', `${option} and ${before} are the same file, ${path}; give ${option} another name`);
    seen.set(identity(path), option);
  }
}

/** A file by its device and number; one that is not there yet by where it would be. */
function identity(path: string): string {
  const info = statSync(path, { throwIfNoEntry: false, bigint: true });
  // Devices take what all write to them.
  if (info && !info.isFile()) return `${path} ${Math.random()}`;
  if (info) return `${info.dev} ${info.ino}`;
  const folder = dirname(resolve(path));
  return join(existsSync(folder) ? realpathSync(folder) : folder, basename(path));
}
