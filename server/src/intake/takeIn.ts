import { asFault, FaultError } from '@hollow-stride/core';
import { LIMITS, type IntakeEvent, type UploadJson } from '@hollow-stride/contract';
import { Blobs, type Received } from '../blobs';
import { isBackup } from '../backup/archive';
import { readBackup } from '../backup/read';
import { isZip, safePath, unpack, type Entry } from './archive';
import { MESH } from '../meshes';
import { RECORDING } from '../recordings';
import { attachRecordings } from './attach';
import { refused, takeIn, takeInMesh, takeInRecording, type Outcome, type UploadServices } from './one';

export interface Arrived {
  readonly received: Received;
  /** Name with the folders that it came from. */
  readonly path: string;
  /** True when it was cut off at the size limit. */
  readonly cut: boolean;
}

const baseOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/**
 * Takes in files that came together: archives unpacked, parts joined, each result read and put on the rack; what comes of each is
 * told as soon as it is known. Ended early, it leaves what was told and nothing else.
 */
export async function* takeInAll(
  arrived: readonly Arrived[],
  services: UploadServices,
  signal: AbortSignal,
): AsyncGenerator<IntakeEvent, void> {
  const { blobs, pool } = services;
  const ignored: string[] = [];
  try {
    const loose: Entry[] = [];
    const single: Arrived[] = [];
    const archives: Arrived[] = [];
    const recordings: Arrived[] = [];
    const meshes: Arrived[] = [];
    for (const file of arrived) {
      const path = safePath(file.path) || 'unnamed';
      const name = baseOf(path);
      if (file.cut) {
        const message = `the file is larger than ${LIMITS.fileBytes / 1024 / 1024} MB`;
        yield { kind: 'file', file: refused(name, { code: 'file/too-large', message, where: { file: name } }) };
      } else if (/\.(bvh|glb|vrm)$/i.test(name)) single.push({ ...file, path });
      else if (MESH.test(name)) meshes.push({ ...file, path });
      else if (RECORDING.test(name)) recordings.push({ ...file, path });
      else if (await isZip(file.received.path)) archives.push({ ...file, path });
      else loose.push({ path, location: file.received.path, bytes: file.received.bytes });
    }
    for (const { received, path } of single) yield* one(received, baseOf(path));
    for (const { received, path } of recordings) {
      if (signal.aborted) return;
      const name = baseOf(path);
      yield { kind: 'reading', fileName: name };
      const file = await takeInRecording(received, name, services, {}, signal);
      // A folder holds notes of many kinds; a table in it that is none of a face is no fault.
      if (file.error && path.includes('/')) ignored.push(path);
      else if (!signal.aborted || !file.error) yield { kind: 'file', file };
    }
    for (const { received, path } of meshes) {
      if (signal.aborted) return;
      const name = baseOf(path);
      yield { kind: 'reading', fileName: name };
      const file = await takeInMesh(received, name, services, {}, signal);
      if (!signal.aborted || !file.error) yield { kind: 'file', file };
    }
    for (const { received, path } of archives) {
      const name = baseOf(path);
      if (signal.aborted) return;
      yield { kind: 'reading', fileName: name };
      if (await isBackup(received.path)) {
        yield* restored(received.path, name);
        continue;
      }
      yield* asideOf(async function* (folder) {
        let entries: Entry[];
        try {
          entries = await unpack(received.path, name, folder);
        } catch (error) {
          yield { kind: 'file', file: refused(name, asFault(error, name)) };
          return;
        }
        yield* joined(entries, false, folder);
      });
    }
    const fromFolder = arrived.some(({ path }) => path.includes('/'));
    if (loose.length > 0) yield* asideOf((folder) => joined(loose, !fromFolder, folder));
    yield { kind: 'end', ignored: ignored.slice(0, 100) };
  } finally {
    await Promise.all(arrived.map(({ received }) => blobs.discard(received)));
  }

  async function* restored(path: string, name: string): AsyncGenerator<IntakeEvent, void> {
    try {
      // That all is told is for the whole to say.
      for await (const event of readBackup(path, name, services, signal)) if (event.kind !== 'end') yield event;
    } catch (error) {
      if (!(error instanceof FaultError)) throw error;
      yield { kind: 'file', file: refused(name, asFault(error, name)) };
    }
  }

  async function* one(received: Received, name: string): AsyncGenerator<IntakeEvent, void> {
    if (signal.aborted) return;
    yield { kind: 'reading', fileName: name };
    const file = await takeIn(received, name, services, {}, signal);
    if (!signal.aborted || !file.error) yield { kind: 'file', file };
  }

  async function* joined(entries: readonly Entry[], strict: boolean, folder: string): AsyncGenerator<IntakeEvent, void> {
    const result = await pool.assemble(entries, strict, folder, signal);
    for (const { name, fault } of result.faults) yield { kind: 'file', file: refused(name, fault) };
    ignored.push(...result.ignored);
    for (const { name, location } of result.files) yield* one(await Blobs.measure(location), name);
  }

  async function* asideOf(work: (folder: string) => AsyncGenerator<IntakeEvent, void>): AsyncGenerator<IntakeEvent, void> {
    const aside = await blobs.aside();
    try {
      yield* work(aside.folder);
    } finally {
      await aside.remove();
    }
  }
}

/** All that comes of files that came together, in one answer. */
export async function takenIn(arrived: readonly Arrived[], services: UploadServices, signal: AbortSignal): Promise<UploadJson> {
  const files: Outcome[] = [];
  let ignored: string[] = [];
  for await (const event of takeInAll(arrived, services, signal)) {
    if (event.kind === 'file') files.push(event.file);
    if (event.kind === 'end') ignored = event.ignored;
  }
  return { files, ignored };
}

/** Takes in the demo production: what of it is not there yet, or is off the rack, comes onto it. */
export async function* takeInDemo(services: UploadServices, signal: AbortSignal, onlyNew: boolean): AsyncGenerator<IntakeEvent, void> {
  const { blobs, library, pool } = services;
  const { folder, remove } = await blobs.aside();
  try {
    const { files, recordings, meshes } = await pool.demo(folder);
    for (const { location, name, title, tags, note } of files) {
      if (signal.aborted) return;
      const received = await Blobs.measure(location);
      if (onlyNew && (await library.hasFile(received.hash))) continue;
      yield { kind: 'reading', fileName: name };
      yield { kind: 'file', file: await takeIn(received, name, services, { title, tags, note, isDemo: true }, signal) };
    }
    for (const { location, name, title, take } of recordings) {
      if (signal.aborted) return;
      const received = await Blobs.measure(location);
      if (onlyNew && (await library.contentName(received.hash)) !== undefined) continue;
      yield { kind: 'reading', fileName: name };
      const file = await takeInRecording(received, name, services, { title, isDemo: true }, signal);
      if (!file.error) await attachRecordings(library.db, take, file.recordings);
      yield { kind: 'file', file };
    }
    for (const { location, name, title } of meshes) {
      if (signal.aborted) return;
      const received = await Blobs.measure(location);
      if (onlyNew && (await library.contentName(received.hash)) !== undefined) continue;
      yield { kind: 'reading', fileName: name };
      yield { kind: 'file', file: await takeInMesh(received, name, services, { title, isDemo: true }, signal) };
    }
    yield { kind: 'end', ignored: [] };
  } finally {
    await remove();
  }
}
