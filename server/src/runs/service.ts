import { EventEmitter } from 'node:events';
import { randomUUID } from 'node:crypto';
import type { Logger } from 'pino';
import type { RunAct, RunEvent, RunJson, StartRun } from '@hollow-stride/contract';
import type { Blobs } from '../blobs';
import type { Database } from '../db/open';
import { resultFiles, RowQueue } from './queue';
import { Patience } from '../db/away';
import { Runner } from './runner';
import { actOn, forgetRuns, itemOf, runOf } from './runs';
import { startRun } from './start';

/** Runs as the rest of the server sees them: started, acted on, watched. */
export class RunService {
  private readonly events = new EventEmitter().setMaxListeners(200);
  private readonly runner: Runner;

  constructor(
    private readonly db: Database,
    blobs: Blobs,
    readonly results: Blobs,
    log: Logger,
    threads?: number,
    patience = sayingOnce(log),
  ) {
    const queue = new RowQueue(db, randomUUID());
    this.runner = new Runner({ db, queue, blobs, results, log, patience, changed: (item, run) => void this.tell(run, item) }, threads);
  }

  async start(request: StartRun): Promise<RunJson> {
    const run = await startRun(this.db, request);
    this.runner.poke();
    await this.tell(run.id);
    return run;
  }

  async act(id: string, act: RunAct): Promise<void> {
    await actOn(this.db, id, act);
    if (act === 'cancel') this.runner.end(id);
    this.runner.poke();
    await this.tell(id);
  }

  /** Hears of every change until it is ended. */
  watch(hear: (event: RunEvent) => void): () => void {
    this.events.on('event', hear);
    return () => this.events.off('event', hear);
  }

  /** Tells of a run, and of one of its items. */
  async tell(run: string, item?: string): Promise<void> {
    if (this.events.listenerCount('event') === 0) return;
    try {
      if (item !== undefined) this.events.emit('event', { kind: 'item', item: await itemOf(this.db, item) } satisfies RunEvent);
      this.events.emit('event', { kind: 'run', run: await runOf(this.db, run) } satisfies RunEvent);
    } catch {
      // A removed item or run has no news.
    }
  }

  stop(): Promise<void> {
    return this.runner.stop();
  }
}

/** A run that was removed from the rack can be brought back for so long: seven days. */
const KEPT = 7 * 24 * 3600_000;

/**
 * On a rack that no other process works on: gives back what a killed process left, forgets runs that were taken off long ago, and
 * removes contents that no item refers to. Where several work, what is silent is taken up again while they do.
 */
export async function recoverRuns(db: Database, results: Blobs, log: Logger): Promise<void> {
  const given = await new RowQueue(db, 'start').recover(0);
  if (given > 0) log.warn({ items: given }, 'items of runs that were cut off are taken up again');
  const old = await forgetRuns(db, new Date(Date.now() - KEPT));
  if (old > 0) log.info({ runs: old }, 'runs that were removed from the rack long ago are forgotten');
  const known = await resultFiles(db);
  const lost = await results.sweep((hash) => known.has(hash));
  if (lost.length > 0) log.warn({ contents: lost.length }, 'results without a row removed');
}

/** Says in the log when the database goes away and when it is back, once each. */
export function sayingOnce(log: Logger): Patience {
  return new Patience((isAway) =>
    isAway ? log.warn('the database does not answer; waiting for it') : log.info('the database answers again'),
  );
}
