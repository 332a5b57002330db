import { eq, inArray } from 'drizzle-orm';
import type { LabelledTakes } from '@hollow-stride/contract';
import { files, schemes, skeletons, takes } from './db/schema';
import { refuse } from './errors';
import type { UploadServices } from './intake/one';

/** A scheme that fits less of a skeleton than this is another body's. */
const FITS = 0.6;

/** Labels the skeletons that takes stand on by a naming scheme; each once, however many of its takes are meant. */
export async function labelTakes(
  ids: readonly string[],
  schemeId: string,
  { library, blobs, pool }: UploadServices,
): Promise<LabelledTakes> {
  const { db } = library;
  const [row] = await db.select().from(schemes).where(eq(schemes.id, schemeId));
  if (!row) refuse(404, 'the naming scheme is not on the rack');
  const found = await db
    .selectDistinctOn([files.skeleton], { hash: files.hash, name: files.name, skeleton: skeletons })
    .from(takes)
    .innerJoin(files, eq(takes.file, files.hash))
    .innerJoin(skeletons, eq(files.skeleton, skeletons.id))
    .where(inArray(takes.id, [...ids]));
  const done: LabelledTakes['skeletons'] = [];
  const passed: LabelledTakes['passed'] = [];
  for (const { hash, name, skeleton } of found) {
    const result = await pool.label(blobs.path(hash), name, row.scheme);
    if ('fault' in result) passed.push({ name: skeleton.name, why: result.fault.message });
    else if (result.score < FITS) passed.push({ name: skeleton.name, why: `the scheme fits ${Math.round(result.score * 100)} % of it` });
    else {
      // The labels alone are put in, into what is decided about the skeleton by then.
      const before = await db.transaction(async (tx) => {
        const [now] = await tx.select().from(skeletons).where(eq(skeletons.id, skeleton.id)).for('update');
        await tx
          .update(skeletons)
          .set({ choices: { ...now.choices, labels: result.labels }, version: now.version + 1 })
          .where(eq(skeletons.id, skeleton.id));
        return now.choices.labels;
      });
      done.push({ id: skeleton.id, name: skeleton.name, before, after: result.labels });
    }
  }
  return { skeletons: done, passed };
}
