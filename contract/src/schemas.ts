import * as v from 'valibot';

/** Limits that both sides hold to. */
export const LIMITS = {
  name: 120,
  fileBytes: 256 * 1024 * 1024,
  filesAtOnce: 20,
  rackItems: 5000,
} as const;

const text = (max: number) => v.pipe(v.string(), v.maxLength(max));
export const idSchema = v.pipe(v.string(), v.uuid());
export const hashSchema = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'must be a SHA-256 in hexadecimal'));
export const nameSchema = v.pipe(
  v.string(),
  v.trim(),
  v.minLength(1, 'a name is needed'),
  v.maxLength(LIMITS.name, `at most ${LIMITS.name} characters`),
);

/** A fault as it crosses the border: the same shape as in the core. */
export const faultSchema = v.object({
  code: text(60),
  message: text(2000),
  where: v.object({
    file: v.optional(text(400)),
    line: v.optional(v.number()),
    joint: v.optional(text(400)),
    frame: v.optional(v.number()),
  }),
});
export const errorSchema = v.object({ error: faultSchema });
export type ErrorBody = v.InferOutput<typeof errorSchema>;

const finite = v.pipe(v.number(), v.finite());
const count = v.pipe(v.number(), v.integer(), v.minValue(0));

export const bodyFactsSchema = v.object({
  unit: v.object({ unit: text(10), metres: finite, reason: text(300) }),
  up: v.object({ axis: v.picklist(['+X', '-X', '+Y', '-Y', '+Z', '-Z']), reason: text(300) }),
  facing: finite,
  rest: v.object({
    source: v.picklist(['file', 'frame']),
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

/** What is known of a file; stored beside it and shown on the rack. */
export const factsSchema = v.object({
  format: v.picklist(['bvh', 'glb']),
  joints: count,
  hasMesh: v.boolean(),
  prefix: text(400),
  clips: v.array(v.object({ name: text(400), frames: count, fps: finite, seconds: finite })),
  body: v.optional(bodyFactsSchema),
  labels: v.optional(labelFactsSchema),
  warnings: v.array(faultSchema),
});
export type FactsJson = v.InferOutput<typeof factsSchema>;

export const takeSchema = v.object({
  id: idSchema,
  name: nameSchema,
  file: hashSchema,
  fileName: text(400),
  bytes: count,
  clip: count,
  facts: factsSchema,
  isDemo: v.boolean(),
  addedAt: v.string(),
});
export type TakeJson = v.InferOutput<typeof takeSchema>;

export const characterSchema = v.object({
  id: idSchema,
  name: nameSchema,
  file: hashSchema,
  fileName: text(400),
  bytes: count,
  facts: factsSchema,
  isDemo: v.boolean(),
  addedAt: v.string(),
});
export type CharacterJson = v.InferOutput<typeof characterSchema>;

/** What a person sets of a pairing and a solve. */
export const solveChoicesSchema = v.object({
  stride: v.union([v.picklist(['legs', 'marks']), v.pipe(finite, v.minValue(0.05), v.maxValue(20))]),
  lift: v.union([v.literal('hips'), v.pipe(finite, v.minValue(0.05), v.maxValue(20))]),
  clavicles: v.picklist(['keep', 'match']),
  head: v.picklist(['keep', 'match']),
  floor: v.picklist(['take', 'zero']),
  inPlace: v.boolean(),
  fps: v.nullable(v.pipe(finite, v.minValue(1), v.maxValue(480))),
});
export type SolveChoices = v.InferOutput<typeof solveChoicesSchema>;

/** The few figures that are kept with a transfer, for lists. */
export const summarySchema = v.object({
  slide: finite,
  worstSlide: finite,
  sink: finite,
  float: finite,
  armLikeness: finite,
  legLikeness: finite,
  pop: finite,
  flips: count,
  plainSlide: finite,
  plainSink: finite,
  frames: count,
  plants: count,
});
export type SummaryJson = v.InferOutput<typeof summarySchema>;

export const pairingSchema = v.object({
  id: idSchema,
  name: nameSchema,
  takeFile: hashSchema,
  character: idSchema,
  choices: solveChoicesSchema,
  changedAt: v.string(),
});
export type PairingJson = v.InferOutput<typeof pairingSchema>;

export const transferSchema = v.object({
  id: idSchema,
  name: nameSchema,
  take: idSchema,
  pairing: idSchema,
  character: idSchema,
  choices: solveChoicesSchema,
  summary: summarySchema,
  changedAt: v.string(),
});
export type TransferJson = v.InferOutput<typeof transferSchema>;

export const rackSchema = v.object({
  takes: v.array(takeSchema),
  characters: v.array(characterSchema),
  transfers: v.array(transferSchema),
  pairings: v.array(pairingSchema),
});
export type RackJson = v.InferOutput<typeof rackSchema>;

/** Request bodies. */
export const changeItemSchema = v.pipe(
  v.object({ name: v.optional(nameSchema), removed: v.optional(v.boolean()) }),
  v.check((change) => change.name !== undefined || change.removed !== undefined, 'nothing to change'),
);
export type ChangeItem = v.InferOutput<typeof changeItemSchema>;
export const saveTransferSchema = v.object({ take: idSchema, character: idSchema, choices: solveChoicesSchema, summary: summarySchema });
export type SaveTransfer = v.InferOutput<typeof saveTransferSchema>;

/** What an upload gave: for each file what came of it. */
export const uploadSchema = v.object({
  files: v.array(
    v.object({
      fileName: text(400),
      known: v.boolean(),
      takes: v.array(takeSchema),
      characters: v.array(characterSchema),
      error: v.optional(faultSchema),
    }),
  ),
});
export type UploadJson = v.InferOutput<typeof uploadSchema>;

export const ITEM_KINDS = ['takes', 'characters', 'transfers', 'pairings'] as const;
export type ItemKind = (typeof ITEM_KINDS)[number];
