import { Readable } from 'node:stream';
import type { Fault } from '@hollow-stride/core';
import type { UploadJson } from '@hollow-stride/contract';
import type { Blobs, Received } from '../blobs';
import { outward } from '../errors';
import type { Depot } from '../depot/depot';
import type { AboutFile } from '../files';
import type { Library } from '../library';
import type { Pool } from '../pool';
import { addMesh, meshOfContent } from '../meshes';
import { addRecording, recordingOfContent } from '../recordings';

export interface UploadServices {
  readonly blobs: Blobs;
  readonly library: Library;
  readonly pool: Pool;
  readonly depot: Depot;
}

export type Outcome = UploadJson['files'][number];

/** Outcome for a file that is refused. */
export const refused = (fileName: string, fault: Fault): Outcome => ({
  fileName,
  known: false,
  takes: [],
  characters: [],
  recordings: [],
  meshes: [],
  error: outward(fault),
});

/** Takes in bytes that are in memory already. */
export async function takeInBytes(bytes: Uint8Array, name: string, services: UploadServices, about: AboutFile = {}): Promise<Outcome> {
  const received = await services.blobs.receive(Readable.from([Buffer.from(bytes)]));
  try {
    return await takeIn(received, name, services, about);
  } finally {
    await services.blobs.discard(received);
  }
}

/** Reads one whole file in a worker and keeps it when it can be used. */
export async function takeIn(
  received: Received,
  fileName: string,
  { blobs, library, pool }: UploadServices,
  about: AboutFile = {},
  signal?: AbortSignal,
): Promise<Outcome> {
  const known = await library.hasFile(received.hash);
  const result = await pool.analyse(received.path, fileName, signal);
  if ('fault' in result) {
    // A body that has a mesh and no skeleton can be given one.
    const mesh =
      result.fault.code === 'skeleton/none' ? await takeInMesh(received, fileName, { blobs, library, pool }, about, signal) : undefined;
    return mesh && !mesh.error ? mesh : refused(fileName, result.fault);
  }
  if (!(await blobs.has(received.hash))) await blobs.keep(received);
  const added = await library.addFile({ hash: received.hash, name: fileName, bytes: received.bytes, facts: result.facts }, about);
  return { fileName, known, ...added, recordings: [], meshes: [] };
}

/** Reads a recording of a face or a sound in a worker and keeps it when it can be used. */
export async function takeInRecording(
  received: Received,
  fileName: string,
  { blobs, library, pool }: UploadServices,
  about: { readonly title?: string; readonly isDemo?: boolean } = {},
  signal?: AbortSignal,
): Promise<Outcome> {
  const known = (await recordingOfContent(library.db, received.hash)) !== undefined;
  const result = await pool.record(received.path, fileName, signal);
  if ('fault' in result) return refused(fileName, result.fault);
  if (!(await blobs.has(received.hash))) await blobs.keep(received);
  const { hash: file, bytes } = received;
  const recording = await addRecording(library.db, { file, fileName, bytes, facts: result.facts }, about);
  return { fileName, known, takes: [], characters: [], recordings: [recording], meshes: [] };
}

/** Reads a mesh in a worker and keeps it when a skeleton can be fitted to it. */
export async function takeInMesh(
  received: Received,
  fileName: string,
  { blobs, library, pool }: Pick<UploadServices, 'blobs' | 'library' | 'pool'>,
  about: { readonly title?: string; readonly isDemo?: boolean } = {},
  signal?: AbortSignal,
): Promise<Outcome> {
  const known = (await meshOfContent(library.db, received.hash)) !== undefined;
  const result = await pool.mesh(received.path, fileName, signal);
  if ('fault' in result) return refused(fileName, result.fault);
  if (!(await blobs.has(received.hash))) await blobs.keep(received);
  const { hash: file, bytes } = received;
  const mesh = await addMesh(library.db, { file, fileName, bytes, facts: result.facts }, about);
  return { fileName, known, takes: [], characters: [], recordings: [], meshes: [mesh] };
}
