import { basename } from 'node:path';
import {
  checkSheetRecord,
  clipOf,
  DEFAULT_RECIPE,
  fail,
  judgeTransfer,
  lookedAtTransfer,
  parseRecipe,
  prepare,
  sheetFigure,
  sheetHtml,
  transferOfResult,
  trim,
  valueText,
  verdictOf,
  withLimits,
  worstFirst,
  type Clip,
  type MotionFile,
  type Rig,
} from '@hollow-stride/core';
import { limitsFrom } from '../limits';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

export interface CheckOptions {
  readonly take: string;
  readonly character: string;
  readonly result: string;
  readonly recipe?: string;
  readonly limits?: string;
  readonly clip?: number;
  readonly sheet?: string;
  readonly json?: boolean;
}

/**
 * Judges a motion that is there already, however it was made: a file of the character beside the take that it came from.
 * @returns 0 within the limits, 3 over one of them
 */
export async function checkCommand(options: CheckOptions, output: Output, workspace: Workspace): Promise<number> {
  for (const [what, path] of [
    ['--take', options.take],
    ['--character', options.character],
    ['--result', options.result],
    ['--recipe', options.recipe],
    ['--limits', options.limits],
  ] as const)
    workspace.input(path, what);
  workspace.output(options.sheet, '--sheet');
  const take = await workspace.load(options.take, '--take');
  const character = await workspace.load(options.character, '--character');
  const result = await workspace.load(options.result, '--result');
  const recipe = options.recipe ? parseRecipe(await workspace.text(options.recipe, '--recipe'), options.recipe) : DEFAULT_RECIPE;
  const limits = await limitsFrom(options.limits, workspace);
  const own = result.clips.at(-1) ?? fail('clip/none', 'the result holds no motion', { file: result.name });
  // Made ready as it is for a solve, at the result's own rate: what is judged is built the same way everywhere.
  const ready = prepare({
    take,
    clip: (options.clip ?? 1) - 1,
    character,
    recipe: { ...recipe, solve: { ...recipe.solve, fps: 1 / own.frameTime } },
  });
  const solved = motionOn(ready.character, character, result);
  const frames = Math.min(ready.take.frames, solved.frames);
  if (Math.abs(ready.take.frames - solved.frames) > 2) {
    output.err(
      `hollow-stride: the take has ${ready.take.frames} frames at this rate and the result ${solved.frames}: the first ${frames} are judged`,
    );
  }
  const cut = { ...ready, take: trim(ready.performer.skeleton, ready.take, 0, frames - 1) };
  const transfer = transferOfResult(cut, trim(ready.character.skeleton, solved, 0, frames - 1));
  const verdict = judgeTransfer(cut, transfer);
  const item = {
    take: basename(options.take),
    character: basename(options.character),
    fileName: basename(options.result),
    frames,
    fps: 1 / solved.frameTime,
    figures: withLimits(verdict.figures, limits).map(sheetFigure),
    plain: [],
    cautions: [],
    note: '',
    review: 'none',
    looked: lookedAtTransfer(cut, transfer, verdict.figures),
  };
  if (options.sheet) {
    await workspace.save(options.sheet, '--sheet', sheetHtml(`Check sheet of ${item.fileName}`, [item], new Date().toISOString()));
  }
  if (options.json)
    output.out(JSON.stringify(checkSheetRecord(`Check sheet of ${item.fileName}`, [item], new Date().toISOString()), null, 2));
  else {
    for (const figure of worstFirst(withLimits(verdict.figures, limits))) {
      output.out(`  ${figure.name.padEnd(20)}${valueText(figure).padStart(12)}  ${figure.mark.padEnd(8)}${figure.words}`);
    }
  }
  return verdictOf(item.figures) === 'fault' ? 3 : 0;
}

/** A file's motion on the character's own skeleton, joint by joint by name. @throws FaultError option where joints differ */
function motionOn(body: Rig, character: MotionFile, result: MotionFile): Clip {
  const { names } = character.skeleton;
  if (result.skeleton.names.length !== names.length || result.skeleton.names.some((name, j) => name !== names[j])) {
    fail('option', `its joints are not those of ${character.name}: a result is judged on the file that it was made for`, {
      file: result.name,
    });
  }
  return clipOf(result, body, result.clips.length - 1);
}
