import {
  namingSchemeSchema,
  pairingChoicesSchema,
  recipeSchema,
  savedRestSchema,
  skeletonChoicesSchema,
  solveChoicesSchema as solveDecisionsSchema,
  takeChoicesSchema,
  layerSchema,
  touchUpSchema,
  wellFormed,
} from '@hollow-stride/core';
import * as v from 'valibot';
import { count, faultSchema, finite, hashSchema, idSchema, LIMITS, nameSchema, text, versionNumber } from './base';
import { meshSchema } from './meshes';
import { recordingSchema } from './recordings';

export const bodyFactsSchema = v.object({
  unit: v.object({ unit: text(10), metres: finite, reason: text(300) }),
  up: v.object({ axis: v.picklist(['+X', '-X', '+Y', '-Y', '+Z', '-Z']), reason: text(300) }),
  facing: finite,
  rest: v.object({
    source: v.picklist(['file', 'frame', 'kept']),
    frame: v.nullable(count),
    score: finite,
    clean: v.boolean(),
    reason: text(300),
  }),
  legLength: finite,
  height: finite,
  sole: v.object({ depth: finite, known: text(10) }),
  floor: v.nullable(finite),
  footTrace: v.pipe(v.array(finite), v.maxLength(200)),
});

export const labelFactsSchema = v.object({
  roles: v.record(text(60), text(400)),
  confidence: v.record(text(60), finite),
  missing: v.array(text(60)),
  drawing: v.pipe(v.array(finite), v.maxLength(1000)),
});

export const clipFactsSchema = v.object({
  name: text(400),
  frames: count,
  fps: finite,
  seconds: finite,
  faults: v.pipe(
    v.array(
      v.object({
        kind: v.picklist(['rest', 'gap', 'repeat', 'spike', 'jump', 'drift']),
        from: count,
        to: count,
        joint: v.nullable(text(400)),
        message: text(400),
      }),
    ),
    v.maxLength(200),
  ),
  faceChannels: v.optional(count, 0),
});

/** Facts about a file; stored beside it and shown on the rack. */
export const factsSchema = v.object({
  format: v.picklist(['bvh', 'glb', 'vrm', 'acclaim']),
  labelled: v.picklist(['automatic', 'file', 'hand']),
  skeleton: v.object({ key: text(32), lengths: v.pipe(v.array(finite), v.maxLength(4096)) }),
  joints: count,
  hasMesh: v.boolean(),
  /** Face shapes of its meshes. */
  shapes: v.optional(v.pipe(v.array(text(400)), v.maxLength(4000)), []),
  prefix: text(400),
  clips: v.pipe(v.array(clipFactsSchema), v.maxLength(1000)),
  body: v.optional(bodyFactsSchema),
  labels: v.optional(labelFactsSchema),
  warnings: v.pipe(v.array(faultSchema), v.maxLength(200)),
});
export type FactsJson = v.InferOutput<typeof factsSchema>;

const tagSchema = v.pipe(
  v.string(),
  v.transform((tag) => wellFormed(tag)),
  v.trim(),
  v.minLength(1),
  v.maxLength(LIMITS.tag),
);
export const tagsSchema = v.pipe(v.array(tagSchema), v.maxLength(LIMITS.tags, `at most ${LIMITS.tags} tags`));

/** A skeleton that takes or characters stand on: labelled once for all of them. */
export const skeletonSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  choices: skeletonChoicesSchema,
  /** Rest poses kept by name. */
  rests: v.pipe(v.array(savedRestSchema), v.maxLength(LIMITS.savedRests)),
  /** The file and clip that the skeleton is measured on, for all of its takes; null where none is left. */
  reference: v.nullable(v.object({ file: hashSchema, name: text(400), clip: count })),
});
export type SkeletonJson = v.InferOutput<typeof skeletonSchema>;

/** A naming scheme on the rack. */
export const schemeSchema = v.object({ id: idSchema, version: versionNumber, scheme: namingSchemeSchema, addedAt: v.string() });
export type SchemeJson = v.InferOutput<typeof schemeSchema>;

export const takeSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  file: hashSchema,
  fileName: text(400),
  bytes: count,
  clip: count,
  skeleton: idSchema,
  tags: tagsSchema,
  note: text(LIMITS.note),
  choices: takeChoicesSchema,
  facts: factsSchema,
  isDemo: v.boolean(),
  addedAt: v.string(),
});
export type TakeJson = v.InferOutput<typeof takeSchema>;

export const characterSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  file: hashSchema,
  fileName: text(400),
  bytes: count,
  skeleton: idSchema,
  facts: factsSchema,
  isDemo: v.boolean(),
  addedAt: v.string(),
});
export type CharacterJson = v.InferOutput<typeof characterSchema>;

