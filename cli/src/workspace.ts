import { existsSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { mkdir, readFile, stat } from 'node:fs/promises';
import { basename, dirname, extname, join, relative, resolve, sep } from 'node:path';
import {
  fail,
  joinAcclaim,
  MAX_FILE_BYTES,
  MAX_SOUND_BYTES,
  packGltf,
  readFace,
  readMotionFile,
  readWav,
  type FaceTrack,
  type MotionFile,
  type Sound,
} from '@hollow-stride/core';
import '@hollow-stride/core/formats/glb/dracoOnNode';
import { save, type Content } from './save';

const MAX_TEXT_BYTES = 8 * 1024 * 1024;

/** A motion file with the bytes that it was read from. */
export interface Loaded {
  readonly file: MotionFile;
  readonly bytes: Uint8Array;
}

/**
 * Files that one call of the command line reads and writes; all access goes through here. A file that is an input is never written, whatever name or
 * link it goes by, and no two outputs are the same file.
 */
export class Workspace {
  /** Part that each file plays in this call. */
  private readonly files = new Map<string, { readonly what: string; readonly isInput: boolean }>();

  /** Says that a file will be read. @param what of it, for people: the option that names it */
  input(path: string | undefined, what: string): void {
    if (path !== undefined) this.files.set(identity(path), { what, isInput: true });
  }

  /**
   * Says that a file will be written; asked for before the work begins, so that nothing is solved for a file that may not be written.
   * @throws FaultError option
   */
  output(path: string | undefined, what: string): void {
    if (path === undefined) return;
    const key = identity(path);
    const known = this.files.get(key);
    if (known && (known.isInput || known.what !== what)) {
      fail('option', `${what} and ${known.what} are the same file, ${path}; give ${what} another name`);
    }
    this.files.set(key, { what, isInput: false });
  }

  /** Writes a file whole or not at all. @throws FaultError option */
  async save(path: string, what: string, content: Content): Promise<void> {
    this.output(path, what);
    await save(path, content);
  }

  /** Makes a folder for outputs. @throws FaultError option that names it */
  async folder(path: string): Promise<void> {
    try {
      await mkdir(path, { recursive: true });
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      const why =
        code === 'EEXIST' || code === 'ENOTDIR' ? 'there is a file of this name' : (REASONS[code ?? ''] ?? (error as Error).message);
      fail('option', `the folder ${path} cannot be made: ${why}`);
    }
  }

  /**
   * Reads a motion file: a glTF document with the parts beside it, Acclaim motion with its skeleton.
   * @throws FaultError with the file's name
   */
  async load(path: string, what: string): Promise<MotionFile> {
    return (await this.loadWhole(path, what)).file;
  }

  async loadWhole(path: string, what: string): Promise<Loaded> {
    const bytes = await this.bytes(path, what);
    const name = basename(path);
    const kind = extname(path).toLowerCase();
    if (kind === '.gltf') {
      const whole = packGltf(bytes, name, (part) => this.partBeside(path, part));
      return { file: await readMotionFile(whole, name), bytes };
    }
    const skeleton = kind === '.amc' ? skeletonBeside(path) : undefined;
    const whole = skeleton === undefined ? bytes : joinAcclaim(await this.bytes(skeleton, `the skeleton of ${what}`), bytes);
    return { file: await readMotionFile(whole, name), bytes };
  }

  /** Reads a face recording: a table, or the morph animation of a GLB file. */
  async face(path: string, what: string): Promise<FaceTrack> {
    return readFace(await this.bytes(path, what), basename(path));
  }

  /** Reads a sound file. */
  async sound(path: string, what: string): Promise<Sound> {
    return readWav(await this.bytes(path, what, MAX_SOUND_BYTES), basename(path));
  }

  /** Reads a text file: a recipe, a naming scheme, limits. */
  async text(path: string, what: string): Promise<string> {
    return new TextDecoder().decode(await this.bytes(path, what, MAX_TEXT_BYTES));
  }

  /** Reads a file whole. @throws FaultError option where there is none, file/too-large */
  async bytes(path: string, what: string, most = MAX_FILE_BYTES): Promise<Uint8Array> {
    const name = basename(path);
    const info = await stat(path).catch(() => undefined);
    if (!info?.isFile()) fail('option', `there is no file ${path}`);
    if (info.size > most) fail('file/too-large', `the file has ${info.size} bytes; at most ${most} are read`, { file: name });
    this.input(path, what);
    return readFile(path);
  }

  /** A part of a glTF document: a plain file in its own folder or below, links followed. A document cannot ask for files elsewhere. */
  private partBeside(path: string, part: string): Uint8Array | undefined {
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
    this.input(full, `a part of ${basename(path)}`);
    return readFileSync(full);
  }
}

/** A system error in words. */
const REASONS: Readonly<Record<string, string>> = {
  ENOSPC: 'the disk is full',
  EROFS: 'the disk is read-only',
  EACCES: 'it may not be written there',
  EPERM: 'it may not be written there',
};

/** "walk_01.amc" stands beside "walk_01.asf" or "walk.asf". */
function skeletonBeside(path: string): string | undefined {
  const stem = path.replace(/\.[^.]*$/, '');
  return [stem, stem.replace(/[_-][^_-]*$/, '')].map((base) => `${base}.asf`).find((candidate) => existsSync(candidate));
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
