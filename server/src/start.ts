import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { pino, type Logger } from 'pino';
import { makeApp } from './app';
import { Blobs } from './blobs';
import type { Config } from './config';
import { openDatabase } from './db/open';
import { Depot } from './depot/depot';
import { Library } from './library';
import { takeLock } from './lock';
import { webFolder } from './paths';
import { makePool } from './pool';
import { refreshFacts, seedDemo } from './seed';

export interface Running {
  readonly address: string;
  readonly log: Logger;
  /** Ends open requests, the pool and the database, in that order, and gives the data folder free. */
  stop(): Promise<void>;
}

/** Starts the server on the loopback address. */
export async function startServer(config: Config): Promise<Running> {
  const log = pino({ level: config.logLevel });
  const lock = takeLock(config.data);
  try {
    const database = await openDatabase(join(config.data, 'db'));
    const pool = makePool();
    const services = {
      blobs: new Blobs(join(config.data, 'files')),
      library: new Library(database.db),
      pool,
      depot: new Depot(config.depotLatency),
    };
    await refreshFacts(services, log);
    await seedDemo(services, log);
    const server = createServer(makeApp(services, log, webFolder()));
    await listen(server, config.port);
    const { port } = server.address() as AddressInfo;
    return {
      address: `http://localhost:${port}`,
      log,
      stop: async () => {
        await new Promise<void>((resolve) => {
          server.close(() => resolve());
          server.closeIdleConnections();
          setTimeout(() => server.closeAllConnections(), 3000).unref();
        });
        await pool.close();
        await database.close();
        lock.release();
      },
    };
  } catch (error) {
    lock.release();
    throw error;
  }
}

function listen(server: Server, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      server.off('error', reject);
      resolve();
    });
  });
}
