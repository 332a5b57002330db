import { readFile } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { asFault } from '@hollow-stride/core';
import { LIMITS, type UploadJson } from '@hollow-stride/contract';
import type { Blobs, Received } from '../blobs';
import type { Depot } from '../depot/depot';
import type { Library } from '../library';
import type { Pool } from '../pool';
import { isZip, safePath, unpack, type Entry } from './archive';
import { assemble } from './assemble';

export interface UploadServices {
  readonly blobs: Blobs;
  readonly library: Library;
  readonly pool: Pool;
  readonly depot: Depot;
}

export interface Arrived {
  readonly received: Received;
  /** Name with the folders that it came from. */
  readonly path: string;
  /** True when it was cut off at the size limit. */
  readonly cut: boolean;
}

type Outcome = UploadJson['files'][number];

/** What may be held in memory while parts are put together. */
const MOST_TOGETHER = 2 * LIMITS.fileBytes;

/** Takes in files that came together: archives unpacked, parts joined, each result read and put on the rack. */
export async function takeInAll(arrived: readonly Arrived[], services: UploadServices): Promise<UploadJson> {
  const outcomes: Outcome[] = [];
  const ignored: string[] = [];
  const loose: Entry[] = [];
  const single: Arrived[] = [];
  let together = 0;
  const fromFolder = arrived.some(({ path }) => path.includes('/'));
  try {
    for (const file of arrived) {
      const path = safePath(file.path) || 'unnamed';
      const name = path.slice(path.lastIndexOf('/') + 1);
      if (file.cut) {
        const message = `the file is larger than ${LIMITS.fileBytes / 1024 / 1024} MB`;
        outcomes.push({ ...nothing(name), error: { code: 'file/too-large', message, where: { file: name } } });
        continue;
      }
      // Whole files stay on disk; only what may have parts, or be one, is held in memory.
      const isWhole = /\.(bvh|glb|vrm)$/i.test(name);
      if (isWhole) single.push({ ...file, path });
      else if ((together += file.received.bytes) > MOST_TOGETHER) {
        const message = 'the files brought in together are too large; bring them in one after the other';
        outcomes.push({ ...nothing(name), error: { code: 'file/too-large', message, where: { file: name } } });
      } else {
        const bytes = await readFile(file.received.path);
        if (isZip(bytes)) {
          try {
            const result = assemble(unpack(bytes, name), false);
            await takeResult(result);
          } catch (error) {
            outcomes.push({ ...nothing(name), error: asFault(error, name) });
          }
        } else loose.push({ path, bytes });
      }
    }
    for (const file of single) outcomes.push(await takeIn(file.received, file.path.slice(file.path.lastIndexOf('/') + 1), services));
    await takeResult(assemble(loose, !fromFolder));
    return { files: outcomes, ignored: ignored.slice(0, 100) };
  } finally {
    await Promise.all(arrived.map(({ received }) => services.blobs.discard(received)));
  }

  async function takeResult(result: ReturnType<typeof assemble>): Promise<void> {
    for (const { name, fault } of result.faults) outcomes.push({ ...nothing(name), error: fault });
    ignored.push(...result.ignored);
    for (const { name, bytes } of result.files) outcomes.push(await takeInBytes(bytes, name, services));
  }
}

const nothing = (fileName: string): Outcome => ({ fileName, known: false, takes: [], characters: [] });

/** Takes in bytes that are in memory already. */
export async function takeInBytes(
  bytes: Uint8Array,
  name: string,
  services: UploadServices,
  about: { title?: string; tags?: string[]; note?: string } = {},
): Promise<Outcome> {
  const received = await services.blobs.receive(Readable.from([Buffer.from(bytes)]));
  try {
    return await takeIn(received, name, services, about);
  } finally {
    await services.blobs.discard(received);
  }
}

/** Reads one whole file in a worker and keeps it when it can be used. */
async function takeIn(
  received: Received,
  fileName: string,
  { blobs, library, pool }: UploadServices,
  about: { title?: string; tags?: string[]; note?: string } = {},
): Promise<Outcome> {
  const known = await library.hasFile(received.hash);
  const result = await pool.analyse(received.path, fileName);
  if ('fault' in result) return { ...nothing(fileName), error: result.fault };
  if (!(await blobs.has(received.hash))) await blobs.keep(received);
  const added = await library.addFile({ hash: received.hash, name: fileName, bytes: received.bytes, facts: result.facts }, about);
  return { fileName, known, ...added };
}
