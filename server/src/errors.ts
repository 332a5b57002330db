import type { ErrorRequestHandler, RequestHandler } from 'express';
import { asFault, FaultError, shortened, wellFormed, type Fault } from '@hollow-stride/core';

/** A refusal with its HTTP status. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly fault: Fault,
  ) {
    super(fault.message);
  }
}

export function refuse(status: number, message: string, code: Fault['code'] = 'option', where: Fault['where'] = {}): never {
  throw new Refusal(status, { code, message, where });
}

/** A fault no longer than the contract lets through. */
export function outward({ code, message, where }: Fault): Fault {
  const short = (text: string, most: number): string => shortened(wellFormed(text), most);
  return {
    code,
    message: short(message, 2000),
    where: {
      ...where,
      ...(where.file === undefined ? {} : { file: short(where.file, 400) }),
      ...(where.joint === undefined ? {} : { joint: short(where.joint, 400) }),
    },
  };
}

export const notFound: RequestHandler = (request) => refuse(404, `there is nothing at ${request.path}`);

/** What a thrown thing is answered with; undefined where the server itself is at fault. */
export function answerTo(error: unknown): { status: number; fault: Fault } | undefined {
  if (error instanceof Refusal) return { status: error.status, fault: outward(error.fault) };
  if (error instanceof FaultError) return { status: 422, fault: outward(error.fault) };
  const { status } = error as { status?: unknown };
  if (typeof status === 'number' && status >= 400 && status < 500) return { status, fault: outward(asFault(error)) };
  const full = fullDisk(error);
  if (full === undefined) return undefined;
  return { status: 507, fault: { code: 'option', message: full, where: {} } };
}

/** Says that there is no room, whoever met it: our own files or the database. */
export function fullDisk(error: unknown): string | undefined {
  for (let inner = error, depth = 0; inner instanceof Error && depth < 5; inner = inner.cause, depth++) {
    const code = (inner as NodeJS.ErrnoException).code;
    // 53100 is PostgreSQL's disk_full.
    if (code === 'ENOSPC' || code === 'EDQUOT' || code === '53100' || /no space left on device/i.test(inner.message)) {
      return 'the disk that the rack lies on is full; nothing was changed. Make room, or move the data folder (HOLLOW_STRIDE_DATA), and try again';
    }
  }
  return undefined;
}

/** The one place where thrown things become answers. */
export const answerErrors: ErrorRequestHandler = (error: unknown, request, response, next) => {
  if (response.headersSent) {
    next(error);
    return;
  }
  const answer = answerTo(error);
  if (answer) {
    response.status(answer.status).json({ error: answer.fault });
    return;
  }
  request.log.error({ err: error }, 'request failed');
  response.status(500).json({ error: { code: 'option', message: 'the server failed; its log says why', where: {} } });
};
