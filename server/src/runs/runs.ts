import { and, asc, desc, eq, inArray, isNull, lt, sql } from 'drizzle-orm';
import {
  type ChangeRunItem,
  type ReportJson,
  type RunAct,
  type RunItemJson,
  type RunItemsJson,
  type RunJson,
  type RunOutput,
} from '@hollow-stride/contract';
import type { Database } from '../db/open';
import { characters, runItems, runs, takes, type RunDecisions } from '../db/schema';
import { Conflict, refuse } from '../errors';

const MOST_RUNS = 200;

/** Removes runs that were removed from the rack before some time, with their items. @returns how many */
export async function forgetRuns(db: Database, before: Date): Promise<number> {
  const rows = await db.delete(runs).where(lt(runs.removedAt, before)).returning({ id: runs.id });
  return rows.length;
}

/** Runs on the rack, the newest first. @param ids those alone */
export async function runRows(db: Database, ids?: readonly string[]): Promise<RunJson[]> {
  const count = (state: string) => sql<number>`count(*) filter (where ${runItems.state} = ${state})::int`;
  const rows = await db
    .select({
      id: runs.id,
      version: runs.version,
      name: runs.name,
      state: runs.state,
      output: runs.output,
      startedAt: runs.startedAt,
      waiting: count('waiting'),
      working: count('working'),
      done: count('done'),
      failed: count('failed'),
      cancelled: count('cancelled'),
      spent: sql<number>`coalesce(sum(${runItems.seconds}), 0)::float8`,
    })
    .from(runs)
    .leftJoin(runItems, eq(runItems.run, runs.id))
    .where(ids ? inArray(runs.id, [...ids]) : isNull(runs.removedAt))
    .groupBy(runs.id)
    .orderBy(desc(runs.startedAt))
    .limit(MOST_RUNS);
  return rows.map(({ startedAt, ...row }) => ({ ...row, startedAt: startedAt.toISOString() }));
}

export async function runOf(db: Database, id: string): Promise<RunJson> {
  const [row] = await runRows(db, [id]);
  return (row as RunJson | undefined) ?? refuse(404, 'there is no such run');
}

/** Columns of an item that lists need: not its whole report. */
const LISTED = {
  id: runItems.id,
  version: runItems.version,
  run: runItems.run,
  take: runItems.take,
  character: runItems.character,
  lane: sql<RunItemJson['lane']>`${runItems.lane} - 'name'`,
  takeName: sql<string>`coalesce(${runItems.lane}->>'name', ${takes.name})`,
  characterName: characters.name,
  tags: takes.tags,
  state: runItems.state,
  fault: runItems.fault,
  summary: runItems.summary,
  fileName: runItems.fileName,
  format: runItems.format,
  bytes: runItems.bytes,
  reduced: runItems.reduced,
  seconds: runItems.seconds,
  review: runItems.review,
  note: runItems.note,
};

function listed(db: Database) {
  return db
    .select(LISTED)
    .from(runItems)
    .innerJoin(takes, eq(runItems.take, takes.id))
    .innerJoin(characters, eq(runItems.character, characters.id));
}

export async function itemsOf(db: Database, run: string, from: number, most: number): Promise<RunItemsJson> {
  const [whole, items, total] = await Promise.all([
    runOf(db, run),
    listed(db).where(eq(runItems.run, run)).orderBy(asc(runItems.position)).limit(most).offset(from),
    db.$count(runItems, eq(runItems.run, run)),
  ]);
  return { run: whole, items, total };
}

export async function itemOf(db: Database, id: string): Promise<RunItemJson> {
  const [item] = await listed(db).where(eq(runItems.id, id));
  return (item as RunItemJson | undefined) ?? refuse(404, 'there is no such item');
}

/** Report of an item, the content of its file, and its inputs. */
export async function itemWhole(
  db: Database,
  id: string,
): Promise<{ item: RunItemJson; report: ReportJson | null; file: string | null; output: RunOutput; decisions: RunDecisions }> {
  const [row] = await db
    .select({ report: runItems.report, file: runItems.file, output: runs.output, decisions: runs.decisions })
    .from(runItems)
    .innerJoin(runs, eq(runItems.run, runs.id))
    .where(eq(runItems.id, id));
  if (!row) refuse(404, 'there is no such item');
  return { item: await itemOf(db, id), ...row };
}

/** Reviews an item or notes something of it. @throws Refusal 404, Conflict */
export async function changeItem(db: Database, id: string, { base, ...change }: ChangeRunItem): Promise<RunItemJson> {
  const rows = await db
    .update(runItems)
    .set({ ...change, version: base + 1 })
    .where(and(eq(runItems.id, id), eq(runItems.version, base)))
    .returning({ id: runItems.id });
  const item = await itemOf(db, id);
  if (rows.length === 0) throw new Conflict('the item', item);
  return item;
}

/** Pauses, resumes or cancels a run, or puts what failed or was cancelled back into the queue. */
export async function actOn(db: Database, id: string, act: RunAct): Promise<void> {
  await runOf(db, id);
  await db.transaction(async (tx) => {
    if (act === 'pause')
      await tx
        .update(runs)
        .set({ state: 'paused' })
        .where(and(eq(runs.id, id), eq(runs.state, 'going')));
    if (act === 'resume' || act === 'retry') await tx.update(runs).set({ state: 'going' }).where(eq(runs.id, id));
    if (act === 'cancel') {
      await tx.update(runs).set({ state: 'cancelled' }).where(eq(runs.id, id));
      await tx
        .update(runItems)
        .set({ state: 'cancelled', claimedBy: null })
        .where(and(eq(runItems.run, id), inArray(runItems.state, ['waiting', 'working'])));
    }
    if (act === 'retry') {
      await tx
        .update(runItems)
        .set({ state: 'waiting', fault: null, claimedBy: null })
        .where(and(eq(runItems.run, id), inArray(runItems.state, ['failed', 'cancelled'])));
    }
  });
}

/** Puts items first: those that are on screen. */
export async function putFirst(db: Database, run: string, items: readonly string[]): Promise<void> {
  await db
    .update(runItems)
    .set({ priority: 0 })
    .where(and(eq(runItems.run, run), eq(runItems.state, 'waiting'), sql`${runItems.priority} > 0`));
  if (items.length > 0)
    await db
      .update(runItems)
      .set({ priority: 1 })
      .where(and(eq(runItems.run, run), inArray(runItems.id, [...items])));
}
