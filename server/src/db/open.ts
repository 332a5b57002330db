import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import type { PgDatabase, PgQueryResultHKT } from 'drizzle-orm/pg-core';
import { drizzle } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { migrationsFolder } from '../paths';
import { DURABLE_PARAMETERS, DurableFiles } from './durable';
import * as schema from './schema';

/** The rack's database, whichever make holds it. */
export type Database = PgDatabase<PgQueryResultHKT, typeof schema>;

/** The database, or a transaction on it. */
export type Reader = Database | Parameters<Parameters<Database['transaction']>[0]>[0];

export interface OpenDatabase {
  readonly db: Database;
  close(): Promise<void>;
}

/** What both makes are opened with. */
export const DRIZZLE = { schema, casing: 'snake_case' } as const;

/**
 * Opens the embedded database and brings it to the present schema. What it acknowledges has reached the disk.
 * @param folder where it lives; undefined keeps it in memory, for tests
 */
export async function openDatabase(folder: string | undefined): Promise<OpenDatabase> {
  if (folder !== undefined) mkdirSync(folder, { recursive: true });
  const isNew = folder !== undefined && !existsSync(join(folder, 'PG_VERSION'));
  const client = await PGlite.create(folder === undefined ? {} : { fs: new DurableFiles(folder), startParams: DURABLE_PARAMETERS });
  // What was made before syncing began.
  if (isNew) syncTree(folder);
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
