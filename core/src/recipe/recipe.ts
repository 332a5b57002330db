import * as v from 'valibot';
import { fail } from '../errors';
import {
  DEFAULT_DECISIONS,
  DEFAULT_DELIVERY,
  DEFAULT_PAIRING,
  DEFAULT_SKELETON,
  DEFAULT_TAKE,
  deliveryChoicesSchema,
  pairingChoicesSchema,
  skeletonChoicesSchema,
  solveChoicesSchema,
  takeChoicesSchema,
} from './choices';
import { layersSchema } from './layers';
import { touchUpsSchema } from './touchUps';

export const RECIPE_FORMAT = 'hollow-stride/recipe';
export const RECIPE_VERSION = 1;
/** Upgrades of a recipe from one version to the next: the first stands for version 1. */
const MIGRATIONS: readonly ((recipe: Readonly<Record<string, unknown>>) => object)[] = [];

/**
 * Every decision about a transfer as a file that can be kept, shared and run without the interface: with the same take and the
 * same character it gives the same bits everywhere.
 */
export const recipeSchema = v.object({
  format: v.literal(RECIPE_FORMAT, `must be "${RECIPE_FORMAT}"`),
  version: v.literal(RECIPE_VERSION, `must be ${RECIPE_VERSION}`),
  name: v.pipe(v.string(), v.trim(), v.minLength(1, 'a name is needed'), v.maxLength(120)),
  performer: v.optional(skeletonChoicesSchema, DEFAULT_SKELETON),
  character: v.optional(skeletonChoicesSchema, DEFAULT_SKELETON),
  take: v.optional(takeChoicesSchema, DEFAULT_TAKE),
  pairing: v.optional(pairingChoicesSchema, DEFAULT_PAIRING),
  touchUps: v.optional(touchUpsSchema, []),
  layers: v.optional(layersSchema, []),
  solve: v.optional(solveChoicesSchema, DEFAULT_DECISIONS),
  delivery: v.optional(deliveryChoicesSchema, DEFAULT_DELIVERY),
});
export type Recipe = v.InferOutput<typeof recipeSchema>;

/** A recipe in which nothing is decided. */
export const DEFAULT_RECIPE: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  name: 'defaults',
  performer: DEFAULT_SKELETON,
  character: DEFAULT_SKELETON,
  take: DEFAULT_TAKE,
  pairing: DEFAULT_PAIRING,
  touchUps: [],
  layers: [],
  solve: DEFAULT_DECISIONS,
  delivery: DEFAULT_DELIVERY,
};

/** Largest recipe file that is read. */
const MAX_RECIPE_BYTES = 4 * 1024 * 1024;

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
    fail(
      'recipe/version',
      `the recipe has version ${version}; up to ${RECIPE_VERSION} is read. Use a newer Hollow Stride, or export it again`,
      {
        file,
      },
    );
  }
  if (format === RECIPE_FORMAT && typeof version === 'number' && version >= 1)
    for (const migrate of MIGRATIONS.slice(version - 1)) json = migrate(json as Record<string, unknown>);
  const result = v.safeParse(recipeSchema, json);
  if (result.success) return result.output;
  const problems = result.issues.slice(0, 3).map((issue) => `${v.getDotPath(issue) ?? 'the file'}: ${issue.message}`);
  return fail('recipe/schema', `the recipe cannot be used: ${problems.join('; ')}`, { file });
}

/** A recipe as text, two spaces deep, with a line end. */
export function writeRecipe(recipe: Recipe): string {
  return `${JSON.stringify(recipe, undefined, 2)}\n`;
}
