import {
  fail,
  type JobMemory,
  lookedAtTransfer,
  NOT_AS_SOLVED,
  READ_BACK,
  readBack,
  readFace,
  runJob,
  summaryOf,
  type Looked,
  type MotionFile,
} from '@hollow-stride/core';
import { type ReportJson } from '@hollow-stride/contract';
import { outward } from '../errors';
import { recipeOf, type ItemSpec } from './spec';

import { figureJson, type Made } from './made';

/** Solves a take onto a character, writes it, reads it back and judges what it holds. @param contentOf reads a content by its hash */
export async function makeTransfer(
  spec: ItemSpec,
  read: ReadonlyMap<string, MotionFile>,
  memory: JobMemory,
  contentOf: (hash: string) => Promise<Uint8Array>,
): Promise<Made> {
  const recipe = recipeOf(spec, ({ file }) => read.get(file)!);
  const character = read.get(spec.character.file)!;
  const face = spec.take.face ? await readFace(await contentOf(spec.take.face.file), spec.take.face.name) : undefined;
  const { report, output, ready, transfer } = runJob(
    { take: read.get(spec.take.file)!, clip: spec.take.clip, character, recipe, face },
    memory,
  );
  const { worst } = await readBack(output, ready.character, `${spec.title}.${output.format}`);
  if (worst > READ_BACK) fail('option', NOT_AS_SOLVED, { file: spec.character.name });
  return {
    output,
    summary: summaryOf(report.verdict),
    report: {
      frames: report.take.frames,
      fps: report.take.fps,
      figures: report.verdict.figures.map(figureJson),
      plain: report.plain?.figures.map(figureJson) ?? [],
      cautions: report.cautions.slice(0, 500).map(outward),
      looked: shown(lookedAtTransfer(ready, { ...transfer, clip: output.clip }, report.verdict.figures)),
    },
  };
}

/** Lists of our own, as the contract has them. */
function shown({ series, pictures, every }: Looked): NonNullable<ReportJson['looked']> {
  return {
    every,
    series: series.map((one) => ({ ...one, theirs: [...one.theirs], mine: [...one.mine] })),
    pictures: pictures.map((one) => ({ ...one, theirs: one.theirs.slice(0, 4000), mine: one.mine.slice(0, 4000) })),
  };
}
