import { readFile, writeFile } from 'node:fs/promises';
import {
  asFault,
  fail,
  JobMemory,
  lookedAtTransfer,
  NOT_AS_SOLVED,
  READ_BACK,
  readBack,
  readFace,
  readMotionFile,
  runJob,
  sheetFigure,
  shortened,
  summaryOf,
  type Fault,
  type Figure,
  type Looked,
  type MotionFile,
} from '@hollow-stride/core';
import { LIMITS, type FigureJson, type ReportJson, type SummaryJson } from '@hollow-stride/contract';
import '@hollow-stride/core/formats/glb/dracoOnNode';
import { outward } from '../errors';
import { recipeOf, type ItemSpec } from './spec';

/** A worker thread's job: what to make, where contents lie, and where the written file goes. */
export interface ItemJob {
  readonly spec: ItemSpec;
  /** Where each content lies, by its hash. */
  readonly paths: Readonly<Record<string, string>>;
  readonly into: string;
}

export type ItemResult =
  | {
      readonly summary: SummaryJson;
      readonly report: ReportJson;
      readonly reduced: { share: number; worst: number } | null;
      readonly format: 'bvh' | 'glb';
    }
  | { readonly fault: Fault };

/** Files read last in this thread, and what was made of them: the items of a run share takes and characters. */
const files = new Map<string, { readonly file: MotionFile; readonly bytes: number }>();
const KEPT = 16;
const MOST_BYTES = 128 * 2 ** 20;
let memory = new JobMemory(KEPT);

async function fileOf(path: string, hash: string, name: string): Promise<MotionFile> {
  const key = `${hash} ${name}`;
  const found = files.get(key);
  files.delete(key);
  const read = found ?? (await readWhole(path, name));
  files.set(key, read);
  // The longest unused go first; the one that was asked for stays, however large.
  let held = [...files.values()].reduce((sum, { bytes }) => sum + bytes, 0);
  for (const [old, { bytes }] of files) {
    if (old === key || (files.size <= KEPT && held <= MOST_BYTES)) break;
    files.delete(old);
    held -= bytes;
  }
  return read.file;
}

async function readWhole(path: string, name: string): Promise<{ file: MotionFile; bytes: number }> {
  const content = await readFile(path);
  return { file: await readMotionFile(content, name), bytes: content.length };
}

/** Solves one item, writes its file, reads it back and judges what it holds. Faults come back as values. */
export async function solveItem({ spec, paths, into }: ItemJob): Promise<ItemResult> {
  try {
    const bodies = [spec.take, spec.character, spec.take.reference, spec.character.reference].filter((body) => body !== null);
    const read = new Map<string, MotionFile>();
    for (const { file, name } of bodies) read.set(file, await fileOf(paths[file], file, name));
    const recipe = recipeOf(spec, ({ file }) => read.get(file)!);
    const character = read.get(spec.character.file)!;
    const face = spec.take.face ? await readFace(await readFile(paths[spec.take.face.file]), spec.take.face.name) : undefined;
    const { report, output, ready, transfer } = runJob(
      { take: read.get(spec.take.file)!, clip: spec.take.clip, character, recipe, face },
      memory,
    );
    const { worst } = await readBack(output, ready.character, `${spec.title}.${output.format}`);
    if (worst > READ_BACK) fail('option', NOT_AS_SOLVED, { file: spec.character.name });
    await writeFile(into, output.bytes, { flush: true });
    return {
      summary: summaryOf(report.verdict),
      report: {
        frames: report.take.frames,
        fps: report.take.fps,
        figures: report.verdict.figures.map(figureJson),
        plain: report.plain?.figures.map(figureJson) ?? [],
        cautions: report.cautions.slice(0, 500).map(outward),
        written: {
          motion: shortened(output.clip.name, LIMITS.name),
          unit: output.basis.metres,
          up: output.basis.up,
        },
        looked: shown(lookedAtTransfer(ready, { ...transfer, clip: output.clip }, report.verdict.figures)),
      },
      reduced: output.reduced ? { share: output.reduced.share, worst: output.reduced.worst * 1000 } : null,
      format: output.format,
    };
  } catch (error) {
    // A failed item may have left a partial file.
    memory = new JobMemory(KEPT);
    return { fault: outward(asFault(error, spec.take.name)) };
  }
}

/** No longer than the contract lets through. */
function figureJson(figure: Figure): FigureJson {
  const { looked, words, ...rest } = sheetFigure(figure);
  return { ...rest, looked: looked.slice(0, 400), words: words.slice(0, 1000) };
}

/** Lists of our own, as the contract has them. */
function shown({ series, pictures, every }: Looked): NonNullable<ReportJson['looked']> {
  return {
    every,
    series: series.map((one) => ({ ...one, theirs: [...one.theirs], mine: [...one.mine] })),
    pictures: pictures.map((one) => ({ ...one, theirs: one.theirs.slice(0, 4000), mine: one.mine.slice(0, 4000) })),
  };
}
