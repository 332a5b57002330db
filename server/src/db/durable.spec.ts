import fs, { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { syncBuiltinESMExports } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sql } from 'drizzle-orm';
import { isMade, makeDatabase, openDatabase } from './open';
import { settings } from './schema';

describe('the embedded database', () => {
  it('has every commit on the disk before it acknowledges it, and checkpoints in order', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'hollow-stride-db-'));
    const own = fs.fsyncSync;
    let syncs = 0;
    fs.fsyncSync = (handle) => {
      syncs++;
      own(handle);
    };
    syncBuiltinESMExports();
    try {
      const data = join(folder, 'db');
      expect(isMade(data)).toBeFalse();
      await makeDatabase(data);
      expect([isMade(data), existsSync(`${data}.new`)]).toEqual([true, false]);
      const { db, close } = await openDatabase(data);
      const during = async (work: () => Promise<unknown>): Promise<number> => {
        syncs = 0;
        await work();
        return syncs;
      };
      const commit = (i: number) => db.insert(settings).values({ name: `n${i}`, value: i });
      for (let i = 0; i < 5; i++) expect(await during(() => commit(i))).toBeGreaterThanOrEqual(1);
      expect(await during(() => db.select().from(settings))).toBe(0);
      // The log, the tables that were written, and the folders that name them.
      expect(await during(() => db.execute(sql`checkpoint`))).toBeGreaterThan(5);
      await close();
      const again = await openDatabase(data);
      expect(await again.db.$count(settings)).toBe(5);
      await again.close();
    } finally {
      fs.fsyncSync = own;
      syncBuiltinESMExports();
      rmSync(folder, { recursive: true });
    }
  });
});
