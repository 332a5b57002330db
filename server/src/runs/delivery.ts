import { createWriteStream } from 'node:fs';
import { mkdir, rename, unlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { and, asc, eq } from 'drizzle-orm';
import yazl from 'yazl';
import { describeFault, joinMotions, safeName, sheetCsv, sheetHtml, writeRecipe, type Fault, type SheetItem } from '@hollow-stride/core';
import type { ReportJson, RunItemJson, RunJson } from '@hollow-stride/contract';
import type { Blobs } from '../blobs';
import type { Database } from '../db/open';
import { runItems, type RunDecisions } from '../db/schema';
import { itemsOf, itemWhole } from './runs';
import { readFile } from 'node:fs/promises';
import { readMotionFile, type MotionFile } from '@hollow-stride/core';
import { recipeOf, specOf } from './spec';

/** A file of a delivery: content on disk, or made when it is its turn. */
interface Part {
  readonly path: string;
  readonly content: { readonly file: string } | { readonly make: () => Promise<Uint8Array> };
}

export interface Delivery {
  /** Of the whole, without ending. */
  readonly name: string;
  stream(): Readable;
  /** Writes everything into a folder of the delivery's name. @returns paths in it */
  into(folder: string): Promise<string[]>;
}

/**
 * What a run has delivered: its files, a manifest, check sheets as page, values and data, and a recipe for each file. What is not
 * done yet, or failed, is in the manifest with its reason.
 */
export async function writeDelivery(
  db: Database,
  run: RunJson,
  { blobs, results }: { readonly blobs: Blobs; readonly results: Blobs },
): Promise<Delivery> {
  const { items } = await itemsOf(db, run.id, 0, 10_000);
  const done = items.filter(({ state }) => state === 'done');
  const reports = new Map(
    (
      await db
        .select({ id: runItems.id, report: runItems.report, file: runItems.file })
        .from(runItems)
        .where(and(eq(runItems.run, run.id), eq(runItems.state, 'done')))
        .orderBy(asc(runItems.position))
    ).map((row) => [row.id, row]),
  );
  const decisions = items.length > 0 ? (await itemWhole(db, items[0].id)).decisions : undefined;
  const sheets = done.flatMap((item) => sheetItem(item, reports.get(item.id)?.report ?? null));
  const together = run.output.together && done.some(({ format }) => format === 'glb');
  const parts: Part[] = [
    { path: 'manifest.json', content: { make: () => Promise.resolve(bytesOf(`${JSON.stringify(manifestOf(run, items), null, 2)}\n`)) } },
    { path: 'check-sheet.html', content: { make: () => Promise.resolve(bytesOf(sheetHtml(`Check sheet: ${run.name}`, sheets))) } },
    { path: 'check-sheet.csv', content: { make: () => Promise.resolve(bytesOf(sheetCsv(sheets))) } },
    { path: 'check-sheet.json', content: { make: () => Promise.resolve(bytesOf(`${JSON.stringify(sheets)}\n`)) } },
    ...(together ? joinedParts() : done.map(filePart)),
    ...(decisions ? done.map((item) => recipePart(item, decisions)) : []),
  ];
  const name = safeName(run.name);
  return {
    name,
    stream: () => {
      const zip = new yazl.ZipFile();
      void (async () => {
        for (const { path, content } of parts) {
          if ('file' in content) zip.addFile(content.file, path);
          else zip.addBuffer(Buffer.from(await content.make()), path);
        }
        zip.end();
      })().catch((error: unknown) => zip.emit('error', error));
      return zip.outputStream as Readable;
    },
    into: async (folder) => {
      const whole = join(folder, name);
      for (const { path, content } of parts) {
        const place = join(whole, path);
        await mkdir(join(place, '..'), { recursive: true });
        // Beside, then renamed: a file that is there is never lost to one that could not be written.
        const beside = `${place}.part`;
        try {
          if ('file' in content)
            await pipeline(results.read(content.file.split(/[\\/]/).at(-1)!), createWriteStream(beside, { flush: true }));
          else await writeFile(beside, await content.make(), { flush: true });
          await rename(beside, place);
        } catch (error) {
          await unlink(beside).catch(() => undefined);
          throw error;
        }
      }
      return parts.map(({ path }) => path);
    },
  };

  function filePart(item: RunItemJson): Part {
    return { path: `files/${item.fileName}.${item.format}`, content: { file: results.path(reports.get(item.id)!.file!) } };
  }

  /** One file a character, with all its takes as motions by name. */
  function joinedParts(): Part[] {
    const byCharacter = new Map<string, RunItemJson[]>();
    for (const item of done) byCharacter.set(item.character, [...(byCharacter.get(item.character) ?? []), item]);
    return [...byCharacter.values()].flatMap((own): Part[] => {
      const glb = own.filter(({ format }) => format === 'glb');
      const joined: Part[] =
        glb.length === 0
          ? []
          : [
              {
                path: `files/${safeName(glb[0].characterName)}.glb`,
                content: {
                  make: async () => joinMotions(await Promise.all(glb.map(({ id }) => readFile(results.path(reports.get(id)!.file!))))),
                },
              },
            ];
      return [...joined, ...own.filter(({ format }) => format !== 'glb').map(filePart)];
    });
  }

  function recipePart(item: RunItemJson, of: RunDecisions): Part {
    return {
      path: `recipes/${item.fileName}.recipe.json`,
      content: {
        make: async () => {
          const spec = specOf(of, run.output, item.take, item.character);
          const read = new Map<string, MotionFile>();
          for (const reference of [spec.take.reference, spec.character.reference]) {
            if (reference && !read.has(reference.file)) {
              read.set(reference.file, await readMotionFile(await readFile(blobs.path(reference.file)), reference.name));
            }
          }
          return bytesOf(writeRecipe({ ...recipeOf(spec, ({ file }) => read.get(file)!), name: item.fileName.slice(0, 120) }));
        },
      },
    };
  }
}

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);

/** An item as a check sheet shows it. */
export function sheetItem(item: RunItemJson, report: ReportJson | null): SheetItem[] {
  if (!report) return [];
  return [
    {
      take: item.takeName,
      character: item.characterName,
      fileName: `${item.fileName}.${item.format}`,
      frames: report.frames,
      fps: report.fps,
      figures: report.figures,
      plain: report.plain,
      cautions: report.cautions.map((fault) => describeFault(fault as Fault)),
      note: item.note,
      review: item.review,
      looked: report.looked ?? undefined,
    },
  ];
}

function manifestOf(run: RunJson, items: readonly RunItemJson[]): object {
  return {
    format: 'hollow-stride/delivery',
    version: 1,
    run: run.name,
    startedAt: run.startedAt,
    output: run.output,
    items: items.map(({ takeName, characterName, state, fileName, format, bytes, summary, reduced, review, note, fault }) => ({
      take: takeName,
      character: characterName,
      state,
      file: state === 'done' ? `files/${fileName}.${format}` : null,
      bytes,
      faults: summary?.faults ?? null,
      cautions: summary?.cautions ?? null,
      worst: summary?.worst ?? null,
      reduced,
      review,
      note,
      fault,
    })),
  };
}
