import { Readable } from 'node:stream';
import type { Logger } from 'pino';
import type { UploadServices } from './intake/takeIn';

/** Puts the demo production onto an empty rack. */
export async function seedDemo({ blobs, library, pool }: UploadServices, log: Logger): Promise<void> {
  const rack = await library.rack();
  if (rack.takes.length + rack.characters.length > 0) return;
  const { demoFiles } = await import('./makeDemo');
  for (const file of await demoFiles()) {
    const received = await blobs.receive(Readable.from([Buffer.from(file.bytes)]));
    const result = await pool.analyse(received.path, file.name);
    if ('fault' in result) throw new Error(`demo file ${file.name}: ${result.fault.message}`);
    await blobs.keep(received);
    await library.addFile(
      { hash: received.hash, name: file.name, bytes: received.bytes, facts: result.facts },
      { title: file.title, isDemo: true, tags: [...file.tags], note: file.note },
    );
    log.info({ file: file.name }, 'demo file added');
  }
}

/** Reads files again whose facts an older version of this program found out. */
export async function refreshFacts({ blobs, library, pool }: UploadServices, log: Logger): Promise<void> {
  for (const { hash, name } of await library.outdatedFiles()) {
    const result = await pool.analyse(blobs.path(hash), name);
    if ('fault' in result) log.error({ file: name, fault: result.fault }, 'a file on the rack cannot be read any more');
    else await library.refreshFile(hash, name, result.facts);
  }
}
