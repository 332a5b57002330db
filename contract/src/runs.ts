import { DEFAULT_PATTERN, deliveryChoicesSchema, FIGURE_IDS, limitFault, patternFault, type FigureLimits } from '@hollow-stride/core';
import * as v from 'valibot';
import { faultSchema, idSchema, LIMITS, nameSchema, text, versionNumber } from './base';
import { summarySchema } from './schemas';

const finite = v.pipe(v.number(), v.finite());
const count = v.pipe(v.number(), v.integer(), v.minValue(0));

/** Most items of one run: takes × characters, and lanes of reels. */
export const MOST_ITEMS = 5000;
/** Items that a page of a run holds. */
export const ITEMS_PAGE = 1000;

/** How the files of a run are written. */
export const runOutputSchema = v.object({
  ...deliveryChoicesSchema.entries,
  /** Frames a second; null as each pairing says. */
  fps: v.nullable(v.pipe(finite, v.minValue(1), v.maxValue(480))),
  /** Travelling or in place; null as each pairing says. */
  inPlace: v.nullable(v.boolean()),
  /** File names. */
  pattern: v.pipe(
    v.string(),
    v.maxLength(200),
    v.check(
      (pattern) => patternFault(pattern) === undefined,
      (issue) => patternFault(String(issue.input)) ?? 'the pattern cannot be used',
    ),
  ),
  /** All takes of a character in one GLB file, as motions by name. */
  together: v.boolean(),
});
export type RunOutput = v.InferOutput<typeof runOutputSchema>;
export const DEFAULT_OUTPUT: RunOutput = v.parse(runOutputSchema, {
  format: null,
  title: null,
  fps: null,
  inPlace: null,
  pattern: DEFAULT_PATTERN,
  together: false,
});

const limitsFault = (limits: FigureLimits): string | undefined =>
  FIGURE_IDS.map((id) => limits[id] && limitFault(id, limits[id])).find((fault) => fault !== undefined);

/** Limits that a person sets for the production, by figure; the program's own hold where nothing is set. */
const thresholdsSchema = v.object({ good: finite, fault: finite });
export const productionLimitsSchema = v.pipe(
  v.record(v.picklist(FIGURE_IDS), thresholdsSchema),
  v.check(
    (limits) => limitsFault(limits) === undefined,
    (issue) => limitsFault(issue.input as FigureLimits) ?? 'the limits contradict each other',
  ),
);
export type ProductionLimits = v.InferOutput<typeof productionLimitsSchema>;
/** The limits as a row; version 0 where none were ever set. */
export const limitsSchema = v.object({ version: count, limits: productionLimitsSchema });
export type LimitsJson = v.InferOutput<typeof limitsSchema>;
export const setLimitsSchema = v.object({ base: count, limits: productionLimitsSchema });
export type SetLimits = v.InferOutput<typeof setLimitsSchema>;

const someIds = (most: number) => v.pipe(v.array(idSchema), v.maxLength(most));
const ids = (most: number) => v.pipe(someIds(most), v.minLength(1, 'choose at least one'));
export const startRunSchema = v.pipe(
  v.object({
    name: nameSchema,
    takes: someIds(LIMITS.takesAtOnce),
    characters: someIds(500),
    /** Every lane of these that is on and has a clip becomes a file. */
    reels: v.optional(someIds(LIMITS.sets), []),
    output: runOutputSchema,
  }),
  v.check(
    ({ takes, characters, reels }) => reels.length > 0 || (takes.length > 0 && characters.length > 0),
    'choose a take and a character, or a reel',
  ),
  v.check(({ takes, characters }) => takes.length * characters.length <= MOST_ITEMS, `at most ${MOST_ITEMS} transfers in one run`),
);
export type StartRun = v.InferOutput<typeof startRunSchema>;

/** Takes and characters of a run that is being put together, and how many transfers it would have; pairs that do not go together are left out. */
export const countPairsSchema = v.object({ takes: ids(LIMITS.takesAtOnce), characters: ids(500) });
export type CountPairs = v.InferOutput<typeof countPairsSchema>;
export const pairCountSchema = v.object({ transfers: count, left: count });
export type PairCount = v.InferOutput<typeof pairCountSchema>;

export const ITEM_STATES = ['waiting', 'working', 'done', 'failed', 'cancelled'] as const;
export type ItemState = (typeof ITEM_STATES)[number];
export const RUN_STATES = ['going', 'paused', 'cancelled'] as const;

export const runSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  state: v.picklist(RUN_STATES),
  output: runOutputSchema,
  /** Items by state. */
  waiting: count,
  working: count,
  done: count,
  failed: count,
  cancelled: count,
  /** Seconds of work that the items done so far took, together. */
  spent: finite,
  startedAt: v.string(),
});
export type RunJson = v.InferOutput<typeof runSchema>;

