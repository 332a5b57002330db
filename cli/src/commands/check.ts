import { basename } from 'node:path';
import {
  clipOf,
  DEFAULT_RECIPE,
  fail,
  judge,
  lookedAt,
  makePairing,
  parseRecipe,
  prepareRig,
  prepareTake,
  sheetFigure,
  sheetHtml,
  summaryOf,
  trim,
  valueText,
  worstFirst,
  type Clip,
  type MotionFile,
  type Rig,
} from '@hollow-stride/core';
import { keepApart, load, loadText } from '../files';
import type { Output } from '../output';
import { save } from '../save';

export interface CheckOptions {
  readonly take: string;
  readonly character: string;
  readonly result: string;
  readonly recipe?: string;
  readonly sheet?: string;
  readonly json?: boolean;
}

/**
 * Judges a motion that is there already, however it was made: a file of the character beside the take that it came from.
 * @returns 0 within the limits, 3 over one of them
 */
export async function checkCommand(options: CheckOptions, output: Output): Promise<number> {
  keepApart(
    { '--take': options.take, '--character': options.character, '--result': options.result, '--recipe': options.recipe },
    { '--sheet': options.sheet },
  );
  const [take, character, result] = await Promise.all([load(options.take), load(options.character), load(options.result)]);
  const recipe = options.recipe ? parseRecipe(await loadText(options.recipe), options.recipe) : DEFAULT_RECIPE;
  const performer = prepareRig(take, 0, recipe.performer);
  const body = prepareRig(character, 0, recipe.character);
  const pairing = makePairing(performer, body, recipe.pairing);
  const solved = motionOn(body, character, result);
  const whole = prepareTake(take, performer, 0, { ...recipe.take, fps: 1 / solved.frameTime });
  const frames = Math.min(whole.frames, solved.frames);
  if (Math.abs(whole.frames - solved.frames) > 2) {
    output.err(
      `hollow-stride: the take has ${whole.frames} frames at this rate and the result ${solved.frames}: the first ${frames} are judged`,
    );
  }
  const given = {
    performer,
    take: trim(performer.skeleton, whole, 0, frames - 1),
    character: body,
    result: trim(body.skeleton, solved, 0, frames - 1),
    skin: character.skin,
    scale: pairing.scale,
    raised: 0,
    inPlace: recipe.solve.inPlace,
  };
  const verdict = judge(given);
  if (options.sheet) {
    const item = {
      take: basename(options.take),
      character: basename(options.character),
      fileName: basename(options.result),
      frames,
      fps: 1 / solved.frameTime,
      figures: verdict.figures.map(sheetFigure),
      plain: [],
      cautions: [],
      note: '',
      review: 'none',
      looked: lookedAt(given, verdict.figures),
    };
    await save(options.sheet, sheetHtml(`Check sheet of ${item.fileName}`, [item]));
  }
  if (options.json) output.out(JSON.stringify({ ...summaryOf(verdict), figures: verdict.figures.map(sheetFigure) }, null, 2));
  else {
    for (const figure of worstFirst(verdict.figures)) {
      output.out(`  ${figure.name.padEnd(20)}${valueText(figure).padStart(12)}  ${figure.mark.padEnd(8)}${figure.words}`);
    }
  }
  return verdict.figures.some(({ mark }) => mark === 'fault') ? 3 : 0;
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
