import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { cp } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import type { PgDatabase, PgQueryResultHKT } from 'drizzle-orm/pg-core';
import { drizzle } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { emptyDatabase, migrationsFolder } from '../paths';
import { DURABLE_PARAMETERS, DurableFiles } from './durable';
import * as schema from './schema';

/** The rack's database, whichever make holds it. */
export type Database = PgDatabase<PgQueryResultHKT, typeof schema>;

export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];
/** The database, or a transaction on it. */
export type Reader = Database | Transaction;

export interface OpenDatabase {
  readonly db: Database;
  close(): Promise<void>;
}

/** Options for both kinds of database. */
export const DRIZZLE = { schema, casing: 'snake_case' } as const;

/** Makes the files of an empty embedded database. Takes seconds, and several hundred megabytes for a moment: done once, by the build. */
export async function initDatabase(folder: string): Promise<void> {
  await putDown(folder, async (beside) => {
    mkdirSync(beside, { recursive: true });
    const client = await PGlite.create({ fs: new DurableFiles(beside), startParams: DURABLE_PARAMETERS });
    await client.close();
  });
}

/** Makes a new embedded database, a copy of the build's empty one. @throws where the build has left none */
export async function makeDatabase(folder: string): Promise<void> {
  const empty = emptyDatabase();
  if (!isMade(empty)) throw new Error(`${empty} is missing: build the application anew (npm run build)`);
  await putDown(folder, (beside) => cp(empty, beside, { recursive: true }));
}

/** Puts the files of a folder down whole or not at all: beside it, synced, then renamed. */
async function putDown(folder: string, fill: (beside: string) => Promise<void>): Promise<void> {
  const beside = `${folder}.new`;
  rmSync(beside, { recursive: true, force: true });
  await fill(beside);
  syncTree(beside);
  rmSync(folder, { recursive: true, force: true });
  renameSync(beside, folder);
  if (process.platform !== 'win32') sync(dirname(folder));
}

/** False where an embedded database has yet to be made; what an interrupted making has left is none. */
export const isMade = (folder: string): boolean => existsSync(join(folder, 'PG_VERSION'));

/**
 * Opens the embedded database and brings it to the present schema. Acknowledged writes have reached the disk.
 * @param folder where it lies, made by `makeDatabase`
 */
export async function openDatabase(folder: string): Promise<OpenDatabase> {
  return openOn(await PGlite.create({ fs: new DurableFiles(folder), startParams: DURABLE_PARAMETERS }));
}

/** The rack's database on an embedded one that is open, brought to the present schema. */
export async function openOn(client: PGlite): Promise<OpenDatabase> {
  const db = drizzle(client, DRIZZLE);
  await migrate(db, { migrationsFolder: migrationsFolder() });
  return { db, close: () => client.close() };
}

function syncTree(folder: string): void {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) syncTree(path);
    else if (entry.isFile()) sync(path);
  }
  if (process.platform !== 'win32') sync(folder);
}

function sync(path: string): void {
  const handle = openSync(path, 'r');
  try {
    fsyncSync(handle);
  } finally {
    closeSync(handle);
  }
}
