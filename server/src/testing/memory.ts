import { PGlite } from '@electric-sql/pglite';
import { openOn, type OpenDatabase } from '../db/open';

let made: Promise<Blob | File> | undefined;

/** A database in memory, brought to the present schema. Only the first is made from nothing: that takes seconds. */
export async function memoryDatabase(): Promise<OpenDatabase> {
  made ??= makeOne();
  return openOn(await PGlite.create({ loadDataDir: await made }));
}

async function makeOne(): Promise<Blob | File> {
  const client = await PGlite.create();
  await openOn(client);
  const files = await client.dumpDataDir('none');
  await client.close();
  return files;
}
