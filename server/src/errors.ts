import type { ErrorRequestHandler, RequestHandler } from 'express';
import { isAway } from './db/away';
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

/** An edit that was made from an older version of its row: answered with what the row is now, null where it is gone. */
export class Conflict extends Refusal {
  constructor(
    what: string,
    readonly current: unknown,
  ) {
    super(409, { code: 'option', message: `${what} was changed elsewhere meanwhile; nothing was overwritten`, where: {} });
  }
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

/** Answer to an error; undefined where the server itself is at fault. */
export function answerTo(error: unknown): { status: number; fault: Fault } | undefined {
  if (error instanceof Refusal) return { status: error.status, fault: outward(error.fault) };
  if (error instanceof FaultError) return { status: 422, fault: outward(error.fault) };
  const { status } = error as { status?: unknown };
  if (typeof status === 'number' && status >= 400 && status < 500) return { status, fault: outward(asFault(error)) };
  if (isAway(error)) return { status: 503, fault: { code: 'option', message: AWAY, where: {} } };
  const full = noPlace(error);
  return full === undefined ? undefined : { status: 507, fault: { code: 'option', message: full, where: {} } };
}

const AWAY = 'the database does not answer just now; nothing was changed. Try again in a moment';

/** Codes of the system and of the database that mean nothing can be written: 53100 is PostgreSQL's disk_full. */
const NO_PLACE: Readonly<Record<string, string>> = {
  ENOSPC: 'the disk is full',
  EDQUOT: 'the quota of the disk is used up',
  '53100': 'the disk is full',
  EROFS: 'the disk is read-only',
  EACCES: 'the server may not write there',
  EPERM: 'the server may not write there',
  ENOTDIR: 'a file stands where a folder is needed',
  EEXIST: 'a file stands where a folder is needed',
};

/** Says that something could not be written, where and why, whoever met it: our own files or the database. */
export function noPlace(error: unknown): string | undefined {
  for (let inner = error, depth = 0; inner instanceof Error && depth < 5; inner = inner.cause, depth++) {
    const { code, path } = inner as NodeJS.ErrnoException;
    const isFull = /no space left on device|Aborted\(\)/i.test(inner.message);
    const why = code !== undefined && code in NO_PLACE ? NO_PLACE[code] : isFull ? NO_PLACE['ENOSPC'] : undefined;
    if (why !== undefined) {
      const where = path === undefined ? 'the rack (HOLLOW_STRIDE_DATA)' : path;
      return `${where} cannot be written: ${why}; nothing was changed. Make room or choose another folder, and try again`;
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
    response.status(answer.status).json({ error: answer.fault, ...(error instanceof Conflict && { current: error.current }) });
    return;
  }
  request.log.error({ err: error }, 'request failed');
  response.status(500).json({ error: { code: 'option', message: 'the server failed; its log says why', where: {} } });
};
