import { createServer, type RequestListener, type Server } from 'node:http';

/**
 * How long a connection without a request is kept, in ms. Longer than Node.js's own 5 s: whoever is about to reuse a connection when
 * it closes reads a reset, and on a machine that stalls for some seconds that is any request.
 */
const IDLE = 65_000;

/** The server that an application answers on, not listening yet. */
export function webServer(app: RequestListener): Server {
  return createServer({ keepAliveTimeout: IDLE }, app);
}

/** Listens on the loopback address. @param port 0 takes a free one @throws when the port is taken */
export function listen(server: Server, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      server.off('error', reject);
      resolve();
    });
  });
}
