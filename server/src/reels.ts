import { and, asc, eq, isNull } from 'drizzle-orm';
import { LIMITS, type ChangeReel, type ReelJson, type SaveReel } from '@hollow-stride/contract';
import type { Database, Reader } from './db/open';
import { reels } from './db/schema';
import { Conflict, refuse } from './errors';
import { hasRoom } from './kept';

/** Reels that are on the rack, oldest first. */
export async function reelRows(db: Reader): Promise<ReelJson[]> {
  const rows = await db.select().from(reels).where(isNull(reels.removedAt)).orderBy(asc(reels.addedAt)).limit(LIMITS.sets);
  return rows.map(reelJson);
}

/** Puts a reel on the rack. @throws Refusal 409 */
export async function addReel(db: Database, reel: SaveReel): Promise<ReelJson> {
  hasRoom(await db.$count(reels, isNull(reels.removedAt)), 'reels');
  const [row] = await db.insert(reels).values(reel).returning();
  return reelJson(row);
}

/** @throws Refusal 404, Conflict */
export async function changeReel(db: Database, id: string, { base, ...change }: ChangeReel): Promise<ReelJson> {
  const rows = await db
    .update(reels)
    .set({ ...change, version: base + 1 })
    .where(and(eq(reels.id, id), eq(reels.version, base)))
    .returning();
  if (rows.length > 0) return reelJson(rows[0]);
  const [now] = await db.select().from(reels).where(eq(reels.id, id));
  if ((now as typeof now | undefined) === undefined) refuse(404, 'the reel is not known');
  throw new Conflict('the reel', reelJson(now));
}

function reelJson({ id, version, name, content, addedAt }: typeof reels.$inferSelect): ReelJson {
  return { id, version, name, content, addedAt: addedAt.toISOString() };
}
