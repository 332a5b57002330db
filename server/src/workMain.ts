import { join } from 'node:path';
import { pino } from 'pino';
import { Blobs } from './blobs';
import { readConfig } from './config';
import { openServerDatabase } from './db/server';
import { RunService } from './runs/service';

/**
 * A worker beside a server: it takes items of runs from the same PostgreSQL database, and reads and writes contents in the same data
 * folder. It serves nothing; any number of them may work at once.
 */
const config = readConfig(process.env);
if (config.database === undefined) {
  process.stderr.write('A worker needs the PostgreSQL database that its server uses: set HOLLOW_STRIDE_DATABASE\n');
  process.exit(1);
}
const log = pino({ level: config.logLevel });
const database = await openServerDatabase(config.database);
const [blobs, results] = ['files', 'results'].map((name) => new Blobs(join(config.data, name), false));
const runs = new RunService(database.db, blobs, results, log, config.threads);
process.stdout.write('A worker of Hollow Stride waits for runs.\nStop it with Ctrl+C.\n');
await new Promise<void>((resolve) => {
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve());
});
await runs.stop();
await database.close();
process.exit(0);
