import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream, type ReadStream } from 'node:fs';
import { access, mkdtemp, open, readdir, rename, rm, unlink } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { claimFolder, type Claimed } from './claimed';

export interface Received {
  readonly hash: string;
  readonly bytes: number;
  readonly path: string;
}

const HASH = /^[0-9a-f]{64}$/;

/** File contents on disk, each once, named by the SHA-256 of its bytes. */
export class Blobs {
  /** Where content lies on its way, of this process alone. */
  private readonly incoming: Claimed;

  constructor(readonly folder: string) {
    this.incoming = claimFolder(join(folder, 'incoming'));
  }

  /** Takes away what was on its way. */
  release(): void {
    this.incoming.release();
  }

  path(hash: string): string {
    if (!HASH.test(hash)) throw new Error('not a content hash');
    return join(this.folder, hash);
  }

  /** Streams content to a temporary file, hashing on the way; `keep` or `discard` it afterwards. */
  async receive(content: Readable): Promise<Received> {
    const path = join(this.incoming.folder, randomUUID());
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

  /** Content that lies in a file already, hashed. */
  static async measure(path: string): Promise<Received> {
    const hash = createHash('sha256');
    let bytes = 0;
    for await (const chunk of createReadStream(path) as AsyncIterable<Buffer>) {
      hash.update(chunk);
      bytes += chunk.length;
    }
    return { hash: hash.digest('hex'), bytes, path };
  }

  /** A folder for files on their way, to be removed with all in it when the work is done. */
  async aside(): Promise<{ folder: string; remove: () => Promise<void> }> {
    const folder = await mkdtemp(join(this.incoming.folder, 'parts-'));
    return { folder, remove: () => rm(folder, { recursive: true, force: true }) };
  }

  /** Removes content that nothing refers to: what was kept just before a process was killed. */
  async sweep(isReferred: (hash: string) => boolean): Promise<string[]> {
    const lost = (await readdir(this.folder)).filter((name) => HASH.test(name) && !isReferred(name));
    for (const name of lost) await unlink(join(this.folder, name));
    return lost;
  }

  /** Gives received content its lasting name; the folder is synced so that the name survives a crash. */
  async keep(received: Received): Promise<void> {
    // A file that was put together beside us may not have been synced yet.
    const file = await open(received.path, 'r+');
    await file.sync().finally(() => file.close());
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
