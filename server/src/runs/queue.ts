import { and, asc, desc, eq, inArray, isNotNull, isNull, lt, or, sql } from 'drizzle-orm';
import type { Fault } from '@hollow-stride/core';
import type { ReportJson, SummaryJson } from '@hollow-stride/contract';
import type { Database } from '../db/open';
import { runItems, runs, type LaneItem, type RunDecisions } from '../db/schema';
import type { RunOutput } from '@hollow-stride/contract';

/** An item that someone works on. */
export interface Claim {
  readonly id: string;
  readonly run: string;
  readonly take: string;
  readonly character: string;
  readonly lane: LaneItem | null;
  readonly output: RunOutput;
  readonly decisions: RunDecisions;
}

/** Result of an item. */
export interface Finished {
  readonly input: string;
  readonly summary: SummaryJson;
  readonly report: ReportJson;
  readonly reduced: { readonly share: number; readonly worst: number } | null;
  readonly format: 'bvh' | 'glb';
  readonly file: string;
  readonly bytes: number;
  readonly seconds: number;
}

/** The items of all runs, handed out one by one to whoever asks. */
export interface Queue {
  /**
   * The next item to be worked on, claimed for this worker; undefined when none waits.
   * @param near the take that who asks worked on last, of which it knows much already: its other items come first
   * @param others takes that others work on: their items come last
   */
  claim(near?: string, others?: readonly string[]): Promise<Claim | undefined>;
  /** Says that the worker is still at it. */
  beat(ids: readonly string[]): Promise<void>;
  /** Writes a result down, once: false when the item is no longer this worker's. */
  finish(id: string, result: Finished): Promise<boolean>;
  fail(id: string, fault: Fault): Promise<boolean>;
  /** Gives an item back as it was. */
  release(id: string): Promise<void>;
  /**
   * Gives back what was claimed and not heard of for so long: by others, or by this worker when the answer to its claim was lost.
   * @param silentFor milliseconds by the database's clock
   * @returns how many
   */
  recover(silentFor: number): Promise<number>;
}

/** Runs whose decisions are held. */
const KEPT = 4;

/**
 * A queue of rows: claims are single statements on locked rows, passing over those that others hold, so that any number of
 * processes on one PostgreSQL server share it, and one alone works on the embedded database.
 */
export class RowQueue implements Queue {
  private readonly runs = new Map<string, Pick<Claim, 'output' | 'decisions'>>();

  constructor(
    private readonly db: Database,
    private readonly worker: string,
  ) {}

  async claim(near?: string, others: readonly string[] = []): Promise<Claim | undefined> {
    const rank = sql`case when ${near === undefined ? sql`false` : eq(runItems.take, near)} then 0 when ${others.length === 0 ? sql`false` : inArray(runItems.take, [...others])} then 2 else 1 end`;
    const item = await this.db.transaction(async (tx) => {
      const [next] = await tx
        .select({ id: runItems.id, run: runItems.run, take: runItems.take, character: runItems.character, lane: runItems.lane })
        .from(runItems)
        .innerJoin(runs, eq(runItems.run, runs.id))
        .where(and(eq(runItems.state, 'waiting'), eq(runs.state, 'going'), isNull(runs.removedAt)))
        .orderBy(desc(runItems.priority), asc(runs.startedAt), rank, asc(runItems.position))
        .limit(1)
        .for('update', { of: runItems, skipLocked: true });
      if (!next) return undefined;
      await tx
        .update(runItems)
        .set({ state: 'working', claimedBy: this.worker, beatAt: sql`now()` })
        .where(eq(runItems.id, next.id));
      return next;
    });
    return item && { ...item, ...(await this.decided(item.run)) };
  }

  /** The decisions that a run was started with, which never change: read once and not with each item. */
  private async decided(run: string): Promise<Pick<Claim, 'output' | 'decisions'>> {
    const known = this.runs.get(run);
    if (known) return known;
    const [row] = await this.db.select({ output: runs.output, decisions: runs.decisions }).from(runs).where(eq(runs.id, run));
    this.runs.set(run, row);
    for (const old of this.runs.keys()) if (this.runs.size > KEPT) this.runs.delete(old);
    return row;
  }

  async beat(ids: readonly string[]): Promise<void> {
    if (ids.length > 0)
      await this.db
        .update(runItems)
        .set({ beatAt: sql`now()` })
        .where(and(inArray(runItems.id, [...ids]), this.mine));
  }

  async finish(id: string, result: Finished): Promise<boolean> {
    const rows = await this.db
      .update(runItems)
      .set({ ...result, state: 'done', fault: null, claimedBy: null })
      .where(and(eq(runItems.id, id), this.mine))
      .returning({ id: runItems.id });
    return rows.length > 0;
  }

  async fail(id: string, fault: Fault): Promise<boolean> {
    const rows = await this.db
      .update(runItems)
      .set({ state: 'failed', fault, claimedBy: null })
      .where(and(eq(runItems.id, id), this.mine))
      .returning({ id: runItems.id });
    return rows.length > 0;
  }

  async release(id: string): Promise<void> {
    await this.db
      .update(runItems)
      .set({ state: 'waiting', claimedBy: null })
      .where(and(eq(runItems.id, id), this.mine));
  }

  async recover(silentFor: number): Promise<number> {
    const rows = await this.db
      .update(runItems)
      .set({ state: 'waiting', claimedBy: null })
      .where(
        and(
          eq(runItems.state, 'working'),
          or(isNull(runItems.beatAt), lt(runItems.beatAt, sql`now() - make_interval(secs => ${silentFor / 1000})`)),
        ),
      )
      .returning({ id: runItems.id });
    return rows.length;
  }

  private get mine() {
    return and(eq(runItems.state, 'working'), eq(runItems.claimedBy, this.worker));
  }
}

/** A result with the same inputs that was written before, if there is one. */
export async function knownResult(db: Database, input: string): Promise<Finished | undefined> {
  const [row] = await db
    .select()
    .from(runItems)
    .where(and(eq(runItems.input, input), eq(runItems.state, 'done'), isNotNull(runItems.file)))
    .limit(1);
  if (!row?.file || !row.summary || !row.report || !row.format) return undefined;
  const { summary, report, reduced, format, file, bytes } = row;
  return { input, summary, report, reduced, format, file, bytes: bytes ?? 0, seconds: 0 };
}

/** Contents that items refer to. */
export async function resultFiles(db: Database): Promise<Set<string>> {
  const rows = await db
    .selectDistinct({ file: sql<string>`${runItems.file}` })
    .from(runItems)
    .where(isNotNull(runItems.file));
  return new Set(rows.map(({ file }) => file));
}
