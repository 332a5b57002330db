import { readdir, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { DEFAULT_RECIPE, fail, parseRecipe, type Recipe } from '@hollow-stride/core';
import type { Workspace } from './workspace';

export const MOTION = ['.bvh', '.glb', '.gltf', '.amc'];
export const BODIES = ['.glb', '.gltf', '.vrm', '.bvh', '.asf'];

/** A file's name without its ending. */
export const stem = (path: string): string => basename(path, extname(path));

/** Files as they are named, and those of folders that are named. */
export async function filesIn(paths: readonly string[], endings: readonly string[], option: string): Promise<string[]> {
  const out: string[] = [];
  for (const path of paths) {
    const info = await stat(path).catch(() => undefined);
    if (!info) fail('option', `${option}: there is nothing at ${path}`);
    if (info.isDirectory()) {
      const names = (await readdir(path)).filter((name) => endings.includes(extname(name).toLowerCase())).sort();
      out.push(...names.map((name) => join(path, name)));
    } else out.push(path);
  }
  if (out.length === 0) fail('option', `${option}: no file of a kind that is read here was found`);
  return [...new Set(out)];
}

/** Recipes by the name of their file, without its endings. */
export async function recipesIn(paths: readonly string[], workspace: Workspace): Promise<ReadonlyMap<string, Recipe>> {
  const out = new Map<string, Recipe>();
  for (const path of paths) {
    const recipe = parseRecipe(await workspace.text(path, `a recipe, ${basename(path)}`), basename(path));
    out.set(basename(path).replace(/(\.recipe)?\.json$/i, ''), recipe);
  }
  return out;
}

/** By take and character, by character, by take, or the only one that there is. */
export function recipeFor(recipes: ReadonlyMap<string, Recipe>, take: string, character: string): Recipe {
  const named = [`${take}-on-${character}`, character, take].map((name) => recipes.get(name)).find((recipe) => recipe !== undefined);
  if (named) return named;
  const [only] = recipes.values();
  return recipes.size === 1 ? only : DEFAULT_RECIPE;
}
