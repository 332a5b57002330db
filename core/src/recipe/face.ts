/** Decisions about a face: where a recording lies in a take, and which of its channels drive which shapes of a character. */
import * as v from 'valibot';
import { fail } from '../errors';

const finite = v.pipe(v.number(), v.finite());
const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));
const name = v.pipe(v.string(), v.minLength(1), v.maxLength(400));

/** A recording that belongs to a take: its name or, on the rack, its id; and where its own second 0 lies in the take's own seconds. */
const recordingSchema = v.object({
  recording: v.pipe(v.string(), v.minLength(1), v.maxLength(400)),
  offset: v.optional(within(-1e6, 1e6), 0),
});

/** The recording that is in the take's own file. */
export const OWN_FACE = 'take';

export const takeFaceSchema = v.object({
  ...recordingSchema.entries,
  /** Frames a second that it was recorded at, where its file says none or a wrong one; null believes the file. */
  rate: v.optional(v.nullable(within(1, 1000)), null),
  /** Spikes of single frames are taken out; cut-off of a low-pass, Hz, null leaves it as it is. */
  spikes: v.optional(v.boolean(), false),
  smooth: v.optional(v.nullable(within(0.1, 200)), null),
});
export type TakeFace = v.InferOutput<typeof takeFaceSchema>;
/** A recording laid at a take as it was recorded. @param offset second of the take at its own second 0 */
export function makeTakeFace(recording: string, offset = 0): TakeFace {
  return v.parse(takeFaceSchema, { recording, offset });
}

export const takeSoundSchema = recordingSchema;
export type TakeSound = v.InferOutput<typeof takeSoundSchema>;

/** Channels and their shares; none leaves the shape at its rest. */
const fromSchema = v.pipe(v.array(v.object({ channel: name, weight: v.optional(within(-10, 10), 1) })), v.maxLength(16));
export type FaceSource = v.InferOutput<typeof fromSchema>[number];

/** Points of a curve of response, by rising input; straight between them, and on as between the last two. */
const curveSchema = v.pipe(
  v.array(v.tuple([within(-10, 10), within(-10, 10)])),
  v.minLength(2),
  v.maxLength(16),
  v.check((points) => points.every(([x], i) => i === 0 || x > points[i - 1][0]), 'the points of a curve rise from left to right'),
);
export type ResponseCurve = v.InferOutput<typeof curveSchema>;

/** How a sum of channels becomes a value: offset, strength, curve, rest, limits. */
const responseEntries = {
  /** Null: the channels that are proposed. */
  from: v.optional(v.nullable(fromSchema), null),
  /** Added to the sum before anything else: what takes a recorded mouth that rests at 0.06 to 0. */
  offset: v.optional(within(-10, 10), 0),
  strength: v.optional(within(-10, 10), 1),
  curve: v.optional(v.nullable(curveSchema), null),
  /** Value where the recording is at nothing: a jaw that closes only at −0.05. */
  rest: v.optional(within(-10, 10), 0),
  low: v.optional(within(-10, 10), 0),
  high: v.optional(within(-10, 10), 1),
};
const NO_RANGE = 'the lower limit lies above the upper one';

export const faceRowSchema = v.pipe(
  v.object(responseEntries),
  v.check(({ low, high }) => low <= high, NO_RANGE),
);
export type FaceRow = v.InferOutput<typeof faceRowSchema>;
export const DEFAULT_FACE_ROW: FaceRow = v.parse(faceRowSchema, {});

/** A turn of a joint by channels: an eye, a jaw. */
export const faceTurnSchema = v.pipe(
  v.object({
    ...responseEntries,
    from: fromSchema,
    /** Turn at 1 as a rotation vector: degrees about the body's left, the vertical and the way ahead, at rest. */
    degrees: v.tuple([within(-360, 360), within(-360, 360), within(-360, 360)]),
  }),
  v.check(({ low, high }) => low <= high, NO_RANGE),
);
export type FaceTurn = v.InferOutput<typeof faceTurnSchema>;

/** Which recorded channel drives which face shapes of a character. */
export const nameTableSchema = v.object({
  /** Shapes that nobody set by hand are driven by the channels that their names speak for. */
  propose: v.optional(v.boolean(), true),
  /** Left and right of the recording exchanged. */
  exchange: v.optional(v.boolean(), false),
  /** By shape of the character: what was set by hand. */
  rows: v.optional(v.record(name, faceRowSchema), {}),
  /** By joint key of the character: turns by channels; null where nothing was set, an empty list leaves the joint to the body. */
  joints: v.optional(v.record(name, v.pipe(v.array(faceTurnSchema), v.maxLength(12))), {}),
});
export type NameTable = v.InferOutput<typeof nameTableSchema>;
export const DEFAULT_NAME_TABLE: NameTable = v.parse(nameTableSchema, {});

export const NAME_TABLE_FORMAT = 'hollow-stride/name-table';
/** A name table as a file. */
export const nameTableFileSchema = v.object({
  format: v.literal(NAME_TABLE_FORMAT),
  version: v.literal(1),
  name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120)),
  table: nameTableSchema,
});
const MAX_NAME_TABLE = 2 * 1024 * 1024;

/** Reads a name table from a file's text. @throws FaultError recipe/schema, saying which part is wrong and how */
export function parseNameTable(text: string, file?: string): { name: string; table: NameTable } {
  if (text.length > MAX_NAME_TABLE) fail('recipe/schema', 'the name table is larger than any can be', { file });
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    fail('recipe/schema', `this is no name table: it is not valid JSON (${(error as Error).message})`, { file });
  }
  const result = v.safeParse(nameTableFileSchema, json);
  if (result.success) return result.output;
  const [issue] = result.issues;
  const path = issue.path?.map(({ key }) => String(key)).join('.') ?? '';
  return fail('recipe/schema', `this is no name table: ${path === '' ? '' : `${path}: `}${issue.message}`, { file });
}

/** A name table as the text of a file. */
export function writeNameTable(name: string, table: NameTable): string {
  return `${JSON.stringify({ format: NAME_TABLE_FORMAT, version: 1, name, table }, null, 2)}\n`;
}
