import type { Request, Response } from 'express';
import busboy from 'busboy';
import { LIMITS, type IntakeEvent } from '@hollow-stride/contract';
import { answerTo, refuse } from '../errors';
import type { UploadServices } from '../intake/one';
import { takeInAll, takenIn, type Arrived } from '../intake/takeIn';

/**
 * Takes in the files of a multipart request: each is streamed to disk while it is hashed, then read in a worker, and kept
 * only when it can be used. One file's fault does not lose the others. The answer is one JSON object, or, for who accepts
 * `application/x-ndjson`, one a line as the files are read; closing the connection ends the reading.
 */
export async function answerUpload(request: Request, response: Response, services: UploadServices): Promise<void> {
  const arrived = await receive(request, services);
  if (request.accepts(['json', 'application/x-ndjson']) === 'application/x-ndjson') {
    await tellIntake(request, response, (signal) => takeInAll(arrived, services, signal));
    return;
  }
  const ended = new AbortController();
  response.on('close', () => ended.abort());
  response.status(201).json(await takenIn(arrived, services, ended.signal));
}

/** Answers with what is told of files as they are read, one JSON object a line; closing the connection ends the reading. */
export async function tellIntake(
  request: Request,
  response: Response,
  work: (signal: AbortSignal) => AsyncGenerator<IntakeEvent, void>,
): Promise<void> {
  const ended = new AbortController();
  response.on('close', () => ended.abort());
  response.status(201);
  response.set('Cache-Control', 'no-store, no-transform').type('application/x-ndjson');
  const tell = (event: IntakeEvent): void => {
    if (!ended.signal.aborted) response.write(`${JSON.stringify(event)}\n`);
  };
  try {
    for await (const event of work(ended.signal)) tell(event);
  } catch (error) {
    // The answer has begun: what went wrong is told in it.
    const answer = answerTo(error);
    if (!answer) request.log.error({ err: error }, 'bringing in failed');
    tell({ kind: 'failed', fault: answer?.fault ?? { code: 'option', message: 'the server failed; its log says why', where: {} } });
  }
  response.end();
}

/** Streams the files of a request to disk. @throws Refusal 400, 413, 415; nothing is left behind then */
async function receive(request: Request, { blobs }: UploadServices): Promise<Arrived[]> {
  if (!/^multipart\/form-data\b/i.test(request.headers['content-type'] ?? '')) refuse(415, 'files are sent as multipart/form-data');
  const work: Promise<Arrived>[] = [];
  const parser = parserOf(request);
  try {
    await new Promise<void>((resolve, reject) => {
      parser.on('file', (_field, stream, info) => {
        const path = (info.filename ?? 'unnamed').slice(0, 1000);
        let cut = false;
        stream.on('limit', () => (cut = true));
        const job = blobs.receive(stream).then((received) => ({ received, path, cut }));
        job.catch(reject);
        work.push(job);
      });
      let many = false;
      parser.on('filesLimit', () => (many = true));
      parser.on('close', () => (many ? reject(tooMany()) : resolve()));
      parser.on('error', (error) => reject(badForm(error)));
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
    return files;
  } catch (error) {
    request.unpipe();
    parser.destroy(new Error('the upload was refused'));
    await readToEnd(request);
    for (const done of await Promise.allSettled(work)) if (done.status === 'fulfilled') await blobs.discard(done.value.received);
    throw error;
  }
}

/**
 * Reads and drops the rest of a request: who is cut off while sending never sees the answer. It ends when the sender does, or when the
 * server's time for one request is over.
 */
async function readToEnd(request: Request): Promise<void> {
  if (request.readableEnded || request.destroyed) return;
  request.resume();
  await new Promise<void>((resolve) => request.once('end', resolve).once('close', resolve));
}

function parserOf(request: Request): busboy.Busboy {
  try {
    return busboy({
      headers: request.headers,
      defParamCharset: 'utf8',
      preservePath: true,
      limits: { files: LIMITS.filesAtOnce, fileSize: LIMITS.fileBytes, fields: 0, parts: LIMITS.filesAtOnce + 100 },
    });
  } catch (error) {
    throw badForm(error);
  }
}

/** The form itself is not as it should be; the parser's own words say how. */
function badForm(error: unknown): Error {
  return Object.assign(new Error(`the form cannot be read: ${error instanceof Error ? error.message : String(error)}`), { status: 400 });
}

function tooMany(): Error {
  const message = `more than ${LIMITS.filesAtOnce} files in one request; send them in parts. None of these was taken in`;
  return Object.assign(new Error(message), { status: 413 });
}
