import { asFault, type Fault } from '@hollow-stride/core';
import type { DepotEvent, DepotFetch } from '@hollow-stride/contract';
import { Refusal } from '../errors';
import { takeInBytes, type UploadServices } from '../intake/one';
import { LineBroken } from './depot';

/** How often a broken fetch goes on where it stopped before it gives up. */
const ATTEMPTS = 3;

/**
 * Fetches a motion from the depot and puts it on the rack, telling its progress. A line that breaks is taken up again where it
 * broke; one that stays broken ends the fetch with nothing left behind.
 */
export async function* fetchMotion(request: DepotFetch, services: UploadServices, signal: AbortSignal): AsyncGenerator<DepotEvent> {
  const { depot } = services;
  try {
    const item = await depot.item(request.id);
    const { name, bytes } = await depot.file(request.id, request);
    const total = bytes.length;
    const got = new Uint8Array(total);
    let received = 0;
    for (let attempt = 0; received < total; attempt++) {
      try {
        for await (const chunk of depot.send(bytes, received, request.line, attempt, signal)) {
          got.set(chunk, received);
          received += chunk.length;
          yield { kind: 'progress', received, total };
        }
      } catch (error) {
        if (!(error instanceof LineBroken)) throw error;
        if (attempt + 1 >= ATTEMPTS) {
          yield { kind: 'failed', fault: broken(name, received, total) };
          return;
        }
        yield { kind: 'resumed', received, attempt: attempt + 1 };
      }
    }
    const file = await takeInBytes(got, name, services, { title: item.title, tags: [...item.tags, 'depot'], note: item.what });
    yield file.error ? { kind: 'failed', fault: file.error } : { kind: 'done', file };
  } catch (error) {
    if (signal.aborted) return;
    yield { kind: 'failed', fault: error instanceof Refusal ? error.fault : asFault(error) };
  }
}

function broken(file: string, received: number, total: number): Fault {
  return {
    code: 'option',
    message: `the line to the depot broke at ${Math.round((100 * received) / total)} % and did not come back in ${ATTEMPTS} attempts; nothing was brought in. Try again later`,
    where: { file },
  };
}
