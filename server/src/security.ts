import type { IncomingHttpHeaders } from 'node:http';
import type { RequestHandler } from 'express';
import helmet from 'helmet';
import { refuse } from './errors';

/** Only this machine's own names may be asked for: a page elsewhere cannot reach the server by a rebound name. */
const LOCAL_HOST = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/i;

export const localHostOnly: RequestHandler = (request, _response, next) => {
  if (!LOCAL_HOST.test(request.headers.host ?? '')) refuse(403, 'this server answers on its loopback address only');
  next();
};

/** Asked for by another page than our own; by no page at all is none. */
const isForeign = ({ origin, host }: IncomingHttpHeaders): boolean => origin !== undefined && origin !== `http://${host}`;

/** Changes come from the application's own page only. */
export const sameOriginOnly: RequestHandler = (request, _response, next) => {
  if (request.method === 'GET' || request.method === 'HEAD') {
    next();
    return;
  }
  const site = request.headers['sec-fetch-site'];
  if (isForeign(request.headers)) refuse(403, 'the request came from another page');
  if (site !== undefined && site !== 'same-origin' && site !== 'none') refuse(403, 'the request came from another page');
  next();
};

/** A line that is asked for from this machine, by our own page or by no page at all. */
export function isLocal(headers: IncomingHttpHeaders): boolean {
  return LOCAL_HOST.test(headers.host ?? '') && !isForeign(headers);
}

export const headers = helmet({
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      defaultSrc: ["'self'"],
      // Decoders of packed meshes are WebAssembly of our own.
      scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
      workerSrc: ["'self'", 'blob:'],
      connectSrc: ["'self'", 'blob:'],
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", 'data:', 'blob:'],
      fontSrc: ["'self'"],
      objectSrc: ["'none'"],
      baseUri: ["'self'"],
      frameAncestors: ["'none'"],
      formAction: ["'self'"],
    },
  },
  strictTransportSecurity: false,
});
