import * as v from 'valibot';
import { labelFile, prepareBody, type Body } from '../body';
import { fail, type Fault } from '../errors';
import type { MotionFile } from '../formats/motionFile';
import { makePairing, type Pairing } from '../match';
import { DEFAULT_SOLVE, type SolveSettings } from '../solve/settings';
import {
  DEFAULT_DECISIONS,
  DEFAULT_PAIRING,
  DEFAULT_SKELETON,
  pairingChoicesSchema,
  skeletonChoicesSchema,
  solveChoicesSchema,
  type PairingSettings,
  type SkeletonChoices,
  type SolveDecisions,
} from './choices';

export const RECIPE_FORMAT = 'hollow-stride/recipe';
export const RECIPE_VERSION = 1;

/** A pairing's settings as a file that can be kept, shared and run without the interface. */
export const recipeSchema = v.object({
  format: v.literal(RECIPE_FORMAT, `must be "${RECIPE_FORMAT}"`),
  version: v.literal(RECIPE_VERSION, `must be ${RECIPE_VERSION}`),
  name: v.pipe(v.string(), v.trim(), v.minLength(1, 'a name is needed'), v.maxLength(120)),
  performer: v.optional(skeletonChoicesSchema, DEFAULT_SKELETON),
  character: v.optional(skeletonChoicesSchema, DEFAULT_SKELETON),
  pairing: v.optional(pairingChoicesSchema, DEFAULT_PAIRING),
  solve: v.optional(solveChoicesSchema, DEFAULT_DECISIONS),
});
export type Recipe = v.InferOutput<typeof recipeSchema>;

/** Largest recipe file that is read. */
export const MAX_RECIPE_BYTES = 4 * 1024 * 1024;

/**
 * Reads a recipe from a file's text.
 * @throws FaultError recipe/schema, recipe/version, saying which part is wrong and how
 */
export function parseRecipe(text: string, file?: string): Recipe {
  if (text.length > MAX_RECIPE_BYTES) fail('recipe/schema', 'the recipe is larger than any recipe can be', { file });
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    fail('recipe/schema', `this is no recipe: it is not valid JSON (${(error as Error).message})`, { file });
  }
  const { format, version } = (typeof json === 'object' && json !== null ? json : {}) as { format?: unknown; version?: unknown };
  if (format === RECIPE_FORMAT && typeof version === 'number' && version > RECIPE_VERSION) {
    fail('recipe/version', `the recipe has version ${version}; up to ${RECIPE_VERSION} is read. Export it again from the older program`, {
      file,
    });
  }
  const result = v.safeParse(recipeSchema, json);
  if (result.success) return result.output;
  const problems = result.issues.slice(0, 3).map((issue) => `${v.getDotPath(issue) ?? 'the file'}: ${issue.message}`);
  return fail('recipe/schema', `the recipe cannot be used: ${problems.join('; ')}`, { file });
}

/** A recipe as text, two spaces deep, with a line end. */
export function writeRecipe(recipe: Recipe): string {
  return `${JSON.stringify(recipe, undefined, 2)}\n`;
}

export interface Prepared {
  readonly performer: Body;
  readonly character: Body;
  readonly pairing: Pairing;
  readonly settings: SolveSettings;
  /** What of the recipe did not fit these files. */
  readonly notes: readonly Fault[];
}

/** Makes a take's file and a character's file ready by a recipe. What does not fit is left out and said in the notes. */
export function applyRecipe(recipe: Recipe, take: MotionFile, clipIndex: number, target: MotionFile): Prepared {
  const notes: Fault[] = [];
  const body = (file: MotionFile, clip: number, choices: SkeletonChoices): Body => {
    const fitting = fitSkeleton(file, choices);
    if (fitting !== choices) {
      notes.push({
        code: 'label/unknown-joint',
        message: 'the recipe labels joints that are not here; it is labelled automatically',
        where: { file: file.name },
      });
    }
    return prepareBody(file, clip, fitting);
  };
  const performer = body(take, clipIndex, recipe.performer);
  const character = body(target, 0, recipe.character);
  const { choices, dropped } = fitPairing(recipe.pairing, performer, character);
  for (const message of dropped) notes.push({ code: 'option', message, where: { file: target.name } });
  return { performer, character, pairing: makePairing(performer, character, choices), settings: solveSettings(recipe.solve), notes };
}

/** Choices as they can be used on a file: labels that leave a required role without a joint are given up. */
export function fitSkeleton(file: MotionFile, choices: SkeletonChoices): SkeletonChoices {
  if (choices.labels === null) return choices;
  return labelFile(file, 0, choices).missing.length > 0 ? { ...choices, labels: null, turns: {} } : choices;
}

/** What of a pairing's choices fits another pair, and in words what does not. */
export function fitPairing(choices: PairingSettings, performer: Body, character: Body): { choices: PairingSettings; dropped: string[] } {
  const dropped: string[] = [];
  const keep = <T>(record: Readonly<Record<string, T>>, fits: (key: string, value: T) => boolean, what: string): Record<string, T> => {
    const out: Record<string, T> = {};
    for (const [key, value] of Object.entries(record)) {
      if (fits(key, value)) out[key] = value;
      else dropped.push(`${what} ${key} is left out: there is no such joint here`);
    }
    return out;
  };
  const { turns, links, extras } = choices;
  return {
    choices: {
      ...choices,
      turns: keep(turns, (role) => character.roles.has(role), 'the turn of'),
      links: keep(
        links,
        (role, rung) => character.roles.has(role) && (rung === null || (performer.roles.has(rung.a) && performer.roles.has(rung.b))),
        'the rung of',
      ),
      extras: keep(extras, (name) => character.roles.has(`extra.${name}.1`), 'the link of the chain'),
    },
    dropped,
  };
}

/** Decisions as the solver takes them. */
export function solveSettings({ floor, inPlace, fps }: SolveDecisions): SolveSettings {
  return { ...DEFAULT_SOLVE, floor, inPlace, fps: fps ?? undefined };
}
