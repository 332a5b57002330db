import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { createInterface } from 'node:readline';
import {
  checkSheetRecord,
  DELIVERY_FORMAT,
  describeFault,
  joinMotions,
  limitsInForce,
  Names,
  PROGRAM,
  rateOf,
  readMotionFile,
  REEL_FORMAT,
  REEL_VERSION,
  safeName,
  sheetCsv,
  sheetHtml,
  takesOfClip,
  verdictOf,
  withLimits,
  worstVerdict,
  writeRecipe,
  type DeliveryRecord,
  type Fault,
  type MotionFile,
  type SheetItem,
} from '@hollow-stride/core';
import type { ProductionLimits, ReportJson, RunItemJson, RunJson } from '@hollow-stride/contract';
import type { RunDecisions } from '../db/schema';
import { bodiesOf, isLane, recipeOf, transfersOf, workOf, type ItemSpec, type LaneSpec } from './spec';

/** A thread's job: make the parts of a delivery. */
export interface PackJob {
  readonly run: RunJson;
  readonly decisions: RunDecisions;
  readonly limits: ProductionLimits;
  /** ISO time. */
  readonly madeAt: string;
  /** A file with one item a line, in order. */
  readonly rows: string;
  /** Folders in which contents lie by their hash: what people brought, what runs have written. */
  readonly contents: string;
  readonly results: string;
  /** Bytes of each content that people brought. */
  readonly sizes: Readonly<Record<string, number>>;
  /** Where what is made is written. */
  readonly into: string;
}

/** One item of a run with its whole report and the content of its file, as it stands in a line. */
export interface PackRow {
  readonly item: RunItemJson;
  readonly report: ReportJson | null;
  readonly file: string | null;
}

/** A file of a delivery: its path in it, and where it lies. */
export interface Packed {
  readonly path: string;
  readonly location: string;
}

/**
 * Makes what a run hands over beside its files: a manifest, check sheets as page, values and data, a recipe for each file, and files
 * that hold the motions of several items. Items that are not done yet, or failed, are in the manifest with their reason.
 */
