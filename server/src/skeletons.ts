import { and, eq, isNull, type SQL } from 'drizzle-orm';
import { DEFAULT_SKELETON, samePrint, type SkeletonPrint } from '@hollow-stride/core';
import type { ChangeSkeleton, SkeletonJson } from '@hollow-stride/contract';
import type { Database, Reader, Transaction } from './db/open';
import { files, skeletons } from './db/schema';
import { Conflict, refuse } from './errors';

/** The skeleton that a print is of; a new one by this name when none of those known has it. */
export async function skeletonOf(tx: Transaction, print: SkeletonPrint, name: string): Promise<string> {
  const known = await tx.select().from(skeletons).where(eq(skeletons.key, print.key)).orderBy(skeletons.addedAt);
  const same = known.find(({ key, lengths }) => samePrint({ key, lengths }, print));
  if (same) return same.id;
  const [made] = await tx
    .insert(skeletons)
    .values({ name, key: print.key, lengths: [...print.lengths], choices: DEFAULT_SKELETON })
    .returning({ id: skeletons.id });
  return made.id;
}

/** All skeletons that files stand on. */
export async function skeletonRows(db: Reader, where?: SQL): Promise<SkeletonJson[]> {
  const rows = await db
    .select({
      id: skeletons.id,
      version: skeletons.version,
      name: skeletons.name,
      choices: skeletons.choices,
      rests: skeletons.rests,
      file: files.hash,
      fileName: files.name,
      clip: skeletons.referenceClip,
    })
    .from(skeletons)
    .leftJoin(files, eq(files.hash, skeletons.referenceFile))
    .where(where)
    .orderBy(skeletons.addedAt);
  return rows.map(({ file, fileName, clip, ...row }) => ({
    ...row,
    reference: file === null || fileName === null ? null : { file, name: fileName, clip },
  }));
}

export async function hasSkeleton(db: Reader, id: string): Promise<boolean> {
  return (await db.$count(skeletons, eq(skeletons.id, id))) > 0;
}

/** Measures a skeleton on a file from now on, where it is not measured on any yet. */
export async function measureOn(tx: Transaction, skeleton: string, file: string, clip: number): Promise<void> {
  await tx
    .update(skeletons)
    .set({ referenceFile: file, referenceClip: clip })
    .where(and(eq(skeletons.id, skeleton), isNull(skeletons.referenceFile)));
}

/** @throws Refusal 404, Conflict */
export async function changeSkeleton(db: Database, id: string, { base, ...change }: ChangeSkeleton): Promise<SkeletonJson> {
  const rows = await db
    .update(skeletons)
    .set({ ...change, version: base + 1 })
    .where(and(eq(skeletons.id, id), eq(skeletons.version, base)))
    .returning({ id: skeletons.id });
  const [now] = await skeletonRows(db, eq(skeletons.id, id));
  if (!now) refuse(404, 'the skeleton is not known');
  if (rows.length === 0) throw new Conflict('the skeleton', now);
  return now;
}
