import type { Logger } from 'pino';
import type { UploadServices } from './intake/one';
import { takeInDemo } from './intake/takeIn';

const DEMO = 'demo';

/**
 * Brings the demo production onto the rack, once: what an interrupted start left out is brought in by the next, and what a
 * person has taken off stays off.
 * @param wanted false for a rack that starts empty
 * @throws Error when a file of the demo cannot be read, and when the start is ended meanwhile
 */
export async function seedDemo(services: UploadServices, log: Logger, wanted: boolean, signal: AbortSignal): Promise<void> {
  const { library } = services;
  const state = await library.setting(DEMO);
  if (state === 'done' || state === 'declined') return;
  if (state === undefined) {
    // A rack that was filled before this was remembered has had its demo.
    const first = !wanted ? 'declined' : (await library.knownFiles()).size > 0 ? 'done' : 'begun';
    await library.remember(DEMO, first);
    if (first !== 'begun') return;
  }
  for await (const event of takeInDemo(services, signal, true)) {
    if (event.kind !== 'file') continue;
    if (event.file.error) throw new Error(`demo file ${event.file.fileName}: ${event.file.error.message}`);
    log.info({ file: event.file.fileName }, 'demo file added');
  }
  signal.throwIfAborted();
  await library.remember(DEMO, 'done');
}

/** Reads files again whose facts an older version of this program found out. */
export async function refreshFacts({ blobs, library, pool }: UploadServices, log: Logger, signal: AbortSignal): Promise<void> {
  for (const { hash, name } of await library.outdatedFiles()) {
    signal.throwIfAborted();
    const result = await pool.analyse(blobs.path(hash), name);
    if ('fault' in result) log.error({ file: name, fault: result.fault }, 'a file on the rack cannot be read any more');
    else await library.refreshFile(hash, name, result.facts);
  }
}

/** Removes contents that no row refers to: what a killed process had kept just before its row was written. */
export async function sweepContent({ blobs, library }: UploadServices, log: Logger): Promise<void> {
  const known = await library.knownFiles();
  const lost = await blobs.sweep((hash) => known.has(hash));
  if (lost.length > 0) log.warn({ contents: lost.length }, 'contents without a row removed');
}
