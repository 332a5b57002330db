import { mkdirSync } from 'node:fs';
import { PGlite } from '@electric-sql/pglite';
import { drizzle, type PgliteDatabase } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { migrationsFolder } from '../paths';
import * as schema from './schema';

export type Database = PgliteDatabase<typeof schema>;

export interface OpenDatabase {
  readonly db: Database;
  close(): Promise<void>;
}

/**
 * Opens the database and brings it to the present schema.
 * @param folder where it lives; undefined keeps it in memory, for tests
 */
export async function openDatabase(folder: string | undefined): Promise<OpenDatabase> {
  if (folder !== undefined) mkdirSync(folder, { recursive: true });
  const client = await PGlite.create(folder === undefined ? {} : { dataDir: folder });
  const db = drizzle(client, { schema, casing: 'snake_case' });
  await migrate(db, { migrationsFolder: migrationsFolder() });
  return { db, close: () => client.close() };
}
