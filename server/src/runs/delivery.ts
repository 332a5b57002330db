import { createReadStream, createWriteStream } from 'node:fs';
import { lstat, mkdir, open, readFile, rename, unlink, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asc, eq, inArray, sql } from 'drizzle-orm';
import yazl from 'yazl';
import { DELIVERY_FORMAT, safeName } from '@hollow-stride/core';
import type { RunJson } from '@hollow-stride/contract';
import type { Blobs } from '../blobs';
import type { Database } from '../db/open';
import { files, runItems, runs } from '../db/schema';
import { refuse } from '../errors';
import { limitsRow } from '../kept';
import type { Pool } from '../pool';
import type { Packed } from './pack';
import { itemsOf } from './runs';

export interface Delivery {
  /** Of the whole, without ending. */
  readonly name: string;
  stream(): Readable;
  /** Writes everything into a folder of the delivery's name. @returns paths in it */
  into(folder: string): Promise<string[]>;
  /** Takes away what was made for it; when it has been handed over. */
  remove(): Promise<void>;
}

/** Items that are read at once: a report may be large. */
const PAGE = 100;

/** The delivery of a run: its files, and the records that a thread makes of its items. */
export async function makeDelivery(
  db: Database,
  run: RunJson,
  { blobs, results, pool }: { readonly blobs: Blobs; readonly results: Blobs; readonly pool: Pool },
): Promise<Delivery> {
  const aside = await results.aside();
  try {
    const [{ decisions }] = await db.select({ decisions: runs.decisions }).from(runs).where(eq(runs.id, run.id));
    const rows = join(aside.folder, 'rows');
    await writeRows(db, run.id, rows);
    const hashes = [...Object.values(decisions.takes), ...Object.values(decisions.characters)].map(({ file }) => file);
    const more = Object.values(decisions.skeletons).flatMap(({ reference }) => (reference ? [reference.file] : []));
    const sizes = await db
      .select({ hash: files.hash, bytes: files.bytes })
      .from(files)
      .where(inArray(files.hash, [...new Set([...hashes, ...more])]));
    const parts = await pool.pack({
      run,
      decisions,
      limits: (await limitsRow(db)).limits,
      madeAt: new Date().toISOString(),
      rows,
      contents: blobs.folder,
      results: results.folder,
      sizes: Object.fromEntries(sizes.map(({ hash, bytes }) => [hash, bytes])),
      into: join(aside.folder, 'parts'),
    });
    return {
      name: safeName(run.name),
      stream: () => zipOf(parts),
      into: (folder) => writeInto(folder, safeName(run.name), run.id, parts),
      remove: aside.remove,
    };
  } catch (error) {
    await aside.remove();
    throw error;
  }
}

/** Writes the items of a run into a file, one a line, without ever reading the reports here: as text they go from the rows to the file. */
async function writeRows(db: Database, run: string, path: string): Promise<void> {
  const file = await open(path, 'w');
  try {
    for (let from = 0; ; from += PAGE) {
      const { items } = await itemsOf(db, run, from, PAGE);
      if (items.length === 0) return;
      const ids = items.map(({ id }) => id);
      const reports = await db
        .select({ id: runItems.id, file: runItems.file, report: sql<string | null>`${runItems.report}::text` })
        .from(runItems)
        .where(inArray(runItems.id, ids))
        .orderBy(asc(runItems.position));
      const byId = new Map(reports.map((row) => [row.id, row]));
      for (const item of items) {
        const { file: content = null, report = null } = byId.get(item.id) ?? {};
        await file.appendFile(`{"item":${JSON.stringify(item)},"file":${JSON.stringify(content)},"report":${report ?? 'null'}}\n`);
      }
    }
  } finally {
    await file.close();
  }
}

function zipOf(parts: readonly Packed[]): Readable {
  const zip = new yazl.ZipFile();
  for (const { path, location } of parts) zip.addFile(location, path);
  zip.end();
  return zip.outputStream as Readable;
}

/**
 * Writes parts into a folder of their own below another: the run's from an earlier time, or one that nobody has. A link below it is
 * not followed: files go nowhere else.
 * @returns paths in it
 */
async function writeInto(folder: string, name: string, run: string, parts: readonly Packed[]): Promise<string[]> {
  await mkdir(folder, { recursive: true });
  const whole = await ownFolder(folder, name, run);
  const made = new Set<string>();
  for (const { path, location } of parts) {
    const place = join(whole, path);
    const below = dirname(place);
    if (!made.has(below)) {
      await realFolder(below);
      made.add(below);
    }
    // Beside, then renamed: a file that is there is never lost to one that could not be written, and a link is replaced, not followed.
    const beside = `${place}.part`;
    await unlink(beside).catch(() => undefined);
    try {
      await pipeline(createReadStream(location), createWriteStream(beside, { flush: true, flags: 'wx' }));
      await rename(beside, place);
    } catch (error) {
      await unlink(beside).catch(() => undefined);
      throw error;
    }
  }
  return parts.map(({ path }) => path);
}

const OWNER = '.run';

async function ownFolder(folder: string, name: string, run: string): Promise<string> {
  for (let i = 1; ; i++) {
    const whole = join(folder, i === 1 ? name : `${name}-${i}`);
    const info = await lstat(whole).catch(() => undefined);
    if (!info) {
      await mkdir(whole);
      await writeFile(join(whole, OWNER), `${DELIVERY_FORMAT} ${run}\n`);
      return whole;
    }
    if (!info.isDirectory()) continue;
    const owner = await readFile(join(whole, OWNER), 'utf8').catch(() => '');
    if (owner.trim() === `${DELIVERY_FORMAT} ${run}`) return whole;
  }
}

/** Makes a folder that is one, not a link to another. @throws Refusal 409 */
async function realFolder(path: string): Promise<void> {
  const info = await lstat(path).catch(() => undefined);
  if (!info) await mkdir(path);
  else if (!info.isDirectory())
    refuse(409, `${path} is ${info.isSymbolicLink() ? 'a link' : 'no folder'}; take it away, and deliver again`);
}
