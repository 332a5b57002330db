import { mkdir, readdir, stat } from 'node:fs/promises';
import { basename, extname, join, resolve } from 'node:path';
import {
  asFault,
  caseOf,
  DEFAULT_PATTERN,
  DEFAULT_RECIPE,
  describeFault,
  fail,
  JobMemory,
  joinMotions,
  lookedAt,
  markBy,
  namesBy,
  NOT_AS_SOLVED,
  parseRecipe,
  patternFault,
  READ_BACK,
  readBack,
  runJob,
  safeName,
  sheetCsv,
  sheetFigure,
  sheetHtml,
  summaryOf,
  type FigureId,
  type Mark,
  type MotionFile,
  type Outcome,
  type Recipe,
  type SheetItem,
} from '@hollow-stride/core';
import { load, loadText } from '../files';
import type { Output } from '../output';
import { save } from '../save';

export interface RunOptions {
  readonly takes: readonly string[];
  readonly characters: readonly string[];
  readonly recipes?: readonly string[];
  readonly out: string;
  readonly format?: string;
  readonly fps?: number;
  readonly tolerance?: number;
  readonly inPlace?: boolean;
  readonly bare?: boolean;
  readonly together?: boolean;
  readonly pattern?: string;
  readonly limits?: string;
  readonly json?: boolean;
}

/** Exit codes of a run: all within the limits, something could not be solved, something is over its limits. */
export const RUN_CODES = { good: 0, failed: 1, over: 3 } as const;

type Limits = Partial<Record<FigureId, { readonly good: number; readonly fault: number }>>;

/** What one item of a run came to. */
interface Item {
  readonly take: string;
  readonly character: string;
  readonly file: string | null;
  readonly fault: string | null;
  readonly verdict: Mark | null;
  readonly summary: ReturnType<typeof summaryOf> | null;
  readonly reduced: { readonly share: number; readonly worst: number } | null;
}

const MOTION = ['.bvh', '.glb', '.gltf', '.amc'];
const BODIES = ['.glb', '.gltf', '.vrm', '.bvh', '.asf'];

/** Solves many takes onto many characters, writes what comes of it into a folder, and says how good it is by the exit code. */
export async function runCommand(options: RunOptions, output: Output): Promise<number> {
  const pattern = options.pattern ?? DEFAULT_PATTERN;
  const wrong = patternFault(pattern);
  if (wrong !== undefined) fail('option', `--pattern: ${wrong}`);
  if (options.format !== undefined && options.format !== 'bvh' && options.format !== 'glb')
    fail('option', `--format is "bvh" or "glb", not "${options.format}"`);
  const takes = await filesIn(options.takes, MOTION, '--takes');
  const characters = await filesIn(options.characters, BODIES, '--characters');
  const recipes = await recipesIn(options.recipes ?? []);
  const limits = options.limits === undefined ? {} : parseLimits(await loadText(options.limits), options.limits);
  await mkdir(options.out, { recursive: true });
  const pairs = takes.flatMap((take) => characters.map((character) => ({ take, character })));
  const { names } = namesBy(
    pattern,
    pairs.map(({ take, character }, i) => ({
      take: stem(take),
      character: stem(character),
      fps: options.fps ?? 0,
      frames: 0,
      number: i + 1,
    })),
  );
  const read = new Map<string, Promise<MotionFile>>();
  const fileOf = (path: string): Promise<MotionFile> => {
    const found = read.get(path) ?? load(path);
    read.delete(path);
    read.set(path, found);
    // A few characters and takes: what is read must not grow with the run.
    for (const old of read.keys()) if (read.size > 12) read.delete(old);
    return found;
  };
  const memory = new JobMemory(16);
  const items: Item[] = [];
  const sheets: SheetItem[] = [];
  const joined = new Map<string, { readonly name: string; readonly files: Uint8Array[] }>();
  for (const [i, { take, character }] of pairs.entries()) {
    const about = { take: basename(take), character: basename(character) };
    try {
      const recipe = withOptions(recipeFor(recipes, stem(take), stem(character)), options, stem(take));
      const [motion, body] = [await fileOf(take), await fileOf(character)];
      const outcome = runJob({ take: motion, clip: 0, character: body, recipe }, memory);
      const { worst } = await readBack(outcome.output, outcome.ready.character, names[i]);
      if (worst > READ_BACK) fail('option', NOT_AS_SOLVED, { file: about.character });
      const { format } = outcome.output;
      const isJoined = options.together === true && format === 'glb';
      const file = isJoined ? `${safeName(stem(character))}.glb` : `${names[i]}.${format}`;
      if (isJoined) {
        const own = joined.get(character) ?? { name: file, files: [] };
        joined.set(character, { ...own, files: [...own.files, outcome.bytes] });
      } else await save(join(options.out, file), outcome.bytes);
      const verdict = worstMark(outcome, limits);
      items.push({
        ...about,
        file,
        fault: null,
        verdict,
        summary: summaryOf(outcome.report.verdict),
        reduced: outcome.output.reduced ?? null,
      });
      sheets.push(sheetOf(outcome, about, file, body));
      if (!options.json) output.out(`${i + 1}/${pairs.length} ${about.take} on ${about.character}: ${SAYS[verdict]}, ${file}`);
    } catch (error) {
      const fault = describeFault(asFault(error, about.take));
      items.push({ ...about, file: null, fault, verdict: null, summary: null, reduced: null });
      if (!options.json) output.out(`${i + 1}/${pairs.length} ${about.take} on ${about.character}: not solved: ${fault}`);
    }
  }
  for (const { name, files } of joined.values()) await save(join(options.out, name), joinMotions(files));
  const report = { format: 'hollow-stride/run', version: 1, items };
  await save(join(options.out, 'report.json'), `${JSON.stringify(report, null, 2)}\n`);
  await save(join(options.out, 'check-sheet.html'), sheetHtml('Check sheet', sheets));
  await save(join(options.out, 'check-sheet.csv'), sheetCsv(sheets));
  const failed = items.filter(({ fault }) => fault !== null).length;
  const over = items.filter(({ verdict }) => verdict === 'fault').length;
  if (options.json) output.out(JSON.stringify(report, null, 2));
  else output.out(`${items.length - failed} of ${items.length} solved, ${over} over their limits; ${resolve(options.out)}`);
  return failed > 0 ? RUN_CODES.failed : over > 0 ? RUN_CODES.over : RUN_CODES.good;
}

