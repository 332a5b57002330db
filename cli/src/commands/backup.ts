import { fail } from '@hollow-stride/core';
import type { Output } from '../output';
import { saveStream } from '../save';

/** Writes everything on a running server's rack into one archive. */
export async function backup(path: string, options: { server: string }, output: Output): Promise<void> {
  let response: Response;
  try {
    response = await fetch(new URL('/api/backup', options.server));
  } catch {
    return fail('option', `no Hollow Stride answers at ${options.server}; start it with npm start, or say where it is with --server`);
  }
  if (!response.ok || !response.body) fail('option', `the server at ${options.server} answered ${response.status}`);
  const bytes = await saveStream(path, response.body);
  output.out(`${path} written: ${(bytes / 1e6).toFixed(1)} MB. Drop it on another Hollow Stride to bring the rack in there`);
}
