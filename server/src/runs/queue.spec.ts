import { eq, ne } from 'drizzle-orm';
import { DEFAULT_OUTPUT, type ReportJson, type SummaryJson } from '@hollow-stride/contract';
import type { OpenDatabase } from '../db/open';
import { memoryDatabase } from '../testing/memory';
import { characters, files, runItems, runs, skeletons, takes } from '../db/schema';
import { RowQueue, type Finished } from './queue';

const hash = (n: number): string => String(n).padStart(64, '0');
const RESULT: Finished = {
  input: 'i',
  summary: { frames: 1 } as SummaryJson,
  report: { frames: 1 } as ReportJson,
  reduced: null,
  format: 'bvh',
  file: hash(9),
  bytes: 4,
  seconds: 1,
};

describe('the queue of runs', () => {
  let database: OpenDatabase;
  let run: string;

  beforeAll(async () => {
    database = await memoryDatabase();
    const { db } = database;
    const [skeleton] = await db
      .insert(skeletons)
      .values({ name: 's', key: 'k', lengths: [], choices: {} as never })
      .returning();
    for (const n of [1, 2])
      await db.insert(files).values({ hash: hash(n), name: `${n}.bvh`, bytes: 1, facts: {} as never, skeleton: skeleton.id });
    const [take] = await db
      .insert(takes)
      .values({ name: 't', file: hash(1) })
      .returning();
    const [character] = await db
      .insert(characters)
      .values({ name: 'c', file: hash(2) })
      .returning();
    [{ id: run }] = await db
      .insert(runs)
      .values({ name: 'r', output: DEFAULT_OUTPUT, decisions: {} as never })
      .returning({ id: runs.id });
    await db
      .insert(runItems)
      .values(
        Array.from({ length: 12 }, (_, position) => ({ run, take: take.id, character: character.id, position, fileName: `f${position}` })),
      );
  });
  afterAll(() => database.close());
  beforeEach(async () => {
    await database.db.update(runItems).set({ state: 'waiting', claimedBy: null, beatAt: null, priority: 0, file: null });
    await database.db.update(runs).set({ state: 'going' });
  });

  const stateOf = async (id: string): Promise<string> => (await database.db.select().from(runItems).where(eq(runItems.id, id)))[0].state;

  it('hands each item to one worker only, in order, what is on screen first', async () => {
    const [a, b] = [new RowQueue(database.db, 'a'), new RowQueue(database.db, 'b')];
    const rows = await database.db.select().from(runItems).orderBy(runItems.position);
    await database.db.update(runItems).set({ priority: 1 }).where(eq(runItems.id, rows[7].id));
    expect((await a.claim())!.id).toBe(rows[7].id);
    const claims = await Promise.all(Array.from({ length: 14 }, (_, i) => (i % 2 ? a : b).claim()));
    const ids = claims.flatMap((claim) => (claim ? [claim.id] : []));
    expect(ids.length).toBe(11);
    expect(new Set(ids).size).toBe(11);
    expect(ids[0]).toBe(rows[0].id);
  });

  it('goes on with the take that was worked on, and leaves alone what others work on while there is else', async () => {
    const { db } = database;
    const rows = await db.select().from(runItems).orderBy(runItems.position);
    const first = rows[0].take;
    const more = await db
      .insert(takes)
      .values([1, 2].map((clip) => ({ name: `t${clip}`, file: hash(1), clip })))
      .returning();
    for (const [i, { id }] of rows.entries())
      if (i >= 4)
        await db
          .update(runItems)
          .set({ take: more[i < 8 ? 0 : 1].id })
          .where(eq(runItems.id, id));
    const queue = new RowQueue(db, 'a');
    const claimed: string[] = [];
    const claim = async (near?: string, others?: string[]): Promise<void> => {
      const item = await queue.claim(near, others);
      claimed.push(item!.id);
    };
    await claim();
    await claim(undefined, [first]);
    await claim(first, [more[0].id]);
    await claim(more[0].id, [first]);
    expect(claimed).toEqual([rows[0].id, rows[4].id, rows[1].id, rows[5].id]);
    // Items on screen come before all others.
    await db.update(runItems).set({ priority: 1 }).where(eq(runItems.id, rows[9].id));
    await claim(first);
    expect(claimed.at(-1)).toBe(rows[9].id);
    // Nothing waits because others work on its take.
    await db.update(runItems).set({ state: 'done' }).where(ne(runItems.id, rows[3].id));
    await claim(more[1].id, [first]);
    expect(claimed.at(-1)).toBe(rows[3].id);
    await db.update(runItems).set({ take: first });
  });

  it('hands nothing out of a run that is paused or cancelled', async () => {
    const queue = new RowQueue(database.db, 'a');
    for (const state of ['paused', 'cancelled'] as const) {
      await database.db.update(runs).set({ state });
      expect(await queue.claim()).toBeUndefined();
    }
  });

  it('takes a result once, from who holds the item, and from nobody who has lost it', async () => {
    const [a, b] = [new RowQueue(database.db, 'a'), new RowQueue(database.db, 'b')];
    const { id } = (await a.claim())!;
    expect(await b.finish(id, RESULT)).toBeFalse();
    // a was silent for too long: b takes the item up, and what a then says is too late.
    expect(await b.recover(-1)).toBe(1);
    expect((await b.claim())!.id).toBe(id);
    expect(await a.finish(id, RESULT)).toBeFalse();
    expect(await b.finish(id, RESULT)).toBeTrue();
    expect(await b.finish(id, RESULT)).toBeFalse();
    expect(await b.fail(id, { code: 'option', message: 'late', where: {} })).toBeFalse();
    expect(await stateOf(id)).toBe('done');
  });

  it('leaves items alone that their worker is heard of', async () => {
    const [a, b] = [new RowQueue(database.db, 'a'), new RowQueue(database.db, 'b')];
    const { id } = (await a.claim())!;
    await a.beat([id]);
    expect(await b.recover(30_000)).toBe(0);
    await a.release(id);
    expect(await stateOf(id)).toBe('waiting');
  });
});
