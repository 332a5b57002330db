import type {
  Fault,
  FitChoices,
  ByJoint,
  ReelContent,
  LayerPose,
  NameTable,
  NamingScheme,
  SavedRest,
  SkeletonChoices,
  TakeChoices,
  TouchUp,
} from '@hollow-stride/core';
import { boolean, index, integer, jsonb, pgTable, real, text, timestamp, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type {
  FactsJson,
  MeshFactsJson,
  RecordingFactsJson,
  ReportJson,
  RunOutput,
  SolveChoices,
  SummaryJson,
} from '@hollow-stride/contract';

/** Counted up by every edit of a row: an edit names the version that it was made from. */
const version = () => integer().notNull().default(1);

/** A skeleton that files stand on: what is decided about it holds for all of them. */
export const skeletons = pgTable(
  'skeletons',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    /** Names without prefix and structure, as a key; bone lengths in file units. */
    key: text().notNull(),
    lengths: jsonb().$type<number[]>().notNull(),
    choices: jsonb().$type<SkeletonChoices>().notNull(),
    rests: jsonb().$type<SavedRest[]>().notNull().default([]),
    /** The file that it is measured on, by content, and the clip in it: the first that was met. */
    referenceFile: text(),
    referenceClip: integer().notNull().default(0),
    version: version(),
    addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  },
  (table) => [index('skeletons_key').on(table.key)],
);

/** Values that the server stores, by name. */
export const settings = pgTable('settings', {
  name: text().primaryKey(),
  version: version(),
  value: jsonb().notNull(),
});

/** A naming scheme kept by a person. */
export const schemes = pgTable('schemes', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  scheme: jsonb().$type<NamingScheme>().notNull(),
  version: version(),
  addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});

/** A file's content, kept once on disk under its SHA-256; what the core read from it stands beside. */
export const files = pgTable(
  'files',
  {
    hash: text().primaryKey(),
    name: text().notNull(),
    bytes: integer().notNull(),
    facts: jsonb().$type<FactsJson>().notNull(),
    /** Which reading of files the facts are of; older ones are read again at the next start. */
    factsVersion: integer().notNull().default(0),
    skeleton: uuid().references(() => skeletons.id, { onDelete: 'restrict' }),
    addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  },
  (table) => [index('files_skeleton').on(table.skeleton)],
);

/** One motion of a file. Removed items keep their row, so that removing can be undone. */
export const takes = pgTable(
  'takes',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    file: text()
      .notNull()
      .references(() => files.hash, { onDelete: 'restrict' }),
    clip: integer().notNull().default(0),
    tags: jsonb().$type<string[]>().notNull().default([]),
    note: text().notNull().default(''),
    choices: jsonb().$type<TakeChoices>(),
    /** Length of the motion, so that lists can be ordered by it. */
    seconds: real().notNull().default(0),
    isDemo: boolean().notNull().default(false),
    version: version(),
    addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp({ withTimezone: true }),
  },
  (table) => [uniqueIndex('takes_file_clip').on(table.file, table.clip), index('takes_added').on(table.addedAt)],
);

/** A skeleton, with or without mesh, that receives motion. */
export const characters = pgTable(
  'characters',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    file: text()
      .notNull()
      .references(() => files.hash, { onDelete: 'restrict' }),
    isDemo: boolean().notNull().default(false),
    version: version(),
    addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp({ withTimezone: true }),
  },
  (table) => [uniqueIndex('characters_file').on(table.file)],
);

/** One performer skeleton (that of a take's file) and one character, with the settings that carry takes across. */
export const pairings = pgTable(
  'pairings',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    performer: uuid()
      .notNull()
      .references(() => skeletons.id, { onDelete: 'restrict' }),
    character: uuid()
      .notNull()
      .references(() => characters.id, { onDelete: 'restrict' }),
    choices: jsonb().$type<SolveChoices>().notNull(),
    version: version(),
    changedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp({ withTimezone: true }),
  },
  (table) => [uniqueIndex('pairings_performer_character').on(table.performer, table.character)],
);

/** One take solved through one pairing, with its figures. */
export const transfers = pgTable(
  'transfers',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    take: uuid()
      .notNull()
      .references(() => takes.id, { onDelete: 'restrict' }),
    pairing: uuid()
      .notNull()
      .references(() => pairings.id, { onDelete: 'restrict' }),
    choices: jsonb().$type<SolveChoices>().notNull(),
    summary: jsonb().$type<SummaryJson>().notNull(),
    version: version(),
    changedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp({ withTimezone: true }),
  },
  (table) => [uniqueIndex('transfers_take_pairing').on(table.take, table.pairing), index('transfers_changed').on(table.changedAt)],
);

/** Settings of a pairing kept under a name. */
export const versions = pgTable(
  'versions',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    performer: uuid()
      .notNull()
      .references(() => skeletons.id, { onDelete: 'restrict' }),
    character: uuid()
      .notNull()
      .references(() => characters.id, { onDelete: 'restrict' }),
    choices: jsonb().$type<SolveChoices>().notNull(),
    version: version(),
    addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp({ withTimezone: true }),
  },
  (table) => [index('versions_pair').on(table.performer, table.character)],
);

/** Touch-ups kept under a name. */
export const sets = pgTable('touch_up_sets', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  touchUps: jsonb().$type<TouchUp[]>().notNull(),
  version: version(),
  addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});

/** Poses kept under a name. */
export const poses = pgTable('poses', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  pose: jsonb().$type<LayerPose>().notNull(),
  version: version(),
  addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});

