/** Files as they come onto the rack, with the takes and characters in them. */
import { and, eq, isNull, sql, type SQL } from 'drizzle-orm';
import { asName, characterSchema, LIMITS, takeSchema, type CharacterJson, type FactsJson, type TakeJson } from '@hollow-stride/contract';
import * as v from 'valibot';
import { describeIssue } from './border';
import type { Reader, Transaction } from './db/open';
import { characters, files, takes } from './db/schema';
import { refuse } from './errors';
import { measureOn, skeletonOf } from './skeletons';
import { takeRows } from './takes';

/** Any number, the same in all servers on one database. */
const INTAKE_LOCK = 74_747_001;

/** Counted up when the facts of files hold more than before: files read by an older one are read again at the next start. */
export const FACTS_VERSION = 4;

/** A file that was read, to be put on the rack. */
export interface NewFile {
  readonly hash: string;
  readonly name: string;
  readonly bytes: number;
  readonly facts: FactsJson;
}

/** Facts about a file beside its content. */
export interface AboutFile {
  readonly title?: string;
  readonly isDemo?: boolean;
  readonly tags?: string[];
  readonly note?: string;
}

/** Puts a file and what it holds on the rack, within a transaction. */
export async function addFile(
  tx: Transaction,
  file: NewFile,
  { title, isDemo = false, tags = [], note = '' }: AboutFile = {},
): Promise<void> {
  const { facts, hash } = file;
  // Two files of one new skeleton that come at once stand on one skeleton, on a server of many connections too.
  await tx.execute(sql`select pg_advisory_xact_lock(${INTAKE_LOCK})`);
  const stem = asName(title ?? file.name.replace(/\.[^.]*$/, ''), 'untitled');
  const skeleton = await skeletonOf(tx, facts.skeleton, skeletonName(stem, facts));
  await tx
    .insert(files)
    .values({ ...file, skeleton, factsVersion: FACTS_VERSION })
    .onConflictDoNothing();
  await measureOn(tx, skeleton, hash, clipToMeasure(facts));
  for (const [clip, { name, frames, seconds }] of facts.clips.entries()) {
    if (frames < 2) continue;
    const own = facts.clips.length > 1 ? asName(`${stem}: ${name}`) : stem;
    await tx
      .insert(takes)
      .values({ file: hash, clip, name: own, seconds, isDemo, tags, note })
      .onConflictDoUpdate({ target: [takes.file, takes.clip], set: { removedAt: null, version: sql`${takes.version} + 1` } });
  }
  if (facts.hasMesh || !facts.clips.some(({ frames }) => frames > 1)) {
    await tx
      .insert(characters)
      .values({ file: hash, name: stem, isDemo })
      .onConflictDoUpdate({ target: characters.file, set: { removedAt: null, version: sql`${characters.version} + 1` } });
  }
}

/** The takes and characters of a file on the rack. Rows that the page could not read are not stored: the transaction is rolled back. @throws Refusal 422 */
export async function heldBy(
  tx: Reader,
  { hash, name }: Pick<NewFile, 'hash' | 'name'>,
): Promise<{ takes: TakeJson[]; characters: CharacterJson[] }> {
  return {
    takes: storable(takeSchema, await takeRows(tx, and(eq(takes.file, hash), isNull(takes.removedAt))), name),
    characters: storable(characterSchema, await characterRows(tx, and(eq(characters.file, hash), isNull(characters.removedAt))), name),
  };
}

export async function characterRows(db: Reader, where: SQL | undefined): Promise<CharacterJson[]> {
  const rows = await db
    .select()
    .from(characters)
    .innerJoin(files, eq(characters.file, files.hash))
    .where(where)
    .orderBy(characters.addedAt)
    .limit(LIMITS.rackItems);
  return rows.map(({ characters: c, files: f }) => ({
    id: c.id,
    version: c.version,
    name: c.name,
    file: c.file,
    fileName: f.name,
    bytes: f.bytes,
    skeleton: f.skeleton!,
    facts: f.facts,
    isDemo: c.isDemo,
    addedAt: c.addedAt.toISOString(),
  }));
}

/** Rows as the contract has them. @throws Refusal 422 that says what it does not let through */
function storable<S extends v.GenericSchema>(schema: S, rows: readonly v.InferOutput<S>[], file: string): v.InferOutput<S>[] {
  return rows.map((row) => {
    const result = v.safeParse(schema, row);
    if (result.success) return result.output;
    return refuse(422, `what is in the file cannot be kept: ${describeIssue(result.issues[0])}`, 'file/unknown-format', { file });
  });
}

/** The first motion of a file speaks for its skeleton; a file without one by its rest pose alone. */
export function clipToMeasure({ clips }: FactsJson): number {
  return Math.max(
    0,
    clips.findIndex(({ frames }) => frames > 1),
  );
}

/** A skeleton is called by the file that it was first met in: a take's performer, or a character's own. */
export function skeletonName(stem: string, { clips, hasMesh }: FactsJson): string {
  const isPerformer = !hasMesh && clips.some(({ frames }) => frames > 1);
  return asName(isPerformer ? `performer of ${stem}` : stem, 'untitled');
}