export const REVIEWS = ['none', 'accepted', 'returned'] as const;
export const runItemSchema = v.object({
  id: idSchema,
  version: versionNumber,
  run: idSchema,
  take: idSchema,
  character: idSchema,
  /** A lane of a reel; its take is then the first that it plays. Null for a take on a character. */
  lane: v.nullable(v.object({ reel: idSchema, index: count })),
  /** Of a lane: the reel's name and its own. */
  takeName: text(2 * LIMITS.name),
  characterName: text(LIMITS.name),
  tags: v.array(text(LIMITS.tag)),
  state: v.picklist(ITEM_STATES),
  fault: v.nullable(faultSchema),
  summary: v.nullable(summarySchema),
  /** Without its ending, which the format tells once it is written. */
  fileName: text(200),
  format: v.nullable(v.picklist(['bvh', 'glb'])),
  bytes: v.nullable(count),
  /** Keys left, as a share of all, and what hands, feet and head are off for it, millimetres. */
  reduced: v.nullable(v.object({ share: finite, worst: finite })),
  seconds: v.nullable(finite),
  review: v.picklist(REVIEWS),
  note: text(LIMITS.note),
});
export type RunItemJson = v.InferOutput<typeof runItemSchema>;

export const runItemsSchema = v.object({ run: runSchema, items: v.array(runItemSchema), total: count });
export type RunItemsJson = v.InferOutput<typeof runItemsSchema>;

export const changeRunItemSchema = v.object({
  base: versionNumber,
  review: v.optional(v.picklist(REVIEWS)),
  note: v.optional(text(LIMITS.note)),
});
export type ChangeRunItem = v.InferOutput<typeof changeRunItemSchema>;

export const RUN_ACTS = ['pause', 'resume', 'cancel', 'retry'] as const;
export type RunAct = (typeof RUN_ACTS)[number];

/** Progress of runs, one server-sent event each. */
export const runEventSchema = v.variant('kind', [
  v.object({ kind: v.literal('run'), run: runSchema }),
  v.object({ kind: v.literal('item'), item: runItemSchema }),
]);
export type RunEvent = v.InferOutput<typeof runEventSchema>;

/** Ways of writing files, kept by name. */
export const presetSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  output: runOutputSchema,
  addedAt: v.string(),
});
export type PresetJson = v.InferOutput<typeof presetSchema>;
export const savePresetSchema = v.object({ name: nameSchema, output: runOutputSchema });
export type SavePreset = v.InferOutput<typeof savePresetSchema>;

/** A figure as it is kept with a run's item. */
export const figureSchema = v.object({
  id: v.picklist(FIGURE_IDS),
  name: text(60),
  unit: text(20),
  value: v.nullable(finite),
  performer: v.nullable(finite),
  mark: v.picklist(['good', 'caution', 'fault', 'unseen']),
  limit: thresholdsSchema,
  looked: text(400),
  words: text(1000),
  frame: v.nullable(count),
});
export type FigureJson = v.InferOutput<typeof figureSchema>;

const samples = v.pipe(v.array(finite), v.maxLength(4000));
/** Pictures and series of a check sheet, beside its figures. */
export const lookedSchema = v.object({
  series: v.pipe(v.array(v.object({ name: text(60), unit: text(10), theirs: samples, mine: samples })), v.maxLength(20)),
  pictures: v.pipe(v.array(v.object({ figure: text(60), frame: count, theirs: samples, mine: samples })), v.maxLength(10)),
  every: finite,
});

/** The stored report of an item: the judge's figures of the file, and of the plain transfer. */
export const reportSchema = v.object({
  frames: count,
  fps: finite,
  figures: v.array(figureSchema),
  plain: v.array(figureSchema),
  cautions: v.pipe(v.array(faultSchema), v.maxLength(500)),
  /** How the file was written: name of the motion in it, metres of its unit, its axis that points up. */
  written: v.object({ motion: text(LIMITS.name), unit: finite, up: text(10) }),
  looked: v.nullable(lookedSchema),
});
export type ReportJson = v.InferOutput<typeof reportSchema>;

/** One item with its whole report; null where it has none yet. */
export const itemWholeSchema = v.object({ item: runItemSchema, report: v.nullable(reportSchema) });
export type ItemWhole = v.InferOutput<typeof itemWholeSchema>;

export const runListSchema = v.object({ runs: v.array(runSchema), outFolder: v.boolean() });
export type RunList = v.InferOutput<typeof runListSchema>;
