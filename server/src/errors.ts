import type { ErrorRequestHandler, RequestHandler } from 'express';
import { asFault, FaultError, type Fault } from '@hollow-stride/core';
import * as v from 'valibot';

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

/** Checks a request's part against its schema. @throws Refusal 400 that names the place */
export function checked<S extends v.GenericSchema>(schema: S, value: unknown): v.InferOutput<S> {
  const result = v.safeParse(schema, value);
  if (result.success) return result.output;
  const issue = result.issues[0];
  const path = issue.path?.map((p: { key: unknown }) => String(p.key)).join('.');
  return refuse(400, path ? `${path}: ${issue.message}` : issue.message);
}

export const notFound: RequestHandler = (request) => refuse(404, `there is nothing at ${request.path}`);

/** The one place where thrown things become answers. */
export const answerErrors: ErrorRequestHandler = (error: unknown, request, response, next) => {
  if (response.headersSent) {
    next(error);
    return;
  }
  if (error instanceof Refusal) {
    response.status(error.status).json({ error: error.fault });
    return;
  }
  if (error instanceof FaultError) {
    response.status(422).json({ error: error.fault });
    return;
  }
  const status = (error as { status?: unknown }).status;
  if (typeof status === 'number' && status >= 400 && status < 500) {
    response.status(status).json({ error: asFault(error) });
    return;
  }
  request.log.error({ err: error }, 'request failed');
  response.status(500).json({ error: { code: 'option', message: 'the server failed; its log says why', where: {} } });
};
