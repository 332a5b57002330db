import { DEFAULT_RECIPE, type Job, type MotionFile } from '@hollow-stride/core';
import { choicesNaming } from '@hollow-stride/core/testing/index';
import { withRoot } from '../src/depot/beside';

/** A take with a thing beside the body on a character that such a thing is put beside, named on both as a person names it; else by the default recipe. */
export function jobWith(thing: string | undefined, take: MotionFile, character: MotionFile): Job {
  if (thing === undefined) return { take, clip: 0, character, recipe: DEFAULT_RECIPE };
  const holding = { ...character, skeleton: withRoot(character.skeleton, thing, [0, 0, 0]), clips: [] };
  const recipe = { ...DEFAULT_RECIPE, performer: choicesNaming(take, thing), character: choicesNaming(holding, thing) };
  return { take, clip: 0, character: holding, recipe };
}
