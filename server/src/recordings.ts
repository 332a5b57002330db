import { asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { recordingFacts } from '@hollow-stride/core';
import {
  asName,
  LIMITS,
  recordingFactsSchema,
  recordingSchema,
  type RecordingFactsJson,
  type RecordingJson,
} from '@hollow-stride/contract';
import * as v from 'valibot';
import { describeIssue, tidied } from './border';
import type { Database, Reader, Transaction } from './db/open';
import { recordings } from './db/schema';
import { refuse } from './errors';

/** Files that may hold a face or a sound, by the endings of their names. */
export const RECORDING = /\.(csv|tsv|wav|json)$/i;

/** Recordings that are on the rack, oldest first. */
export async function recordingRows(db: Reader): Promise<RecordingJson[]> {
  const rows = await db
    .select()
    .from(recordings)
    .where(isNull(recordings.removedAt))
    .orderBy(asc(recordings.addedAt))
    .limit(LIMITS.rackItems);
  return rows.map(recordingJson);
}

/** Recordings by their ids, on the rack or not. */
export async function recordingsById(db: Reader, ids: readonly string[]): Promise<Map<string, RecordingJson>> {
  const known = ids.filter((id) => v.is(recordingSchema.entries.id, id));
  const rows = known.length === 0 ? [] : await db.select().from(recordings).where(inArray(recordings.id, known));
  return new Map(rows.map((row) => [row.id, recordingJson(row)]));
}

/** Facts about a recording in the form of the contract. @throws FaultError of the readers; Refusal 422 */
export async function readRecording(bytes: Uint8Array, name: string): Promise<RecordingFactsJson> {
  const result = v.safeParse(recordingFactsSchema, tidied(await recordingFacts(bytes, name)));
  if (result.success) return result.output;
  return refuse(422, `what is in the file cannot be kept: ${describeIssue(result.issues[0])}`, 'face/table', { file: name });
}

/** A recording that was read, to be put on the rack. */
export interface NewRecording {
  readonly file: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly facts: RecordingFactsJson;
}

/** Puts a recording on the rack; one whose content is there already comes back onto it. */
export async function addRecording(
  db: Database | Transaction,
  recording: NewRecording,
  { title, isDemo = false }: { readonly title?: string; readonly isDemo?: boolean } = {},
): Promise<RecordingJson> {
  const name = asName(title ?? recording.fileName.replace(/\.[^.]*$/, ''), 'untitled');
  const [row] = await db
    .insert(recordings)
    .values({ ...recording, name, isDemo })
    .onConflictDoUpdate({ target: recordings.file, set: { removedAt: null, version: sql`${recordings.version} + 1` } })
    .returning();
  return recordingJson(row);
}

/** The recording of a content, on the rack or not. */
export async function recordingOfContent(db: Reader, file: string): Promise<RecordingJson | undefined> {
  const [row] = await db.select().from(recordings).where(eq(recordings.file, file));
  return (row as typeof row | undefined) && recordingJson(row);
}

function recordingJson({ addedAt, removedAt: _, ...row }: typeof recordings.$inferSelect): RecordingJson {
  return { ...row, addedAt: addedAt.toISOString() };
}
