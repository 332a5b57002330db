import {
  hashSchema,
  idSchema,
  LIMITS,
  nameSchema,
  namingSchemeSchema,
  productionLimitsSchema,
  runOutputSchema,
  skeletonChoicesSchema,
  skeletonSchema,
  solveChoicesSchema,
  summarySchema,
  tagsSchema,
  takeChoicesSchema,
  jointSchemeSchema,
  meshSchema,
  recordingFactsSchema,
  reelRowSchema,
  keptNameTableSchema,
  keptPoseSchema,
  touchUpSetSchema,
} from '@hollow-stride/contract';
import * as v from 'valibot';

export const BACKUP_FORMAT = 'hollow-stride/backup';
/** Where the list of what the archive holds stands in it; contents stand beside under `files/`. */
export const MANIFEST = 'rack.json';
/** SHA-256 of that list, in hexadecimal; contents are named by theirs. */
export const MANIFEST_HASH = 'rack.json.sha256';
export const contentPath = (hash: string): string => `files/${hash}`;

const MOST = 100_000;
const list = <S extends v.GenericSchema>(item: S) => v.pipe(v.array(item), v.maxLength(MOST));
const clip = v.pipe(v.number(), v.integer(), v.minValue(0));
/** A skeleton by its place in the list of skeletons. */
const skeletonIndex = v.pipe(v.number(), v.integer(), v.minValue(0));
/** A take by its file's content and the motion in it. */
const takeKey = { file: hashSchema, clip };

/**
 * A whole rack as data. Nothing in it goes by the ids of the rack that it was taken from: takes and characters are named by their
 * content, so that bringing it in elsewhere doubles nothing.
 */
export const manifestSchema = v.object({
  format: v.literal(BACKUP_FORMAT),
  version: v.literal(1),
  files: list(v.object({ hash: hashSchema, name: v.pipe(v.string(), v.maxLength(400)), skeleton: skeletonIndex })),
  skeletons: list(
    v.object({
      name: nameSchema,
      choices: skeletonChoicesSchema,
      rests: skeletonSchema.entries.rests,
      reference: v.nullable(v.object(takeKey)),
    }),
  ),
  takes: list(
    v.object({
      ...takeKey,
      /** On the rack that it was taken from: touch-ups of one take name it. */
      id: v.optional(idSchema),
      name: nameSchema,
      tags: tagsSchema,
      note: v.pipe(v.string(), v.maxLength(LIMITS.note)),
      choices: v.nullable(takeChoicesSchema),
      isDemo: v.boolean(),
    }),
  ),
  characters: list(v.object({ file: hashSchema, name: nameSchema, isDemo: v.boolean() })),
  pairings: list(v.object({ performer: skeletonIndex, character: hashSchema, name: nameSchema, choices: solveChoicesSchema })),
  transfers: list(
    v.object({
      take: v.object(takeKey),
      performer: skeletonIndex,
      character: hashSchema,
      name: nameSchema,
      choices: solveChoicesSchema,
      summary: summarySchema,
    }),
  ),
  schemes: list(namingSchemeSchema),
  versions: v.optional(
    list(v.object({ performer: skeletonIndex, character: hashSchema, name: nameSchema, choices: solveChoicesSchema })),
    [],
  ),
  sets: v.optional(list(v.object({ name: nameSchema, touchUps: touchUpSetSchema.entries.touchUps })), []),
  poses: v.optional(list(v.object({ name: nameSchema, pose: keptPoseSchema.entries.pose })), []),
  jointSchemes: v.optional(list(v.object({ name: nameSchema, byJoint: jointSchemeSchema.entries.byJoint })), []),
  reels: v.optional(list(v.object({ name: nameSchema, content: reelRowSchema.entries.content })), []),
  nameTables: v.optional(list(v.object({ name: nameSchema, table: keptNameTableSchema.entries.table })), []),
  /** Faces and sounds; their contents stand among the files. Takes name them by these. */
  recordings: v.optional(
    list(
      v.object({
        hash: hashSchema,
        name: nameSchema,
        fileName: v.pipe(v.string(), v.maxLength(400)),
        bytes: v.pipe(v.number(), v.integer(), v.minValue(0)),
        facts: recordingFactsSchema,
        isDemo: v.boolean(),
      }),
    ),
    [],
  ),
  /** Meshes that skeletons are fitted to; their contents stand among the files. */
  meshes: v.optional(
    list(
      v.object({
        hash: hashSchema,
        name: nameSchema,
        fileName: v.pipe(v.string(), v.maxLength(400)),
        bytes: v.pipe(v.number(), v.integer(), v.minValue(0)),
        choices: meshSchema.entries.choices,
        isDemo: v.boolean(),
      }),
    ),
    [],
  ),
  presets: v.optional(list(v.object({ name: nameSchema, output: runOutputSchema })), []),
  limits: v.optional(productionLimitsSchema, {}),
});
export type Manifest = v.InferOutput<typeof manifestSchema>;
