import { createHash } from 'node:crypto';
import { basename, join, resolve } from 'node:path';
import {
  asFault,
  checkSheetRecord,
  DEFAULT_PATTERN,
  DELIVERY_FORMAT,
  describeFault,
  fail,
  JobMemory,
  joinMotions,
  limitsInForce,
  makeTakeFace,
  lookedAtTransfer,
  nameBy,
  Names,
  NOT_AS_SOLVED,
  patternFault,
  PROGRAM,
  rateOf,
  READ_BACK,
  readBack,
  runJob,
  safeName,
  sheetCsv,
  sheetFigure,
  sheetHtml,
  summaryOf,
  verdictOf,
  withLimits,
  worstVerdict,
  writeRecipe,
  type DeliveryRecord,
  type FigureLimits,
  type Mark,
  type Outcome,
  type Recipe,
  type SheetItem,
} from '@hollow-stride/core';
import { BODIES, filesIn, MOTION, recipeFor, recipesIn, stem } from '../inputs';
import { limitsFrom } from '../limits';
import type { Output } from '../output';
import type { Loaded, Workspace } from '../workspace';

export interface RunOptions {
  readonly takes: readonly string[];
  readonly characters: readonly string[];
  readonly recipes?: readonly string[];
  readonly faces?: readonly string[];
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
const RUN_CODES = { good: 0, failed: 1, over: 3 } as const;

/** Files that stand beside those of the transfers. */
const BESIDE = { manifest: 'manifest.json', html: 'check-sheet.html', csv: 'check-sheet.csv', json: 'check-sheet.json' } as const;
/** Files that are held, in number: what is read must not grow with the run. */
const HELD = 12;

type Item = DeliveryRecord['items'][number];

/** Solves many takes onto many characters, writes what comes of it into a folder, and says how good it is by the exit code. */
export async function runCommand(options: RunOptions, output: Output, workspace: Workspace): Promise<number> {
  const pattern = options.pattern ?? DEFAULT_PATTERN;
  const wrong = patternFault(pattern);
  if (wrong !== undefined) fail('option', `--pattern: ${wrong}`);
  if (options.format !== undefined && options.format !== 'bvh' && options.format !== 'glb')
    fail('option', `--format is "bvh" or "glb", not "${options.format}"`);
  const takes = await filesIn(options.takes, MOTION, '--takes');
  const characters = await filesIn(options.characters, BODIES, '--characters');
  const recipeFiles = options.recipes ? await filesIn(options.recipes, ['.json'], '--recipes') : [];
  const faceFiles = options.faces ? await filesIn(options.faces, ['.csv', '.tsv', '.json', '.glb'], '--faces') : [];
  // All that is read is known before anything is written: a file that comes later must not be overwritten by one that comes first.
  for (const [what, paths] of [
    ['a take', takes],
    ['a character', characters],
    ['a recipe', recipeFiles],
    ['a face', faceFiles],
  ] as const)
    for (const path of paths) workspace.input(path, `${what}, ${basename(path)}`);
  workspace.input(options.limits, '--limits');
  const recipes = await recipesIn(recipeFiles, workspace);
  const limits = await limitsFrom(options.limits, workspace);
  await workspace.folder(join(options.out, 'recipes'));
  const place = (path: string): string => join(options.out, path);
  for (const path of Object.values(BESIDE)) workspace.output(place(path), path);
  const madeAt = new Date().toISOString();
  const files = new Files(workspace);
  const names = new Names();
  const memory = new JobMemory(16);
  const items: Item[] = [];
  const sheets: SheetItem[] = [];
  const joined = new Map<string, { readonly path: string; readonly files: Uint8Array[]; readonly motions: string[] }>();
  const pairs = takes.flatMap((take) => characters.map((character) => ({ take, character })));
  for (const [i, { take, character }] of pairs.entries()) {
    const about = { take: basename(take), character: basename(character) };
    const say = (text: string): void => {
      if (!options.json) output.out(`${i + 1}/${pairs.length} ${about.take} on ${about.character}: ${text}`);
    };
    try {
      const chosen = withOptions(recipeFor(recipes, stem(take), stem(character)), options, stem(take));
      const facePath = faceFiles.find((path) => stem(path) === stem(take));
      const recipe = facePath ? withFace(chosen, basename(facePath)) : chosen;
      const [motion, body] = [await files.of(take), await files.of(character)];
      const face = facePath ? await workspace.face(facePath, `a face, ${basename(facePath)}`) : undefined;
      const outcome = runJob({ take: motion.file, clip: 0, character: body.file, recipe, face }, memory);
      const { fps } = outcome.report.take;
      const { clip, format } = outcome.output;
      const name = names.free(
        nameBy(pattern, { take: stem(take), character: stem(character), fps: rateOf(fps), frames: clip.frames, number: i + 1 }),
      );
      const { worst } = await readBack(outcome.output, outcome.ready.character, name);
      if (worst > READ_BACK) fail('option', NOT_AS_SOLVED, { file: about.character });
      const isJoined = options.together === true && format === 'glb';
      let path = `${name}.${format}`;
      if (isJoined) {
        const own = joined.get(character) ?? { path: `${names.free(safeName(stem(character)))}.glb`, files: [], motions: [] };
        joined.set(character, own);
        own.files.push(outcome.bytes);
        own.motions.push(clip.name);
        path = own.path;
      } else await workspace.save(place(path), path, outcome.bytes);
      const recipePath = `recipes/${name}.recipe.json`;
      await workspace.save(place(recipePath), recipePath, writeRecipe({ ...recipe, name: name.slice(0, 120) }));
      const sheet = sheetOf(outcome, about, path, limits);
      sheets.push(sheet);
      const item = itemOf(outcome, sheet, { about, path, recipe: recipePath, isJoined, sources: sourcesOf(about, motion, body) });
      items.push(item);
      say(`${SAYS[item.verdict ?? 'unseen']}, ${path}`);
    } catch (error) {
      const fault = describeFault(asFault(error, about.take));
      items.push({ ...NOTHING, ...about, state: 'failed', fault });
      say(`not solved: ${fault}`);
    }
  }
  const together: DeliveryRecord['joined'] = [];
  for (const { path, files: parts, motions } of joined.values()) {
    const bytes = joinMotions(parts);
    await workspace.save(place(path), path, bytes);
    together.push({ path, sha256: hashOf(bytes), bytes: bytes.length, motions });
  }
  const { takes: _, characters: __, recipes: ___, out: ____, json: _____, ...asked } = options;
  const manifest: DeliveryRecord = {
    format: DELIVERY_FORMAT,
    version: 1,
    program: PROGRAM,
    madeAt,
    run: { id: null, name: basename(resolve(options.out)), startedAt: null },
    output: { ...asked, pattern },
    limits: limitsInForce(limits),
    verdict: worstVerdict(items),
    items,
    joined: together,
  };
  const text = `${JSON.stringify(manifest, null, 2)}\n`;
  await workspace.save(place(BESIDE.manifest), BESIDE.manifest, text);
  await workspace.save(place(BESIDE.html), BESIDE.html, sheetHtml('Check sheet', sheets, madeAt));
  await workspace.save(place(BESIDE.csv), BESIDE.csv, sheetCsv(sheets));
  await workspace.save(place(BESIDE.json), BESIDE.json, `${JSON.stringify(checkSheetRecord('Check sheet', sheets, madeAt))}\n`);
  const failed = items.filter(({ fault }) => fault !== null).length;
  const over = items.filter(({ verdict }) => verdict === 'fault').length;
  if (options.json) output.out(text.trimEnd());
  else output.out(`${items.length - failed} of ${items.length} solved, ${over} over their limits; ${resolve(options.out)}`);
  return failed > 0 ? RUN_CODES.failed : over > 0 ? RUN_CODES.over : RUN_CODES.good;
}

const SAYS: Readonly<Record<Mark, string>> = { good: 'good', caution: 'to look at', fault: 'over a limit', unseen: 'not judged' };

/** Report of an item that failed. */
const NOTHING: Omit<Item, 'take' | 'character' | 'state' | 'fault'> = {
  sources: [],
  file: null,
  recipe: null,
  verdict: null,
  faults: null,
  cautions: null,
  worst: null,
  reduced: null,
  review: 'none',
  note: '',
};

/** Files read last: a run's items share takes and characters. */
class Files {
  private readonly read = new Map<string, Promise<Loaded & { readonly sha256: string }>>();

