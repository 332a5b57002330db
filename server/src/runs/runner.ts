import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import type { Logger } from 'pino';
import type { Fault } from '@hollow-stride/core';
import { Blobs } from '../blobs';
import type { Database } from '../db/open';
import { isAway, type Patience } from '../db/away';
import { noPlace } from '../errors';
import { knownResult, type Claim, type Finished, type Queue } from './queue';
import { threadOf } from '../threads';
import { bodiesOf, inputOf, nameOf, transfersOf, workOf } from './spec';
import type { ItemJob, ItemResult } from './solveItem';

/** Longest that one item may take. */
const TIME_LIMIT = 10 * 60_000;
/** A worker is heard of every so often; one that is silent for longer than the second is taken for dead. */
const BEAT = 5000;
const SILENT = 15_000;

export interface RunnerServices {
  readonly db: Database;
  readonly queue: Queue;
  /** Contents that people brought, and those that runs have written. */
  readonly blobs: Blobs;
  readonly results: Blobs;
  readonly log: Logger;
  /** Waits for a database that is away. */
  readonly patience: Patience;
  /** Told when something of an item or of its run has changed. */
  readonly changed: (item: string, run: string) => void;
}

/** Works through the queue on worker threads, one for each core; memory is bounded by what one item may take on each. */
export class Runner {
  private readonly pools: Piscina<ItemJob, ItemResult>[] = [];
  /** The take that each loop worked on last. */
  private readonly takes: (string | undefined)[] = [];
  private readonly working = new Map<string, { readonly ended: AbortController; readonly run: string }>();
  private readonly loops: Promise<void>[] = [];
  private readonly beat: NodeJS.Timeout;
  private stopped = false;
  /** Since when the database has answered: who was not heard of while it was away is not silent. */
  private steadySince = performance.now();
  private wake: (() => void)[] = [];

  constructor(
    private readonly services: RunnerServices,
    readonly threads = Math.max(1, availableParallelism()),
  ) {
    for (let i = 0; i < threads; i++) {
      // A pool of one each: what a thread knows of a take is of use to the next item of it.
      this.pools.push(
        new Piscina({
          ...threadOf('itemWorker', import.meta.url, '..'),
          minThreads: 0,
          maxThreads: 1,
          idleTimeout: 10_000,
          resourceLimits: { maxOldGenerationSizeMb: 1024, maxYoungGenerationSizeMb: 64 },
        }),
      );
      this.loops.push(this.loop(i));
    }
    // A worker has nothing else that keeps its process going while it waits.
    this.beat = setInterval(() => void this.pulse(), BEAT);
  }

  /** Something waits: those that have nothing to do look again. */
  poke(): void {
    for (const wake of this.wake.splice(0)) wake();
  }

  /** Ends the items of a run that are being worked on. */
  end(run: string): void {
    for (const one of this.working.values()) if (one.run === run) one.ended.abort();
  }

  /** Takes no more items, and gives back what is being worked on. */
  async stop(): Promise<void> {
    this.stopped = true;
    clearInterval(this.beat);
    for (const { ended } of this.working.values()) ended.abort();
    this.services.patience.end();
    this.poke();
    await Promise.all(this.loops);
    await Promise.all(this.pools.map((pool) => pool.destroy()));
  }

  private async loop(at: number): Promise<void> {
    while (!this.stopped) {
      const others = this.takes.filter((take, i) => i !== at && take !== undefined) as string[];
      const { queue, patience, log } = this.services;
      const claim = await patience
        .of(() => queue.claim(this.takes[at], others))
        .catch((error: unknown) => {
          if (!this.stopped) log.error({ err: error }, 'no item could be claimed');
          return undefined;
        });
      this.takes[at] = claim?.take;
      if (claim) await this.work(claim, this.pools[at]);
      else if (!this.stopped) await this.rest();
    }
  }

  /** Waits until something is to be done; other processes may put it there, so it looks by itself now and then. */
  private rest(): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, BEAT);
      timer.unref();
      this.wake.push(() => {
        clearTimeout(timer);
        resolve();
      });
    });
  }

  private async work({ id, run, output, decisions, ...item }: Claim, pool: Runner['pools'][number]): Promise<void> {
    const { db, queue, results, log, patience, changed } = this.services;
    const ended = new AbortController();
    this.working.set(id, { ended, run });
    changed(id, run);
    try {
      const spec = workOf(decisions, output, item);
      const input = inputOf(spec);
      const known = await patience.of(() => knownResult(db, input));
      const result = known && (await results.has(known.file)) ? known : await this.solve(spec, input, ended.signal, pool);
      await patience.of<unknown>(() =>
        ended.signal.aborted ? queue.release(id) : 'fault' in result ? queue.fail(id, result.fault) : queue.finish(id, result),
      );
    } catch (error) {
      // An item stopped while the database is away is recovered later by any process, as it has fallen silent.
      if (!this.stopped) {
        log.error({ err: error, item: id }, 'an item failed');
        const message = noPlace(error) ?? 'the server failed at this item; its log says why';
        await queue.fail(id, { code: 'option', message, where: {} }).catch(() => undefined);
      }
    } finally {
      this.working.delete(id);
      changed(id, run);
    }
  }

  private async solve(
    spec: ItemJob['spec'],
    input: string,
    signal: AbortSignal,
    pool: Runner['pools'][number],
  ): Promise<Finished | { fault: Fault }> {
    const { blobs, results, log } = this.services;
    const faces = transfersOf(spec).flatMap(({ take }) => take.face ?? []);
    const hashes = [...bodiesOf(spec).map(({ body }) => body.file), ...faces.map(({ file }) => file)];
    const paths = Object.fromEntries(hashes.map((hash) => [hash, blobs.path(hash)]));
    const aside = await results.aside();
    const start = performance.now();
    try {
      const into = join(aside.folder, randomUUID());
      const limit = AbortSignal.timeout(TIME_LIMIT);
      const result = await pool
        .run({ spec, paths, into }, { signal: AbortSignal.any([signal, limit]) })
        .catch((error: unknown): ItemResult => {
          const message = signal.aborted
            ? 'solving was ended'
            : limit.aborted
              ? `solving took more than ${TIME_LIMIT / 60_000} minutes`
              : `solving failed: ${error instanceof Error ? error.message : String(error)}`;
          if (!signal.aborted && !limit.aborted) log.error({ err: error, item: nameOf(spec) }, 'a thread failed at an item');
          return { fault: { code: 'option', message, where: { file: nameOf(spec) } } };
        });
      if ('fault' in result) return result;
      const received = await Blobs.measure(into);
      await results.keep(received);
      const { summary, report, reduced, format } = result;
      const seconds = (performance.now() - start) / 1000;
      return { input, summary, report, reduced, format, file: received.hash, bytes: received.bytes, seconds };
    } finally {
      await aside.remove();
    }
  }

  private async pulse(): Promise<void> {
    const { queue, log } = this.services;
    try {
      await queue.beat([...this.working.keys()]);
      if (performance.now() - this.steadySince > SILENT && (await queue.recover(SILENT)) > 0) this.poke();
    } catch (error) {
      this.steadySince = performance.now();
      if (!isAway(error)) log.error({ err: error }, 'the queue could not be kept');
    }
  }
}