/** Settings of a pairing and a solve. */
export const solveChoicesSchema = v.object({
  ...pairingChoicesSchema.entries,
  ...solveDecisionsSchema.entries,
  /** Touch-ups in the order in which they are laid on: of one take of the pairing, or of all (null). */
  touchUps: v.optional(v.pipe(v.array(v.object({ touchUp: touchUpSchema, take: v.nullable(idSchema) })), v.maxLength(1000)), []),
  /** Layers over the result, in their order: of one take of the pairing, or of all (null). */
  layers: v.optional(v.pipe(v.array(v.object({ layer: layerSchema, take: v.nullable(idSchema) })), v.maxLength(500)), []),
});
export type SolveChoices = v.InferOutput<typeof solveChoicesSchema>;

/** The judge's verdict on a transfer, as far as lists need it. */
export const summarySchema = v.object({
  frames: count,
  /** Figures by their mark. */
  good: count,
  cautions: count,
  faults: count,
  unseen: count,
  /** The worst of them in words; empty where all is well. */
  worst: text(600),
  /** Value of each figure by its name in the code; null where there was nothing to look at. */
  figures: v.record(text(40), v.nullable(finite)),
  /** The mark of each, and its worst frame from 0 where it has one; older summaries have none. */
  marks: v.optional(v.record(text(40), v.picklist(['good', 'caution', 'fault', 'unseen']))),
  frameOf: v.optional(v.record(text(40), count)),
});
export type SummaryJson = v.InferOutput<typeof summarySchema>;

export const pairingSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  performer: idSchema,
  character: idSchema,
  choices: solveChoicesSchema,
  changedAt: v.string(),
});
export type PairingJson = v.InferOutput<typeof pairingSchema>;

export const transferSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  take: idSchema,
  pairing: idSchema,
  character: idSchema,
  choices: solveChoicesSchema,
  summary: summarySchema,
  changedAt: v.string(),
});
export type TransferJson = v.InferOutput<typeof transferSchema>;

export const TAKE_ORDERS = ['added', 'name', 'length'] as const;
export type TakeOrder = (typeof TAKE_ORDERS)[number];
/** Takes a page of a list holds. */
export const TAKES_PAGE = 60;

/** Which takes are listed, and in which order; all parts are optional. */
export const takeQuerySchema = v.object({
  text: v.optional(text(120), ''),
  tag: v.optional(text(LIMITS.tag), ''),
  order: v.optional(v.picklist(TAKE_ORDERS), 'added'),
  /** The skeleton that they stand on; empty for any. */
  skeleton: v.optional(v.union([v.literal(''), idSchema]), ''),
});
export type TakeQuery = v.InferOutput<typeof takeQuerySchema>;
/** Every take, as they came. */
export const ALL_TAKES: TakeQuery = { text: '', tag: '', order: 'added', skeleton: '' };

/** One page of a list of takes. */
export const takesPageSchema = v.object({
  takes: v.array(takeSchema),
  /** Takes that the query finds, by the skeleton that they stand on, in the order of the list. */
  groups: v.array(v.object({ skeleton: idSchema, count })),
  total: count,
  /** Takes on the rack, found or not. */
  all: count,
  /** Tags in use. */
  tags: v.array(v.string()),
});
export type TakesPage = v.InferOutput<typeof takesPageSchema>;

const takeIds = v.pipe(v.array(idSchema), v.minLength(1, 'choose at least one take'), v.maxLength(LIMITS.takesAtOnce));

/** One change for many takes. */
export const changeTakesSchema = v.object({
  takes: takeIds,
  change: v.variant('kind', [
    v.object({ kind: v.literal('tag'), tag: tagSchema }),
    v.object({ kind: v.literal('untag'), tag: tagSchema }),
    v.object({ kind: v.literal('remove') }),
    v.object({ kind: v.literal('restore') }),
    /** Rest poses at the start are left out, where a take has one and plays from its start; and played again. */
    v.object({ kind: v.literal('trim') }),
    v.object({ kind: v.literal('untrim') }),
    /** Gaps are filled and spikes taken out, where neither is; and left as recorded. */
    v.object({ kind: v.literal('clean') }),
    v.object({ kind: v.literal('unclean') }),
    /** Frames a second that they were recorded at, where the file is believed; and the file is believed again. */
    v.object({ kind: v.literal('rate'), rate: v.pipe(finite, v.minValue(1), v.maxValue(1000)) }),
    v.object({ kind: v.literal('unrate') }),
    /** They play from this second of their own on, where they play from their start and are long enough; `untrim` lets them again. */
    v.object({ kind: v.literal('start'), seconds: v.pipe(finite, v.minValue(0), v.maxValue(1e6)) }),
    /** They play the other way round; and once more. */
    v.object({ kind: v.literal('reverse') }),
    /** Their ends are drawn together in what is delivered, over so many seconds, where they are not; and left again. */
    v.object({ kind: v.literal('loop'), seconds: v.pipe(finite, v.minValue(0.01), v.maxValue(5)) }),
    v.object({ kind: v.literal('unloop') }),
  ]),
});
export type ChangeTakes = v.InferOutput<typeof changeTakesSchema>;
/** The takes that the change made different, so that it can be undone. */
export const changedTakesSchema = v.object({ takes: v.array(idSchema) });

