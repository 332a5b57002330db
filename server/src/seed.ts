import { Readable } from 'node:stream';
import type { Logger } from 'pino';
import type { UploadServices } from './routes/upload';

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
    await library.addFile({ hash: received.hash, name: file.name, bytes: received.bytes, facts: result.facts }, file.title, true);
    log.info({ file: file.name }, 'demo file added');
  }
}
