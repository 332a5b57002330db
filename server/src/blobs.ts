import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream, mkdirSync, readdirSync, rmSync, type ReadStream } from 'node:fs';
import { access, open, rename, unlink } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';

export interface Received {
  readonly hash: string;
  readonly bytes: number;
  readonly path: string;
}

/** File contents on disk, each once, named by the SHA-256 of its bytes. */
export class Blobs {
  private readonly incoming: string;

  constructor(private readonly folder: string) {
    this.incoming = join(folder, 'incoming');
    mkdirSync(this.incoming, { recursive: true });
    // What an interrupted upload left behind.
    for (const name of readdirSync(this.incoming)) rmSync(join(this.incoming, name), { force: true });
  }

  path(hash: string): string {
    if (!/^[0-9a-f]{64}$/.test(hash)) throw new Error('not a content hash');
    return join(this.folder, hash);
  }

  /** Streams content to a temporary file, hashing on the way; `keep` or `discard` it afterwards. */
  async receive(content: Readable): Promise<Received> {
    const path = join(this.incoming, randomUUID());
    const hash = createHash('sha256');
    let bytes = 0;
    const count = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        hash.update(chunk);
        bytes += chunk.length;
        done(null, chunk);
      },
    });
    const file = createWriteStream(path, { flush: true });
    try {
      await pipeline(content, count, file);
    } catch (error) {
      // Content may break off before the file is even open: it can be taken away only once it is closed.
      if (!file.closed) await new Promise<void>((resolve) => file.once('close', resolve));
      await unlink(path).catch(() => undefined);
      throw error;
    }
    return { hash: hash.digest('hex'), bytes, path };
  }

  /** Gives received content its lasting name; the folder is synced so that the name survives a crash. */
  async keep(received: Received): Promise<void> {
    await rename(received.path, this.path(received.hash));
    const folder = await open(this.folder, 'r');
    await folder.sync().finally(() => folder.close());
  }

  async discard(received: Received): Promise<void> {
    await unlink(received.path).catch(() => undefined);
  }

  async has(hash: string): Promise<boolean> {
    return access(this.path(hash)).then(
      () => true,
      () => false,
    );
  }

  read(hash: string): ReadStream {
    return createReadStream(this.path(hash));
  }
}