export async function pack(job: PackJob): Promise<Packed[]> {
  const { run, decisions, into, madeAt, limits } = job;
  const parts: Packed[] = [];
  const sheets: SheetItem[] = [];
  const items: DeliveryRecord['items'] = [];
  const join_ = new Map<string, { title: string; files: string[]; motions: string[] }>();
  const references = new Map<string, Promise<MotionFile>>();
  for await (const line of createInterface({ input: createReadStream(job.rows), crlfDelay: Infinity })) {
    const { item, report, file } = JSON.parse(line) as PackRow;
    const isDone = item.state === 'done' && report !== null && file !== null && item.format !== null;
    const isJoined = isDone && run.output.together && item.format === 'glb';
    const path = isDone && !isJoined ? `files/${item.fileName}.${item.format}` : null;
    const figures = report ? withLimits(report.figures, limits) : [];
    const verdict = isDone ? verdictOf(figures) : null;
    let recipe: string | null = null;
    if (isDone) {
      if (path !== null) parts.push({ path, location: join(job.results, file) });
      else {
        const joined = join_.get(item.character) ?? { title: item.characterName, files: [], motions: [] };
        join_.set(item.character, joined);
        joined.files.push(join(job.results, file));
        joined.motions.push(report.written.motion);
      }
      recipe = await putRecipe(item);
      sheets.push(sheetItem(item, report, figures, limits));
    }
    items.push({
      take: item.takeName,
      character: item.characterName,
      state: item.state,
      sources: sourcesOf(item),
      file:
        isDone && report
          ? {
              path: path ?? '',
              sha256: isJoined ? null : file,
              bytes: isJoined ? null : item.bytes,
              format: item.format!,
              motion: report.written.motion,
              firstFrame: 1,
              lastFrame: Math.max(1, report.frames),
              frames: report.frames,
              fps: rateOf(report.fps),
              unit: report.written.unit,
              up: report.written.up,
            }
          : null,
      recipe,
      verdict,
      faults: verdict === null ? null : figures.filter(({ mark }) => mark === 'fault').length,
      cautions: verdict === null ? null : figures.filter(({ mark }) => mark === 'caution').length,
      worst: item.summary?.worst ?? null,
      reduced: item.reduced,
      review: item.review,
      note: item.note,
      fault: item.fault ? describeFault(item.fault as Fault) : null,
    });
  }
  const names = new Names();
  const joined: DeliveryRecord['joined'] = [];
  for (const { title, files, motions } of join_.values()) {
    const path = `files/${names.free(safeName(title))}.glb`;
    const bytes = joinMotions(await Promise.all(files.map((one) => readFile(one))));
    await put(path, bytes);
    joined.push({ path, sha256: createHash('sha256').update(bytes).digest('hex'), bytes: bytes.length, motions });
    for (const [i, one] of items.entries())
      if (one.file?.path === '' && one.character === title && motions.includes(one.file.motion))
        items[i] = { ...one, file: { ...one.file, path } };
  }
  const manifest: DeliveryRecord = {
    format: DELIVERY_FORMAT,
    version: 1,
    program: PROGRAM,
    madeAt,
    run: { id: run.id, name: run.name, startedAt: run.startedAt },
    output: { ...run.output },
    limits: limitsInForce(limits),
    verdict: worstVerdict(items),
    items,
    joined,
  };
  const title = `Check sheet: ${run.name}`;
  await put('manifest.json', `${JSON.stringify(manifest, null, 2)}\n`);
  await put('check-sheet.html', sheetHtml(title, sheets, madeAt));
  await put('check-sheet.csv', sheetCsv(sheets));
  await put('check-sheet.json', `${JSON.stringify(checkSheetRecord(title, sheets, madeAt))}\n`);
  return parts;

  async function put(path: string, content: string | Uint8Array): Promise<void> {
    const location = join(into, path);
    await mkdir(dirname(location), { recursive: true });
    await writeFile(location, content);
    parts.push({ path, location });
  }

  function sourcesOf(item: RunItemJson): DeliveryRecord['items'][number]['sources'] {
    const list = bodiesOf(workOf(decisions, run.output, item));
    const known = new Map(list.map(({ role, body }) => [`${role} ${body.file}`, { role, body }]));
    return [...known.values()].map(({ role, body }) => ({ role, name: body.name, sha256: body.file, bytes: job.sizes[body.file] ?? 0 }));
  }

  /** Writes what an item was made by: a recipe, or a reel and the recipes of what it plays. @returns its path */
  async function putRecipe(item: RunItemJson): Promise<string> {
    const spec = workOf(decisions, run.output, item);
    const path = `recipes/${item.fileName}.${isLane(spec) ? 'reel' : 'recipe'}.json`;
    if (isLane(spec)) await put(path, reelText(spec, item.takeName));
    else await put(path, await recipeText(spec, item.fileName));
    for (const one of isLane(spec) ? transfersOf(spec) : []) {
      const [take, character] = [one.take, one.character].map(({ name }) => name.replace(/\.[^.]*$/, '').replace(/[/\\]/g, '-'));
      const own = `recipes/${take}-on-${character}.recipe.json`;
      if (parts.every((part) => part.path !== own)) await put(own, await recipeText(one, one.title));
    }
    return path;
  }

  async function recipeText(spec: ItemSpec, name: string): Promise<string> {
    const read = new Map<string, MotionFile>();
    for (const reference of [spec.take.reference, spec.character.reference]) {
      if (!reference) continue;
      const { file, name } = reference;
      const reading = references.get(file) ?? readFile(join(job.contents, file)).then((bytes) => readMotionFile(bytes, name));
      references.set(file, reading);
      read.set(file, await reading);
    }
    return writeRecipe({ ...recipeOf(spec, ({ file }) => read.get(file)!), name: name.slice(0, 120) });
  }
}

/** A reel as a file names takes and characters by their files. */
function reelText({ reel, transfers }: LaneSpec, name: string): string {
  const nameOf = (take: string, character: string): string => transfers[`${take} ${character}`].take.name;
  const lanes = reel.lanes.map((lane) => ({
    ...lane,
    character: transfers[`${takesOfClip(lane.clips[0])[0]} ${lane.character}`].character.name,
    clips: lane.clips.map((clip) => ({
      ...clip,
      take: nameOf(takesOfClip(clip)[0], lane.character),
      mix: clip.mix && { ...clip.mix, cycles: clip.mix.cycles.map((one) => ({ ...one, take: nameOf(one.take, lane.character) })) },
    })),
  }));
  return `${JSON.stringify({ format: REEL_FORMAT, version: REEL_VERSION, name: name.slice(0, 120), ...reel, lanes }, null, 2)}\n`;
}

/** An item as a check sheet shows it, marked by the production's limits. */
function sheetItem(item: RunItemJson, report: ReportJson, figures: ReportJson['figures'], limits: ProductionLimits): SheetItem {
  return {
    take: item.takeName,
    character: item.characterName,
    fileName: `${item.fileName}.${item.format}`,
    frames: report.frames,
    fps: report.fps,
    figures,
    plain: withLimits(report.plain, limits),
    cautions: report.cautions.map((fault) => describeFault(fault as Fault)),
    note: item.note,
    review: item.review,
    looked: report.looked ?? undefined,
  };
}