  constructor(private readonly workspace: Workspace) {}

  of(path: string): Promise<Loaded & { readonly sha256: string }> {
    const found = this.read.get(path) ?? this.load(path);
    this.read.delete(path);
    this.read.set(path, found);
    for (const old of this.read.keys()) if (this.read.size > HELD) this.read.delete(old);
    return found;
  }

  private async load(path: string): Promise<Loaded & { readonly sha256: string }> {
    const loaded = await this.workspace.loadWhole(path, basename(path));
    return { ...loaded, sha256: hashOf(loaded.bytes) };
  }
}

const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

interface About {
  readonly take: string;
  readonly character: string;
}

type Hashed = Loaded & { readonly sha256: string };

function sourcesOf(about: About, take: Hashed, character: Hashed): Item['sources'] {
  return [
    { role: 'take', name: about.take, sha256: take.sha256, bytes: take.bytes.length },
    { role: 'character', name: about.character, sha256: character.sha256, bytes: character.bytes.length },
  ];
}

function itemOf(
  { output, report, bytes }: Outcome,
  { figures }: SheetItem,
  of: { about: About; path: string; recipe: string; isJoined: boolean; sources: Item['sources'] },
): Item {
  const { clip, format, basis, reduced } = output;
  return {
    ...NOTHING,
    ...of.about,
    state: 'done',
    fault: null,
    sources: of.sources,
    file: {
      path: of.path,
      sha256: of.isJoined ? null : hashOf(bytes),
      bytes: of.isJoined ? null : bytes.length,
      format,
      motion: clip.name,
      firstFrame: 1,
      lastFrame: clip.frames,
      frames: clip.frames,
      fps: rateOf(report.take.fps),
      unit: basis.metres,
      up: basis.up,
    },
    recipe: of.recipe,
    verdict: verdictOf(figures),
    faults: figures.filter(({ mark }) => mark === 'fault').length,
    cautions: figures.filter(({ mark }) => mark === 'caution').length,
    worst: summaryOf({ ...report.verdict, figures: withLimits(report.verdict.figures, {}) }).worst,
    reduced: reduced ? { share: reduced.share, worst: reduced.worst * 1000 } : null,
  };
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

function sheetOf({ ready, report, transfer, output }: Outcome, about: About, file: string, limits: FigureLimits): SheetItem {
  const { verdict, plain } = report;
  return {
    ...about,
    fileName: file,
    frames: report.take.frames,
    fps: report.take.fps,
    figures: withLimits(verdict.figures, limits).map(sheetFigure),
    plain: withLimits(plain?.figures ?? [], limits).map(sheetFigure),
    cautions: report.cautions.map(describeFault),
    note: '',
    review: 'none',
    looked: lookedAtTransfer(ready, { ...transfer, clip: output.clip }, verdict.figures),
  };
}

/** The recipe with a face that lies where it says, or at the start of the take where it says nothing. */
function withFace(recipe: Recipe, recording: string): Recipe {
  const set = recipe.take.face ?? makeTakeFace(recording);
  return { ...recipe, take: { ...recipe.take, face: { ...set, recording } } };
}