/** The skeletons of these takes labelled by a naming scheme. */
export const labelTakesSchema = v.object({ takes: takeIds, scheme: idSchema });
export const labelledTakesSchema = v.object({
  skeletons: v.array(
    v.object({
      id: idSchema,
      name: v.string(),
      before: v.nullable(v.record(v.string(), v.string())),
      after: v.record(v.string(), v.string()),
    }),
  ),
  /** Skeletons that the scheme does not fit, or whose file cannot be read, with the reason. */
  passed: v.array(v.object({ name: v.string(), why: v.string() })),
});
export type LabelledTakes = v.InferOutput<typeof labelledTakesSchema>;

/** Request bodies. */
const notEmpty = <T extends { readonly base: number }>({ base: _, ...change }: T): boolean =>
  Object.values(change).some((value) => value !== undefined);
/** The version of the row that an edit was made from; null where there was no row yet. */
const base = versionNumber;
const baseOrNone = v.nullable(versionNumber);
export const changeItemSchema = v.pipe(
  v.object({ base, name: v.optional(nameSchema), removed: v.optional(v.boolean()) }),
  v.check(notEmpty, 'nothing to change'),
);
export type ChangeItem = v.InferOutput<typeof changeItemSchema>;

export const changeTakeSchema = v.pipe(
  v.object({ base, tags: v.optional(tagsSchema), note: v.optional(text(LIMITS.note)), choices: v.optional(takeChoicesSchema) }),
  v.check(notEmpty, 'nothing to change'),
);
export type ChangeTake = v.InferOutput<typeof changeTakeSchema>;

export const changeSkeletonSchema = v.pipe(
  v.object({
    base,
    name: v.optional(nameSchema),
    choices: v.optional(skeletonChoicesSchema),
    rests: v.optional(skeletonSchema.entries.rests),
  }),
  v.check(notEmpty, 'nothing to change'),
);
export type ChangeSkeleton = v.InferOutput<typeof changeSkeletonSchema>;

export const savePairingSchema = v.object({
  base: baseOrNone,
  performer: idSchema,
  character: idSchema,
  choices: solveChoicesSchema,
  name: v.optional(nameSchema),
});
export type SavePairing = v.InferOutput<typeof savePairingSchema>;

/** A result with the choices that it was solved by; it changes nothing of its pairing. */
export const saveTransferSchema = v.object({
  base: baseOrNone,
  take: idSchema,
  character: idSchema,
  choices: solveChoicesSchema,
  summary: summarySchema,
});
export type SaveTransfer = v.InferOutput<typeof saveTransferSchema>;

/** Result of an upload, file by file. */
export const uploadedSchema = v.object({
  fileName: text(400),
  known: v.boolean(),
  takes: v.array(takeSchema),
  characters: v.array(characterSchema),
  recordings: v.optional(v.array(recordingSchema), []),
  meshes: v.optional(v.array(meshSchema), []),
  error: v.optional(faultSchema),
});
export type Uploaded = v.InferOutput<typeof uploadedSchema>;
export const uploadSchema = v.object({
  files: v.array(uploadedSchema),
  /** Files of a folder or archive that are no takes and no characters. */
  ignored: v.array(text(1000)),
});
export type UploadJson = v.InferOutput<typeof uploadSchema>;

/** Progress of an upload while it is read: one JSON object a line. */
export const intakeEventSchema = v.variant('kind', [
  v.object({ kind: v.literal('reading'), fileName: text(400) }),
  v.object({ kind: v.literal('file'), file: uploadedSchema }),
  v.object({ kind: v.literal('end'), ignored: v.array(text(1000)) }),
  v.object({ kind: v.literal('failed'), fault: faultSchema }),
]);
export type IntakeEvent = v.InferOutput<typeof intakeEventSchema>;

export const ITEM_KINDS = [
  'takes',
  'characters',
  'transfers',
  'pairings',
  'schemes',
  'versions',
  'sets',
  'runs',
  'presets',
  'poses',
  'jointSchemes',
  'reels',
  'recordings',
  'meshes',
  'nameTables',
] as const;
export type ItemKind = (typeof ITEM_KINDS)[number];

export { recipeSchema, skeletonChoicesSchema, takeChoicesSchema, namingSchemeSchema };
