import { and, eq, isNull } from 'drizzle-orm';
import { DEFAULT_TAKE, makeTakeFace } from '@hollow-stride/core';
import type { RecordingJson } from '@hollow-stride/contract';
import type { Database } from '../db/open';
import { takes } from '../db/schema';

/** Lays recordings of the demo at a take of the demo, where a person has laid none: at its start, for the clap to be found. */
export async function attachRecordings(db: Database, take: string, recordings: readonly RecordingJson[]): Promise<void> {
  const [row] = await db
    .select()
    .from(takes)
    .where(and(eq(takes.name, take), eq(takes.isDemo, true), isNull(takes.removedAt)));
  if ((row as typeof row | undefined) === undefined) return;
  let choices = row.choices ?? DEFAULT_TAKE;
  for (const { id, facts } of recordings) {
    if (facts.kind === 'face') choices = { ...choices, face: choices.face ?? makeTakeFace(id) };
    else choices = { ...choices, sound: choices.sound ?? { recording: id, offset: 0 } };
  }
  await db
    .update(takes)
    .set({ choices, version: row.version + 1 })
    .where(eq(takes.id, row.id));
}
