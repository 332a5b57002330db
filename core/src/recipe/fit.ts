/** Decisions about a skeleton that is fitted to a mesh: how the mesh stands, its landmarks, the skeleton's detail, what moves what. */
import * as v from 'valibot';
import { fail } from '../errors';
import { UP_AXES } from '../skeleton';

const finite = v.pipe(v.number(), v.finite());
const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));
/** Metres; no mesh that a person fits is so large. */
const coordinate = within(-1000, 1000);
const placeSchema = v.tuple([coordinate, coordinate, coordinate]);
const nameSchema = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const MARK = /^(crown|chin|neck|(left|right)\.(shoulder|elbow|wrist|fingertip|hip|knee|hock|ankle|ball|toe))$/;
const markSchema = v.pipe(v.string(), v.regex(MARK, 'is no landmark'));

/** How the space of a file lies: metres per unit, the axis that points up, and quarter turns to the left after that. */
export const standSchema = v.object({
  metres: within(1e-6, 1e6),
  up: v.picklist(UP_AXES),
  quarter: v.optional(v.picklist([0, 1, 2, 3]), 0),
});
export type Stand = v.InferOutput<typeof standSchema>;

export const detailSchema = v.object({
  /** Fingers of a hand: none, thumb with two, all five. */
  fingers: v.optional(v.picklist([0, 3, 5]), 5),
  spine: v.optional(v.picklist([1, 2, 3, 4, 5]), 3),
  neck: v.optional(v.picklist([1, 2]), 1),
  /** Joints along upper arms, forearms and thighs that share their twist. */
  twists: v.optional(v.boolean(), false),
});
export type FitDetail = v.InferOutput<typeof detailSchema>;
export const DEFAULT_DETAIL: FitDetail = v.parse(detailSchema, {});

/** One stroke of the brush: weights of points near a place are evened out. */
export const strokeSchema = v.object({
  at: placeSchema,
  /** Metres. */
  radius: within(0.001, 2),
  strength: within(0, 1),
});
export type FitStroke = v.InferOutput<typeof strokeSchema>;
const MOST_STROKES = 2000;

export const fitSchema = v.object({
  /** Null: as it is guessed. */
  stand: v.optional(v.nullable(standSchema), null),
  /** What is set on one side holds on the other. */
  mirrored: v.optional(v.boolean(), true),
  /** Landmarks that a person set, metres in the body's frame; all others are found. */
  landmarks: v.optional(v.record(markSchema, placeSchema), {}),
  /** Null: as the shape says. */
  hocks: v.optional(v.nullable(v.boolean()), null),
  detail: v.optional(detailSchema, {}),
  /** `new`: a skeleton by the landmarks. `keep`: the skeleton that the file has, its points bound anew. */
  skeleton: v.optional(v.picklist(['new', 'keep']), 'new'),
  /** Pieces of the mesh that move whole with one joint: its name by the piece's. */
  whole: v.optional(v.record(nameSchema, nameSchema), {}),
  strokes: v.optional(v.pipe(v.array(strokeSchema), v.maxLength(MOST_STROKES)), []),
});
export type FitChoices = v.InferOutput<typeof fitSchema>;
export const DEFAULT_FIT: FitChoices = v.parse(fitSchema, {});

export const LANDMARKS_FORMAT = 'hollow-stride/landmarks';

/** A landmarks file: what one mesh was fitted by, for the next one. */
export const landmarksFileSchema = v.object({
  format: v.literal(LANDMARKS_FORMAT),
  version: v.literal(1),
  /** Of the body that they were set on, metres: another body's are scaled by it. */
  height: within(1e-3, 1000),
  mirrored: v.optional(v.boolean(), true),
  hocks: v.optional(v.boolean(), false),
  detail: v.optional(detailSchema, {}),
  /** Metres, Y up, front towards +Z, the floor at 0, the middle of the body at x = 0. */
  landmarks: v.record(markSchema, placeSchema),
});
export type LandmarksFile = v.InferOutput<typeof landmarksFileSchema>;

/** Reads a landmarks file. @throws FaultError fit/landmarks with what is wrong and where */
export function parseLandmarks(text: string, file?: string): LandmarksFile {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    fail('fit/landmarks', 'the landmarks are not valid JSON', file === undefined ? {} : { file });
  }
  const result = v.safeParse(landmarksFileSchema, json);
  if (result.success) return result.output;
  const issue = result.issues[0];
  const path = issue.path?.map(({ key }) => String(key)).join('.') ?? '';
  return fail(
    'fit/landmarks',
    `the landmarks file is not valid at ${path || 'its top'}: ${issue.message}`,
    file === undefined ? {} : { file },
  );
}
