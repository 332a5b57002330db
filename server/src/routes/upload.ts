import type { Request } from 'express';
import busboy from 'busboy';
import { LIMITS, type UploadJson } from '@hollow-stride/contract';
import { refuse } from '../errors';
import { takeInAll, type Arrived, type UploadServices } from '../intake/takeIn';

/**
 * Takes in the files of a multipart request: each is streamed to disk while it is hashed, then read in a worker, and kept
 * only when it can be used. One file's fault does not lose the others.
 */
export async function receiveUpload(request: Request, services: UploadServices): Promise<UploadJson> {
  const type = request.headers['content-type'] ?? '';
  if (!type.startsWith('multipart/form-data')) refuse(415, 'files are sent as multipart/form-data');
  const parser = busboy({
    headers: request.headers,
    defParamCharset: 'utf8',
    preservePath: true,
    limits: { files: LIMITS.filesAtOnce, fileSize: LIMITS.fileBytes, fields: 0, parts: LIMITS.filesAtOnce + 1 },
  });
  const work: Promise<Arrived>[] = [];
  await new Promise<void>((resolve, reject) => {
    parser.on('file', (_field, stream, info) => {
      const path = (info.filename ?? 'unnamed').slice(0, 1000);
      let cut = false;
      stream.on('limit', () => (cut = true));
      const job = services.blobs.receive(stream).then((received) => ({ received, path, cut }));
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
  return takeInAll(files, services);
}
