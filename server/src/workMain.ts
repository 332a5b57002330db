import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { pino } from 'pino';
import { Blobs } from './blobs';
import { readConfig } from './config';
import { openServerDatabase } from './db/server';
import { Library } from './library';
import { isMatched } from './rackId';
import { RunService, sayingOnce } from './runs/service';

/**
 * A worker beside a server: it takes items of runs from the same PostgreSQL database, and reads and writes contents in the same data
 * folder. It serves nothing; any number of them may work at once. It waits for a database that is away, at its start too.
 */
const ending = new AbortController();
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => ending.abort());

// Threads and idle connections do not keep a process going: without this it could run out of work while it waits, or in the middle of ending.
setInterval(() => undefined, 60_000);

try {
  const config = readConfig(process.env);
  if (config.database === undefined)
    throw new Error('a worker needs the PostgreSQL database that its server uses: set HOLLOW_STRIDE_DATABASE');
  const log = pino({ level: config.logLevel });
  const patience = sayingOnce(log);
  ending.signal.addEventListener('abort', () => patience.end());
  const database = await openServerDatabase(config.database, patience);
  const library = new Library(database.db);
  for (let said = false; !(await patience.of(() => isMatched(library, config.data))) && !ending.signal.aborted; said = true) {
    if (!said) log.info('no server has used this database and this data folder yet; waiting for one');
    await setTimeout(1000, undefined, { signal: ending.signal });
  }
  const [blobs, results] = ['files', 'results'].map((name) => new Blobs(join(config.data, name)));
  const runs = new RunService(database.db, blobs, results, log, config.threads, patience);
  process.stdout.write('A worker of Hollow Stride waits for runs.\nStop it with Ctrl+C.\n');
  if (!ending.signal.aborted) await new Promise((resolve) => ending.signal.addEventListener('abort', resolve, { once: true }));
  await runs.stop();
  for (const one of [blobs, results]) one.release();
  await database.close();
  process.exit(0);
} catch (error) {
  if (ending.signal.aborted) process.exit(0);
  process.stderr.write(`The worker of Hollow Stride cannot start: ${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
}