const SAYS: Readonly<Record<Mark, string>> = { good: 'good', caution: 'to look at', fault: 'over a limit', unseen: 'not judged' };

/** The worst mark of an outcome, by the production's limits where there are some. */
function worstMark({ report }: Outcome, limits: Limits): Mark {
  const marks = report.verdict.figures.map(({ id, value, mark }) => (limits[id] ? markBy(id, value, limits[id]) : mark));
  return marks.includes('fault') ? 'fault' : marks.includes('caution') ? 'caution' : 'good';
}

function withOptions(recipe: Recipe, options: RunOptions, title: string): Recipe {
  const { fps, inPlace, tolerance, format, bare, together } = options;
  return {
    ...recipe,
    solve: { ...recipe.solve, ...(fps !== undefined && { fps }), ...(inPlace !== undefined && { inPlace }) },
    delivery: {
      ...recipe.delivery,
      ...(format !== undefined && { format: format as 'bvh' | 'glb' }),
      ...(tolerance !== undefined && { tolerance }),
      ...(bare !== undefined && { bare }),
      title: recipe.delivery.title ?? (together ? title : null),
    },
  };
}

function sheetOf(
  { report, transfer, output }: Outcome,
  about: { take: string; character: string },
  file: string,
  { skin }: MotionFile,
): SheetItem {
  const { verdict, plain } = report;
  return {
    ...about,
    fileName: file,
    frames: report.take.frames,
    fps: report.take.fps,
    figures: verdict.figures.map(sheetFigure),
    plain: plain?.figures.map(sheetFigure) ?? [],
    cautions: report.cautions.map(describeFault),
    note: '',
    review: 'none',
    looked: lookedAt(caseOf({ ...transfer, clip: output.clip }, skin), verdict.figures),
  };
}

const stem = (path: string): string => basename(path, extname(path));

/** Files as they are named, and those of folders that are named. */
async function filesIn(paths: readonly string[], endings: readonly string[], option: string): Promise<string[]> {
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
async function recipesIn(paths: readonly string[]): Promise<ReadonlyMap<string, Recipe>> {
  const out = new Map<string, Recipe>();
  for (const path of paths.length === 0 ? [] : await filesIn(paths, ['.json'], '--recipes')) {
    out.set(basename(path).replace(/(\.recipe)?\.json$/i, ''), parseRecipe(await loadText(path), basename(path)));
  }
  return out;
}

/** By take and character, by character, by take, or the only one that there is. */
function recipeFor(recipes: ReadonlyMap<string, Recipe>, take: string, character: string): Recipe {
  const named = [`${take}-on-${character}`, character, take].map((name) => recipes.get(name)).find((recipe) => recipe !== undefined);
  if (named) return named;
  const [only] = recipes.values();
  return recipes.size === 1 ? only : DEFAULT_RECIPE;
}

function parseLimits(text: string, file: string): Limits {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    fail('option', 'the limits are not valid JSON', { file });
  }
  const isLimit = (value: unknown): boolean =>
    typeof value === 'object' &&
    value !== null &&
    ['good', 'fault'].every((key) => Number.isFinite((value as Record<string, unknown>)[key]));
  if (typeof json !== 'object' || json === null || !Object.values(json).every(isLimit)) {
    fail('option', 'limits are figures with the numbers "good" and "fault" each, like {"slide": {"good": 5, "fault": 20}}', { file });
  }
  return json;
}
