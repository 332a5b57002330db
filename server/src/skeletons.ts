import { and, eq, isNull } from 'drizzle-orm';
import { DEFAULT_SKELETON, samePrint, type SkeletonPrint } from '@hollow-stride/core';
import type { ChangeSkeleton, SkeletonJson } from '@hollow-stride/contract';
import type { Database } from './db/open';
import { files, skeletons } from './db/schema';
import { refuse } from './errors';

type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

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
export async function skeletonRows(db: Database): Promise<SkeletonJson[]> {
  const rows = await db
    .select({
      id: skeletons.id,
      name: skeletons.name,
      choices: skeletons.choices,
      rests: skeletons.rests,
      file: files.hash,
      fileName: files.name,
      clip: skeletons.referenceClip,
    })
    .from(skeletons)
    .leftJoin(files, eq(files.hash, skeletons.referenceFile))
    .orderBy(skeletons.addedAt);
  return rows.map(({ file, fileName, clip, ...row }) => ({
    ...row,
    reference: file === null || fileName === null ? null : { file, name: fileName, clip },
  }));
}

export async function hasSkeleton(db: Database, id: string): Promise<boolean> {
  return (await db.$count(skeletons, eq(skeletons.id, id))) > 0;
}

/** Measures a skeleton on a file from now on, where it is not measured on any yet. */
export async function measureOn(tx: Transaction, skeleton: string, file: string, clip: number): Promise<void> {
  await tx
    .update(skeletons)
    .set({ referenceFile: file, referenceClip: clip })
    .where(and(eq(skeletons.id, skeleton), isNull(skeletons.referenceFile)));
}

export async function changeSkeleton(db: Database, id: string, change: ChangeSkeleton): Promise<void> {
  const rows = await db.update(skeletons).set(change).where(eq(skeletons.id, id)).returning({ id: skeletons.id });
  if (rows.length === 0) refuse(404, 'the skeleton is not known');
}
