import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { pino, type Logger } from 'pino';
import { makeApp } from './app';
import { Blobs } from './blobs';
import { Changes } from './changes';
import type { Config } from './config';
import { isMade, makeDatabase, openDatabase, type OpenDatabase } from './db/open';
import { openServerDatabase } from './db/server';
import { Depot } from './depot/depot';
import { makeDesk } from './desk/desk';
import { openLines } from './desk/socket';
import { Library } from './library';
import { takeLock } from './lock';
import { webFolder } from './paths';
import { makePool } from './pool';
import { matchRack } from './rackId';
import { recoverRuns, RunService, sayingOnce } from './runs/service';
import { refreshFacts, seedDemo, sweepContent } from './seed';
import { listen, webServer } from './http';

export interface Running {
  readonly address: string;
  readonly log: Logger;
  /** Ends open requests, the pool and the database, in that order, and gives the data folder free. */
  stop(): Promise<void>;
}

/**
 * Starts the server on the loopback address.
 * @param signal ends the start; what was done of it is kept and the next start goes on from there
 */
export async function startServer(config: Config, signal: AbortSignal = new AbortController().signal): Promise<Running> {
  const log = pino({ level: config.logLevel });
  /** Cleanup steps, last first. */
  const undo: (() => Promise<void> | void)[] = [];
  const stop = async (): Promise<void> => {
    for (let step = undo.pop(); step; step = undo.pop()) await step();
  };
  try {
    const lock = takeLock(config.data);
    undo.push(() => lock.release());
    const patience = sayingOnce(log);
    const giveUp = (): void => patience.end();
    signal.addEventListener('abort', giveUp);
    const database = await (config.database === undefined
      ? openOwn(join(config.data, 'db'))
      : openServerDatabase(config.database, patience));
    undo.push(() => database.close());
    signal.removeEventListener('abort', giveUp);
    signal.throwIfAborted();
    const library = new Library(database.db);
    await matchRack(library, config.data);
    const pool = makePool((error) => log.error({ err: error }, 'a thread broke'));
    undo.push(() => pool.close());
    const [blobs, results] = ['files', 'results'].map((name) => new Blobs(join(config.data, name)));
    undo.push(() => [blobs, results].forEach((one) => one.release()));
    if (config.database === undefined) await recoverRuns(database.db, results, log);
    const runs = new RunService(database.db, blobs, results, log, config.threads, patience);
    undo.push(() => runs.stop());
    const shared = { blobs, library, pool, depot: new Depot(config.depotLatency) };
    const desk = makeDesk(join(config.data, 'desk'), shared, log);
    undo.push(async () => {
      desk.ring.disconnect();
      await desk.recorder.end();
    });
    const services = {
      ...shared,
      desk,
      runs,
      changes: new Changes(),
      outFolder: config.out,
    };
    await sweepContent(services, log);
    await refreshFacts(services, log, signal);
    await desk.recorder.recover();
    await seedDemo(services, log, config.demo, signal);
    const server = webServer(makeApp(services, log, webFolder()));
    await listen(server, config.port);
    undo.push(() => closed(server));
    undo.push(openLines(server, desk.hub));
    return { address: `http://localhost:${(server.address() as AddressInfo).port}`, log, stop };
  } catch (error) {
    await stop();
    throw error;
  }
}

async function openOwn(folder: string): Promise<OpenDatabase> {
  if (!isMade(folder)) await makeDatabase(folder);
  return openDatabase(folder);
}

/** Open requests may finish for a while. */
function closed(server: Server): Promise<void> {
  return new Promise((resolve) => {
    server.close(() => resolve());
    server.closeIdleConnections();
    setTimeout(() => server.closeAllConnections(), 3000).unref();
  });
}
