import * as v from 'valibot';
import { FIGURE_IDS, LIMITS, verdictOf, type FigureLimits, type Thresholds } from '../judge';
import { FACE_FORMAT, faceTableSchema } from '../formats';
import { openingSchema, STREAM_FORMAT } from '../live';
import {
  LANDMARKS_FORMAT,
  landmarksFileSchema,
  NAME_TABLE_FORMAT,
  nameTableFileSchema,
  RECIPE_FORMAT,
  recipeSchema,
  REEL_FORMAT,
  reelSchema,
} from '../recipe';
import { PROGRAM } from '../version';
import type { SheetFigure, SheetItem } from './item';

/** Records delivered beside the files, as data that other programs can rely on. Frames count from 1 throughout. */

const text = v.string();
const finite = v.pipe(v.number(), v.finite());
const count = v.pipe(v.number(), v.integer(), v.minValue(0));
const frame = v.pipe(v.number(), v.integer(), v.minValue(1));
const sha256 = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/));
const mark = v.picklist(['good', 'caution', 'fault', 'unseen']);
const program = v.object({ name: v.literal(PROGRAM.name), version: text });
const when = v.pipe(v.string(), v.isoTimestamp());
const thresholds = v.object({ good: finite, fault: finite });

const figureRecord = v.object({
  id: v.picklist(FIGURE_IDS),
  name: text,
  unit: text,
  /** Null where there was nothing to look at: `seen` says so. */
  value: v.nullable(finite),
  performer: v.nullable(finite),
  plain: v.nullable(finite),
  mark,
  /** The limits that it was marked by. */
  good: finite,
  fault: finite,
  /** True where more is better. */
  rising: v.boolean(),
  frame: v.nullable(frame),
  looked: text,
  seen: text,
});

export const CHECK_SHEET_FORMAT = 'hollow-stride/check-sheet';
/** A check sheet as data. */
export const checkSheetSchema = v.object({
  format: v.literal(CHECK_SHEET_FORMAT),
  version: v.literal(1),
  program,
  madeAt: when,
  title: text,
  verdict: mark,
  items: v.array(
    v.object({
      take: text,
      character: text,
      file: text,
      firstFrame: v.literal(1),
      frames: count,
      fps: finite,
      verdict: mark,
      figures: v.array(figureRecord),
      cautions: v.array(text),
      review: text,
      note: text,
    }),
  ),
});
export type CheckSheetRecord = v.InferOutput<typeof checkSheetSchema>;

/** A file that something was made from. */
const source = v.object({
  role: v.picklist(['take', 'character', 'take reference', 'character reference']),
  name: text,
  sha256,
  bytes: count,
});

export const DELIVERY_FORMAT = 'hollow-stride/delivery';
/** Manifest of a run. */
export const deliverySchema = v.object({
  format: v.literal(DELIVERY_FORMAT),
  version: v.literal(1),
  program,
  madeAt: when,
  /** Its id and start are null for a run of the command line. */
  run: v.object({ id: v.nullable(text), name: text, startedAt: v.nullable(when) }),
  /** How the files were asked for. */
  output: v.record(text, v.unknown()),
  /** Limits by figure; those that are relative to a performer stand with each figure of the check sheet. */
  limits: v.record(v.picklist(FIGURE_IDS), thresholds),
  verdict: mark,
  items: v.array(
    v.object({
      take: text,
      character: text,
      state: text,
      sources: v.array(source),
      file: v.nullable(
        v.object({
          path: text,
          /** Of the whole file; null where several motions were put into one, which is listed under `joined`. */
          sha256: v.nullable(sha256),
          bytes: v.nullable(count),
          format: v.picklist(['bvh', 'glb']),
          /** Name of the motion in the file. */
          motion: text,
          firstFrame: frame,
          lastFrame: frame,
          frames: count,
          fps: finite,
          /** Metres of the file's unit, and its axis that points up. */
          unit: finite,
          up: text,
        }),
      ),
      recipe: v.nullable(text),
      verdict: v.nullable(mark),
      faults: v.nullable(count),
      cautions: v.nullable(count),
      worst: v.nullable(text),
      reduced: v.nullable(v.object({ share: finite, worst: finite })),
      review: text,
      note: text,
      fault: v.nullable(text),
    }),
  ),
  /** Files that hold the motions of several items. */
  joined: v.array(v.object({ path: text, sha256, bytes: count, motions: v.array(text) })),
});
export type DeliveryRecord = v.InferOutput<typeof deliverySchema>;

/** Every kind of record, by its format. */
export const RECORD_SCHEMAS = {
  [CHECK_SHEET_FORMAT]: checkSheetSchema,
  [DELIVERY_FORMAT]: deliverySchema,
  [RECIPE_FORMAT]: recipeSchema,
  [REEL_FORMAT]: reelSchema,
  [NAME_TABLE_FORMAT]: nameTableFileSchema,
  [LANDMARKS_FORMAT]: landmarksFileSchema,
  [FACE_FORMAT]: faceTableSchema,
  [STREAM_FORMAT]: openingSchema,
} as const;

/** The limits of all figures: those that were set, and the program's own. */
export function limitsInForce(limits: FigureLimits): Record<string, Thresholds> {
  return Object.fromEntries(FIGURE_IDS.map((id) => [id, limits[id] ?? { good: LIMITS[id].good, fault: LIMITS[id].fault }]));
}

/** A figure as records have it. */
export function figureRecordOf(
  { id, name, unit, value, performer, mark: own, limit, looked, words, frame: worst }: SheetFigure,
  plain: readonly SheetFigure[],
): CheckSheetRecord['items'][number]['figures'][number] {
  return {
    id,
    name,
    unit,
    value,
    performer,
    plain: plain.find((other) => other.id === id)?.value ?? null,
    mark: own,
    good: limit.good,
    fault: limit.fault,
    rising: limit.good > limit.fault,
    frame: worst === null ? null : worst + 1,
    looked,
    seen: words,
  };
}

/** Check sheets as a record. @param madeAt ISO time */
export function checkSheetRecord(title: string, items: readonly SheetItem[], madeAt: string): CheckSheetRecord {
  const records = items.map(({ take, character, fileName, frames, fps, figures, plain, cautions, review, note }) => ({
    take,
    character,
    file: fileName,
    firstFrame: 1 as const,
    frames,
    fps: rateOf(fps),
    verdict: verdictOf(figures),
    figures: figures.map((figure) => figureRecordOf(figure, plain)),
    cautions: [...cautions],
    review,
    note,
  }));
  return {
    format: CHECK_SHEET_FORMAT,
    version: 1,
    program: PROGRAM,
    madeAt,
    title,
    verdict: worstVerdict(records),
    items: records,
  };
}

/** The worst of several verdicts. */
export function worstVerdict(items: readonly { readonly verdict: DeliveryRecord['verdict'] | null }[]): DeliveryRecord['verdict'] {
  return verdictOf(items.flatMap(({ verdict }) => (verdict === null ? [] : [{ mark: verdict }])));
}

/** A rate as records have it: a thousandth of a frame a second is beyond what any program tells apart. */
export const rateOf = (fps: number): number => Number(fps.toFixed(3));
