import type { Request } from 'express';
import busboy from 'busboy';
import { LIMITS, type UploadJson } from '@hollow-stride/contract';
import type { Blobs, Received } from '../blobs';
import type { Library } from '../library';
import type { Pool } from '../pool';
import { refuse } from '../errors';

export interface UploadServices {
  readonly blobs: Blobs;
  readonly library: Library;
  readonly pool: Pool;
}

type Entry = UploadJson['files'][number];

/**
 * Takes in the files of a multipart request: each is streamed to disk while it is hashed, read in a worker, and kept only
 * when it can be used. One file's fault does not lose the others.
 */
export async function receiveUpload(request: Request, services: UploadServices): Promise<UploadJson> {
  const type = request.headers['content-type'] ?? '';
  if (!type.startsWith('multipart/form-data')) refuse(415, 'files are sent as multipart/form-data');
  const parser = busboy({
    headers: request.headers,
    defParamCharset: 'utf8',
    limits: { files: LIMITS.filesAtOnce, fileSize: LIMITS.fileBytes, fields: 0, parts: LIMITS.filesAtOnce + 1 },
  });
  const work: Promise<Entry>[] = [];
  await new Promise<void>((resolve, reject) => {
    parser.on('file', (_field, stream, info) => {
      const name = (info.filename ?? 'unnamed').replace(/^.*[\\/]/, '').slice(0, 200) || 'unnamed';
      let cut = false;
      stream.on('limit', () => (cut = true));
      const job = services.blobs.receive(stream).then((received) => takeIn(received, name, cut, services));
      job.catch(reject);
      work.push(job);
    });
    parser.on('close', resolve);
    parser.on('error', reject);
    request.on('aborted', () => {
      // Ends the file that was on its way too, so that its temporary copy is taken away.
      const broken = new Error('the upload was broken off');
      parser.destroy(broken);
      reject(broken);
    });
    request.pipe(parser);
  });
  const files = await Promise.all(work);
  if (files.length === 0) refuse(400, 'the request holds no file');
  return { files };
}

async function takeIn(received: Received, fileName: string, cut: boolean, { blobs, library, pool }: UploadServices): Promise<Entry> {
  const none = { fileName, known: false, takes: [], characters: [] };
  try {
    if (cut) {
      return {
        ...none,
        error: {
          code: 'file/too-large',
          message: `the file is larger than ${LIMITS.fileBytes / 1024 / 1024} MB`,
          where: { file: fileName },
        },
      };
    }
    const known = await library.hasFile(received.hash);
    const result = await pool.analyse(received.path, fileName);
    if ('fault' in result) return { ...none, error: result.fault };
    if (!(await blobs.has(received.hash))) await blobs.keep(received);
    const added = await library.addFile({ hash: received.hash, name: fileName, bytes: received.bytes, facts: result.facts });
    return { fileName, known, ...added };
  } finally {
    await blobs.discard(received);
  }
}
