import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asFault, asFaultError, fail, FaultError, shortened, wellFormed } from '@hollow-stride/core';
import { LIMITS } from '@hollow-stride/contract';
import yauzl from 'yauzl';

/** A file that came in, where it lies for the time being. */
export interface Entry {
  /** Path inside the archive or folder, `/` between its parts. */
  readonly path: string;
  readonly location: string;
  readonly bytes: number;
}

/** An archive may hold this much in all once unpacked. */
const MOST_BYTES = 2 * LIMITS.fileBytes;
/** Longest that unpacking may take, milliseconds. */
const TIME_LIMIT = 60_000;

/** True when a file begins as a zip archive does. */
export async function isZip(path: string): Promise<boolean> {
  const file = await open(path, 'r');
  try {
    const head = Buffer.alloc(4);
    const { bytesRead } = await file.read(head, 0, 4, 0);
    return bytesRead === 4 && head[0] === 0x50 && head[1] === 0x4b && (head[2] === 3 || head[2] === 5);
  } finally {
    await file.close();
  }
}

/** A path without anything that leads out of its folder. */
export function safePath(path: string): string {
  return wellFormed(path)
    .split(/[\\/]/)
    .filter((part) => part !== '' && part !== '.' && part !== '..')
    .map((part) => shortened(part, 200))
    .join('/');
}

/** Limits on an archive's content. */
export interface UnpackLimits {
  readonly bytes?: number;
  readonly milliseconds?: number;
}

/**
 * Unpacks a zip archive into a folder, each file under a name of its own. The counts in its directory are checked before anything is
 * unpacked, folders and hidden files too; what really comes out is counted on the way, so that a list that lies stops it.
 * @throws FaultError archive
 */
export async function unpack(archive: string, name: string, into: string, limits: UnpackLimits = {}): Promise<Entry[]> {
  const { bytes: most = MOST_BYTES, milliseconds = TIME_LIMIT } = limits;
  const signal = AbortSignal.timeout(milliseconds);
  const entries: Entry[] = [];
  let zip: yauzl.ZipFile | undefined;
  try {
    // Names are decoded by us: one that leads elsewhere is tamed, and does not make the archive unreadable.
    zip = await yauzl.openPromise(archive, { lazyEntries: true, autoClose: false, decodeStrings: false });
    if (zip.entryCount > LIMITS.archiveEntries) {
      fail('archive', `the archive lists ${zip.entryCount} files and folders; at most ${LIMITS.archiveEntries} are read. Split it`);
    }
    let total = 0;
    for await (const entry of zip.eachEntry()) {
      if (signal.aborted) throw signal.reason;
      const written = yauzl.getFileNameLowLevel(entry.generalPurposeBitFlag, entry.fileNameRaw, entry.extraFields ?? [], false);
      const path = safePath(written);
      if (path === '' || /[\\/]$/.test(written) || /(^|\/)(__MACOSX|\.)/.test(path)) continue;
      const location = join(into, randomUUID());
      const count = new Transform({
        transform(chunk: Buffer, _encoding, done) {
          total += chunk.length;
          const over = total > most && new FaultError({ code: 'archive', message: tooMuch(most), where: {} });
          if (over) done(over);
          else done(null, chunk);
        },
      });
      const before = total;
      try {
        await pipeline(await zip.openReadStreamPromise(entry), count, createWriteStream(location), { signal });
      } catch (error) {
        if (error instanceof FaultError || signal.aborted) throw error;
        fail('archive', `${path} inside the archive cannot be unpacked: ${asFault(error).message}`);
      }
      entries.push({ path, location, bytes: total - before });
    }
  } catch (error) {
    if (signal.aborted) fail('archive', `unpacking took more than ${milliseconds / 1000} s`, { file: name });
    if (error instanceof FaultError) throw asFaultError(error, name);
    fail('archive', `the archive cannot be read: ${asFault(error).message}`, { file: name });
  } finally {
    zip?.close();
  }
  if (entries.length === 0) fail('archive', 'the archive holds no file', { file: name });
  return entries;
}

const tooMuch = (bytes: number): string => `the archive unpacks to more than ${bytes / 1024 / 1024} MB`;
