import { closeSync, fsyncSync, openSync } from 'node:fs';
import { PGlite } from '@electric-sql/pglite';
import { NodeFS } from '@electric-sql/pglite/nodefs';

/** A file that the embedded database has open, as far as we look at it; folders have no handle of their own. */
interface OpenFile {
  readonly nfd?: number;
  readonly node: object;
}

interface HostFiles {
  readonly stream_ops: { fsync?: (file: OpenFile) => number };
  realPath(node: object): string;
}

/**
 * The embedded database's files, with its syncs carried through to the disk. As it comes, it runs with syncing off, and its file
 * system drops the call: a power cut could take acknowledged rows, or tear pages. With the call put in and syncing on, commits
 * and checkpoints keep the order that PostgreSQL's write-ahead log relies on.
 */
export class DurableFiles extends NodeFS {
  override async init(pg: PGlite, options: Parameters<NodeFS['init']>[1]): ReturnType<NodeFS['init']> {
    const { emscriptenOpts } = await super.init(pg, options);
    const first = (module: unknown): void => {
      const files = (module as { NODEFS?: HostFiles }).NODEFS;
      if (!files) throw new Error('the embedded database has no files of its own to sync');
      files.stream_ops.fsync = (file) => {
        if (file.nfd !== undefined) fsyncSync(file.nfd);
        else syncFolder(files.realPath(file.node));
        return 0;
      };
    };
    return { emscriptenOpts: { ...emscriptenOpts, preRun: [first, ...(emscriptenOpts.preRun ?? [])] } };
  }
}

/** A folder's list of names; systems that cannot sync folders keep it by themselves. */
function syncFolder(path: string): void {
  let handle: number | undefined;
  try {
    handle = openSync(path, 'r');
    fsyncSync(handle);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code !== 'EISDIR' && code !== 'EPERM' && code !== 'EINVAL') throw error;
  } finally {
    if (handle !== undefined) closeSync(handle);
  }
}

/** As the database starts by default, but with syncing on, and by the one call that reaches the disk here. */
export const DURABLE_PARAMETERS: string[] = [
  ...PGlite.defaultStartParams.filter((parameter) => parameter !== '-F'),
  '-c',
  'wal_sync_method=fsync',
];
