import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asFault, fail, FaultError } from '@hollow-stride/core';
import { LIMITS } from '@hollow-stride/contract';
import * as v from 'valibot';
import yauzl from 'yauzl';
import { describeIssue, tidied } from '../border';
import { Blobs, type Received } from '../blobs';
import { noPlace } from '../errors';
import { contentPath, MANIFEST, MANIFEST_HASH, manifestSchema, type Manifest } from './manifest';

const MOST_MANIFEST = 64 * 1024 * 1024;
/** A backup's own entries are among its first. */
const LOOKED_AT = 10;
const CONTENT = new RegExp(`^${contentPath('[0-9a-f]{64}')}$`);

/** True when an archive is a backup of a rack, a damaged one too. */
export async function isBackup(path: string): Promise<boolean> {
  try {
    const zip = await yauzl.openPromise(path, { lazyEntries: true, autoClose: false });
    try {
      let looked = 0;
      for await (const { fileName } of zip.eachEntry()) {
        if (fileName === MANIFEST || fileName === MANIFEST_HASH || CONTENT.test(fileName)) return true;
        // A large archive of other things is not gone through.
        if (++looked >= LOOKED_AT) return false;
      }
      return false;
    } finally {
      zip.close();
    }
  } catch {
    return false;
  }
}

/** A backup whose every part was found whole: its list, and each content by its hash, lying in a folder. */
export interface Verified {
  readonly manifest: Manifest;
  readonly contents: ReadonlyMap<string, Received>;
}

/**
 * Takes a backup apart into a folder and holds every part against its hash, those that the rack has already too.
 * @throws FaultError archive, file/too-large; nothing else but what the system says when there is no room
 */
export async function verify(path: string, name: string, into: string, signal: AbortSignal): Promise<Verified> {
  let zip: yauzl.ZipFile | undefined;
  try {
    zip = await yauzl.openPromise(path, { lazyEntries: true, autoClose: false });
    const entries = new Map<string, yauzl.Entry>();
    for await (const entry of zip.eachEntry()) entries.set(entry.fileName, entry);
    const part = async (which: string): Promise<Buffer> => {
      const entry = entries.get(which);
      if (!entry) fail('archive', `the backup lacks its part ${which}: it is not whole`, { file: name });
      return bytesOf(await zip!.openReadStreamPromise(entry), name);
    };
    const [list, hash] = [await part(MANIFEST), await part(MANIFEST_HASH)];
    if (createHash('sha256').update(list).digest('hex') !== hash.toString().trim()) {
      fail('archive', "the backup's list is damaged: it is not what was written", { file: name });
    }
    const manifest = parse(list.toString(), name);
    const contents = new Map<string, Received>();
    for (const file of [...manifest.files, ...manifest.recordings, ...manifest.meshes]) {
      signal.throwIfAborted();
      if (contents.has(file.hash)) continue;
      const entry = entries.get(contentPath(file.hash));
      if (!entry) fail('archive', `the backup lists ${file.name} and does not hold it`, { file: name });
      if (entry.uncompressedSize > LIMITS.fileBytes) fail('file/too-large', 'the file is larger than is read', { file: file.name });
      const location = join(into, randomUUID());
      await pipeline(await zip.openReadStreamPromise(entry), createWriteStream(location), { signal });
      const received = await Blobs.measure(location);
      if (received.hash !== file.hash) fail('archive', `${file.name} in the backup is damaged`, { file: name });
      contents.set(file.hash, received);
    }
    return { manifest, contents };
  } catch (error) {
    if (error instanceof FaultError || signal.aborted || noPlace(error) !== undefined) throw error;
    // Any error of the zip reader is the archive's fault.
    return fail('archive', `the backup cannot be read: ${asFault(error).message}`, { file: name });
  } finally {
    zip?.close();
  }
}

async function bytesOf(stream: Readable, file: string): Promise<Buffer> {
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    if (bytes > MOST_MANIFEST) fail('archive', `the backup's list is larger than ${MOST_MANIFEST / 2 ** 20} MB`, { file });
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

function parse(text: string, file: string): Manifest {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    fail('archive', "the backup's list cannot be read", { file });
  }
  const result = v.safeParse(manifestSchema, tidied(json));
  if (result.success) return result.output;
  return fail('archive', `the backup's list is not as it should be at ${describeIssue(result.issues[0])}`, { file });
}
