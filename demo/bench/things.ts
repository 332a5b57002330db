import {
  DEFAULT_RECIPE,
  DEFAULT_SKELETON,
  extraRole,
  jointKeys,
  labelFile,
  makeSkeleton,
  type MotionFile,
  type Recipe,
  type SkeletonChoices,
} from '@hollow-stride/core';

/** Things beside the body that takes of the depot have. */
const THINGS: readonly string[] = ['crate'];

/** The thing that a take has beside the body. */
export function thingOf({ skeleton }: MotionFile): string | undefined {
  return THINGS.find((name) => skeleton.names.includes(name));
}

/** A character with a thing beside it, as a person adds it to the scene: a joint of its own that hangs on none. */
export function withThing(file: MotionFile, thing: string): MotionFile {
  const { names, parents, restT, restR, tips } = file.skeleton;
  const skeleton = makeSkeleton({
    names: [...names, thing],
    parents: [...parents, -1],
    restT: Float64Array.of(...restT, 0, 0, 0),
    restR: Float64Array.of(...restR, 0, 0, 0, 1),
    tips: Float64Array.of(...tips, NaN, NaN, NaN),
  });
  return { ...file, skeleton, clips: [] };
}

/** All labels as they are found, and the thing as a person names it. */
function choicesOf(file: MotionFile, thing: string): SkeletonChoices {
  const keys = jointKeys(file.skeleton);
  const found = [...labelFile(file).roles].map(([role, joint]) => [role, keys[joint]] as const);
  return { ...DEFAULT_SKELETON, labels: { ...Object.fromEntries(found), [extraRole(thing, 1)]: keys[file.skeleton.names.indexOf(thing)] } };
}

/** The default recipe but for the thing's name on both bodies. */
export function recipeFor(take: MotionFile, character: MotionFile, thing: string): Recipe {
  return { ...DEFAULT_RECIPE, performer: choicesOf(take, thing), character: choicesOf(character, thing) };
}
