import { Unzip, UnzipInflate, type UnzipFile } from 'fflate';
import { fail } from '@hollow-stride/core';
import { LIMITS } from '@hollow-stride/contract';

export interface Entry {
  /** Path inside the archive or folder, `/` between its parts. */
  readonly path: string;
  readonly bytes: Uint8Array;
}

/** An archive may hold this much in all once unpacked. */
const MOST_BYTES = 2 * LIMITS.fileBytes;

/** True when the bytes begin as a zip archive does. */
export function isZip(bytes: Uint8Array): boolean {
  return bytes.length > 4 && bytes[0] === 0x50 && bytes[1] === 0x4b && (bytes[2] === 3 || bytes[2] === 5);
}

/** A path without anything that leads out of its folder. */
export function safePath(path: string): string {
  return path
    .split(/[\\/]/)
    .filter((part) => part !== '' && part !== '.' && part !== '..')
    .map((part) => part.slice(0, 200))
    .join('/');
}

/**
 * Unpacks a zip archive in memory, counting what really comes out: an archive that lies about its sizes stops at the limit.
 * @param mostBytes what it may hold in all
 * @throws FaultError archive
 */
export function unpack(bytes: Uint8Array, file: string, mostBytes = MOST_BYTES): Entry[] {
  const entries: Entry[] = [];
  let total = 0;
  let count = 0;
  const reader = new Unzip((entry: UnzipFile) => {
    const path = safePath(entry.name);
    if (path === '' || entry.name.endsWith('/') || /(^|\/)(__MACOSX|\.)/.test(path)) return;
    if (++count > LIMITS.archiveEntries) fail('archive', `the archive holds more than ${LIMITS.archiveEntries} files`, { file });
    const chunks: Uint8Array[] = [];
    entry.ondata = (error, chunk, last) => {
      if (error) fail('archive', `${path} inside the archive cannot be unpacked: ${error.message}`, { file });
      total += chunk.length;
      if (total > mostBytes) fail('archive', `the archive unpacks to more than ${mostBytes / 1024 / 1024} MB`, { file });
      chunks.push(chunk.slice());
      if (last) entries.push({ path, bytes: Buffer.concat(chunks) });
    };
    entry.start();
  });
  reader.register(UnzipInflate);
  // In pieces, so that a small archive that swells is stopped on its way.
  const PIECE = 64 * 1024;
  try {
    for (let at = 0; at < bytes.length; at += PIECE) reader.push(bytes.subarray(at, at + PIECE), at + PIECE >= bytes.length);
  } catch (error) {
    if (error instanceof Error && error.name === 'FaultError') throw error;
    fail('archive', `the archive cannot be read: ${error instanceof Error ? error.message : String(error)}`, { file });
  }
  if (count === 0) fail('archive', 'the archive is empty, or is not a zip archive', { file });
  return entries;
}