/** Pairings joint by joint kept under a name. */
export const jointSchemes = pgTable('joint_schemes', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  byJoint: jsonb().$type<ByJoint>().notNull(),
  version: version(),
  addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});

/** Name tables of faces kept under a name. */
export const nameTables = pgTable('name_tables', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  table: jsonb().$type<NameTable>().notNull(),
  version: version(),
  addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});

/** A recording that belongs beside body takes: a face, or a sound. Its content is kept on disk as that of files is. */
export const recordings = pgTable(
  'recordings',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    /** SHA-256 of its content. */
    file: text().notNull(),
    fileName: text().notNull(),
    bytes: integer().notNull(),
    facts: jsonb().$type<RecordingFactsJson>().notNull(),
    isDemo: boolean().notNull().default(false),
    version: version(),
    addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp({ withTimezone: true }),
  },
  (table) => [uniqueIndex('recordings_file').on(table.file)],
);

/** Meshes that skeletons are fitted to. */
export const meshes = pgTable(
  'meshes',
  {
    id: uuid().primaryKey().defaultRandom(),
    name: text().notNull(),
    /** SHA-256 of its content. */
    file: text().notNull(),
    fileName: text().notNull(),
    bytes: integer().notNull(),
    facts: jsonb().$type<MeshFactsJson>().notNull(),
    choices: jsonb().$type<FitChoices>(),
    isDemo: boolean().notNull().default(false),
    version: version(),
    addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp({ withTimezone: true }),
  },
  (table) => [uniqueIndex('meshes_file').on(table.file)],
);

/** Clips of characters in time. */
export const reels = pgTable('reels', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  content: jsonb().$type<ReelContent>().notNull(),
  version: version(),
  addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});

/** Inputs of a run: decided once, so that it gives the same files however long it takes. */
export interface RunDecisions {
  readonly skeletons: Readonly<
    Record<string, { readonly choices: SkeletonChoices; readonly reference: { file: string; name: string; clip: number } | null }>
  >;
  /** Settings by performer's skeleton and character: `performer character`. */
  readonly pairings: Readonly<Record<string, SolveChoices>>;
  readonly takes: Readonly<
    Record<
      string,
      {
        readonly name: string;
        readonly file: string;
        readonly fileName: string;
        readonly clip: number;
        readonly skeleton: string;
        readonly choices: TakeChoices;
        /** The face recording that it plays; runs of older versions do not say. */
        readonly face?: { readonly file: string; readonly name: string };
        /** As the file has it. */
        readonly length: { readonly frames: number; readonly fps: number };
        /** False for a rig that is no body; runs of older versions do not say. */
        readonly isBody?: boolean;
      }
    >
  >;
  /** Reels by their ids; runs of older versions have none. */
  readonly reels?: Readonly<Record<string, { readonly name: string; readonly content: ReelContent }>>;
  readonly characters: Readonly<
    Record<
      string,
      { readonly name: string; readonly file: string; readonly fileName: string; readonly skeleton: string; readonly isBody?: boolean }
    >
  >;
}

/** A batch: takes × characters, and lanes of reels. */
export const runs = pgTable('runs', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  state: text({ enum: ['going', 'paused', 'cancelled'] })
    .notNull()
    .default('going'),
  output: jsonb().$type<RunOutput>().notNull(),
  decisions: jsonb().$type<RunDecisions>().notNull(),
  version: version(),
  startedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});

/** A lane of a reel in a run: which, and how it is called. */
export interface LaneItem {
  readonly reel: string;
  readonly index: number;
  readonly name: string;
}

/** One take on one character in a run, or one lane of a reel. */
export const runItems = pgTable(
  'run_items',
  {
    id: uuid().primaryKey().defaultRandom(),
    run: uuid()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
    take: uuid()
      .notNull()
      .references(() => takes.id, { onDelete: 'restrict' }),
    character: uuid()
      .notNull()
      .references(() => characters.id, { onDelete: 'restrict' }),
    /** Of a lane; the take is then the first that it plays. */
    lane: jsonb().$type<LaneItem>(),
    position: integer().notNull(),
    /** Higher comes first: what is on screen. */
    priority: integer().notNull().default(0),
    state: text({ enum: ['waiting', 'working', 'done', 'failed', 'cancelled'] })
      .notNull()
      .default('waiting'),
    /** Who works on it, and since when it was last heard of. */
    claimedBy: text(),
    beatAt: timestamp({ withTimezone: true }),
    /** All that the result depends on, as a SHA-256: what was solved with the same is not solved again. */
    input: text(),
    fault: jsonb().$type<Fault>(),
    summary: jsonb().$type<SummaryJson>(),
    report: jsonb().$type<ReportJson>(),
    reduced: jsonb().$type<{ share: number; worst: number }>(),
    fileName: text().notNull(),
    format: text({ enum: ['bvh', 'glb'] }),
    /** Content of the written file. */
    file: text(),
    bytes: integer(),
    seconds: real(),
    review: text({ enum: ['none', 'accepted', 'returned'] })
      .notNull()
      .default('none'),
    version: version(),
    note: text().notNull().default(''),
  },
  (table) => [
    index('run_items_run').on(table.run, table.position),
    index('run_items_state').on(table.state, table.priority),
    index('run_items_input').on(table.input),
  ],
);

/** Ways of writing files, kept by name. */
export const presets = pgTable('presets', {
  id: uuid().primaryKey().defaultRandom(),
  name: text().notNull(),
  output: jsonb().$type<RunOutput>().notNull(),
  version: version(),
  addedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp({ withTimezone: true }),
});
