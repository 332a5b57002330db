import { fail } from '@hollow-stride/core';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

/** Writes everything on a running server's rack into one archive. An archive that breaks off on the way is not kept. */
export async function backup(path: string, options: { server: string }, output: Output, workspace: Workspace): Promise<void> {
  workspace.output(path, 'the archive');
  let response: Response;
  try {
    response = await fetch(new URL('/api/backup', options.server));
  } catch {
    return fail('option', `no Hollow Stride answers at ${options.server}; start it with npm start, or say where it is with --server`);
  }
  if (!response.ok || !response.body) fail('option', `the server at ${options.server} answered ${response.status}`);
  if (response.headers.get('content-type') !== 'application/zip') fail('option', `what answers at ${options.server} is no Hollow Stride`);
  const archive = new Archive(response.body, options.server);
  await workspace.save(path, 'the archive', archive.content());
  output.out(`${path} written: ${(archive.bytes / 1e6).toFixed(1)} MB. Drop it on another Hollow Stride to bring the rack in there`);
}

/** Shortest record that ends a zip archive, and its first four bytes. */
const END = 22;
const END_SIGN = 0x06054b50;

/** An archive as it comes; that it came whole is checked before it is kept. */
class Archive {
  bytes = 0;

  constructor(
    private readonly body: AsyncIterable<Uint8Array>,
    private readonly server: string,
  ) {}

  /** @throws FaultError option where it broke off or is no archive */
  async *content(): AsyncGenerator<Uint8Array> {
    let tail = Buffer.alloc(0);
    try {
      for await (const chunk of this.body) {
        this.bytes += chunk.length;
        tail = Buffer.concat([tail, chunk]).subarray(-END);
        yield chunk;
      }
    } catch (error) {
      fail('option', `the archive broke off after ${this.bytes} bytes: ${(error as Error).message}; nothing was written`);
    }
    if (tail.length < END || tail.readUInt32LE(0) !== END_SIGN) {
      fail('option', `what the server at ${this.server} sent is no whole archive (${this.bytes} bytes); nothing was written`);
    }
  }
}
